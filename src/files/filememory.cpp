#include "files/filememory.h"

#include "midi/fingerprint.h"

#include <fstream>
#include <span>

namespace cobbleway {
namespace fs = std::filesystem;
namespace {

constexpr std::uint64_t pieceBytes = 65536;

void addPiece(Fingerprint& print, std::ifstream& file, std::uint64_t from, std::uint64_t count) {
    std::vector<std::uint8_t> bytes(count);
    file.seekg(static_cast<std::streamoff>(from));
    file.read(reinterpret_cast<char*>(bytes.data()), static_cast<std::streamsize>(count));
    print.add(std::span<const std::uint8_t>(bytes));
}

bool isSame(const FileMemory& remembered, const fs::path& path) {
    std::error_code error;
    if (!fs::is_regular_file(path, error) || fs::file_size(path, error) != remembered.size || error)
        return false;
    const auto now = fileMemoryOf(path);
    return now && now->digest == remembered.digest;
}

/// The files of a folder and those below by their names; none of the hidden ones.
std::multimap<std::string, fs::path> filesBelow(const fs::path& folder) {
    constexpr int deepest = 6, most = 20000;
    std::multimap<std::string, fs::path> files;
    std::error_code error;
    int seen = 0;
    for (fs::recursive_directory_iterator at(folder, fs::directory_options::skip_permission_denied, error),
         end;
         !error && at != end && ++seen <= most; at.increment(error)) {
        const std::string name = at->path().filename().string();
        std::error_code own;
        if (at->is_directory(own)) {
            if (at.depth() + 1 >= deepest || name.starts_with('.')) at.disable_recursion_pending();
        } else if (!name.starts_with('.')) {
            files.emplace(name, at->path());
        }
    }
    return files;
}

} // namespace

std::optional<FileMemory> fileMemoryOf(const fs::path& path) {
    std::error_code error;
    if (!fs::is_regular_file(path, error)) return std::nullopt; // nothing is waited for
    const std::uint64_t size = fs::file_size(path, error);
    std::ifstream file(path, std::ios::binary);
    if (error || !file) return std::nullopt;
    Fingerprint print;
    const std::uint64_t first = std::min(size, pieceBytes), last = std::min(size - first, pieceBytes);
    addPiece(print, file, 0, first);
    addPiece(print, file, size - last, last);
    if (!file) return std::nullopt;
    return FileMemory{path.string(), {}, size, print.value()};
}

std::map<std::string, std::string> movedFiles(const std::vector<FileMemory>& remembered,
                                              const fs::path& folder) {
    std::map<std::string, std::string> moved;
    std::optional<std::multimap<std::string, fs::path>> below;
    for (const FileMemory& file : remembered) {
        if (isSame(file, file.path)) continue;
        const fs::path beside = (folder / file.from).lexically_normal();
        if (!file.from.empty() && isSame(file, beside)) {
            moved[file.path] = beside.string();
            continue;
        }
        if (folder.empty()) continue;
        if (!below) below = filesBelow(folder);
        const auto [first, end] = below->equal_range(fs::path(file.path).filename().string());
        for (auto at = first; at != end && !moved.contains(file.path); ++at)
            if (isSame(file, at->second)) moved[file.path] = at->second.string();
    }
    return moved;
}

} // namespace cobbleway
