#include "files/collectfiles.h"

#include "files/atomicfile.h"
#include "song/shape/pluginfiles.h"

#include <algorithm>

namespace cobbleway {
namespace fs = std::filesystem;
namespace {

bool isOfPlugin(const fs::path& path) {
    return std::any_of(path.begin(), path.end(),
                       [](const fs::path& step) { return step.extension() == ".lv2"; });
}

/// A name that nothing has there, or that has the same bytes: "kick.wav", "kick 2.wav", …
fs::path placeIn(const fs::path& folder, const fs::path& file, const FileMemory& memory) {
    std::error_code error;
    for (int number = 1;; ++number) {
        const std::string more = number == 1 ? "" : " " + std::to_string(number);
        fs::path place = folder / (file.stem().string() + more + file.extension().string());
        if (!fs::exists(place, error)) return place;
        const auto there = fileMemoryOf(place);
        if (there && there->size == memory.size && there->digest == memory.digest) return place;
    }
}

/// A whole file, of any size; nothing is left behind when that fails.
std::optional<Error> copyFile(const fs::path& from, const fs::path& to) {
    std::error_code error;
    if (fs::exists(to, error)) return std::nullopt; // the same
    fs::path half = to;
    half += ".part";
    fs::copy_file(from, half, fs::copy_options::overwrite_existing, error);
    if (!error) fs::rename(half, to, error);
    if (!error) return std::nullopt;
    std::error_code ignored;
    fs::remove(half, ignored);
    return Error{{"error.file-copy"}, from.string(), {"now.check-folder"}};
}

} // namespace

Result<Collected> collectFiles(SongSet set, const fs::path& project) {
    Collected made;
    made.folder = project.parent_path() / (project.stem().string() + " files");
    std::set<std::string> needed;
    for (const auto& song : set.songs) needed.merge(pluginFilesOf(*song));
    std::map<std::string, std::string> moved;
    for (const std::string& file : needed) {
        const fs::path path(file);
        if (isOfPlugin(path) || path.parent_path() == made.folder) continue;
        const auto memory = fileMemoryOf(path);
        if (!memory) {
            made.left.push_back({{"error.plugin-file-gone"}, file, {"now.choose-file"}});
            continue;
        }
        if (moved.empty())
            if (auto folder = makeFolder(made.folder); !folder) return folder.error();
        const fs::path place = placeIn(made.folder, path, *memory);
        if (auto refused = copyFile(path, place)) {
            made.left.push_back(*refused);
            continue;
        }
        moved[file] = place.string();
    }
    made.files = static_cast<int>(moved.size());
    if (!moved.empty())
        for (auto& song : set.songs)
            if (Song with = edits::movePluginFiles(*song, moved); !(with == *song)) song = std::move(with);
    made.set = std::move(set);
    return made;
}

} // namespace cobbleway
