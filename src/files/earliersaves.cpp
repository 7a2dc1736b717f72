#include "files/earliersaves.h"

#include "files/folders.h"
#include "midi/fingerprint.h"

#include <algorithm>
#include <sys/stat.h>

namespace cobbleway {
namespace fs = std::filesystem;
namespace {

/// A folder of its own for every set, by its place.
fs::path folderOf(const fs::path& path, const fs::path& state) {
    std::error_code error;
    const std::string whole = fs::weakly_canonical(path, error).string();
    Fingerprint print;
    print.add(std::span(reinterpret_cast<const std::uint8_t*>(whole.data()), whole.size()));
    return state / "earlier saves" / std::to_string(print.value());
}

fs::path copyIn(const fs::path& folder, int number) {
    return folder / (std::to_string(number) + projectEnding);
}

/// Makes room for the newest: 2 becomes 3, 1 becomes 2.
void moveOn(const fs::path& folder) {
    std::error_code ignored;
    for (int number = mostEarlierSaves - 1; number >= 1; --number)
        fs::rename(copyIn(folder, number), copyIn(folder, number + 1), ignored);
}

void keep(const std::vector<std::uint8_t>& old, fs::file_time_type time, const fs::path& folder) {
    if (!makePrivateFolder(folder.parent_path().parent_path()) || !makePrivateFolder(folder.parent_path()) ||
        !makePrivateFolder(folder))
        return;
    moveOn(folder);
    if (!writeFile(copyIn(folder, 1), old, Readers::Owner)) return;
    std::error_code ignored;
    fs::last_write_time(copyIn(folder, 1), time, ignored);
}

/// Of sets that were not saved for long nothing is kept.
void sweep(const fs::path& all) {
    constexpr std::size_t most = 40;
    std::vector<std::pair<fs::file_time_type, fs::path>> folders;
    std::error_code error;
    for (const auto& entry : fs::directory_iterator(all, error))
        if (entry.is_directory(error)) folders.emplace_back(entry.last_write_time(error), entry.path());
    std::sort(folders.begin(), folders.end());
    for (std::size_t i = 0; i + most < folders.size(); ++i) fs::remove_all(folders[i].second, error);
}

} // namespace

Result<Done> saveKeepingEarlier(const SongSet& set, const fs::path& path, const fs::path& state) {
    std::error_code error;
    const bool there = !state.empty() && fs::is_regular_file(path, error);
    const auto time = there ? fs::last_write_time(path, error) : fs::file_time_type();
    const auto old = there ? readFile(path) : Result<std::vector<std::uint8_t>>(Error{});
    auto saved = saveProject(set, path);
    if (!saved || !old) return saved;
    const auto now = readFile(path);
    if (!now || now.value() != old.value()) {
        keep(old.value(), time, folderOf(path, state));
        sweep(folderOf(path, state).parent_path());
    }
    return saved;
}

std::vector<EarlierSave> earlierSaves(const fs::path& path, const fs::path& state) {
    std::vector<EarlierSave> saves;
    if (state.empty()) return saves;
    for (int number = 1; number <= mostEarlierSaves; ++number) {
        const fs::path file = copyIn(folderOf(path, state), number);
        struct stat there {};
        if (stat(file.c_str(), &there) == 0)
            saves.push_back({file, std::chrono::system_clock::from_time_t(there.st_mtime)});
    }
    return saves;
}

} // namespace cobbleway
