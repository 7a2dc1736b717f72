/// Files that a set needs beside it, known again where they have been moved.
#pragma once
#include <cstdint>
#include <filesystem>
#include <map>
#include <optional>
#include <string>
#include <vector>

namespace cobbleway {

/// By which a file is known again.
struct FileMemory {
    std::string path;         ///< whole
    std::string from;         ///< from the set's folder on, as it was saved; may be empty
    std::uint64_t size = 0;   ///< bytes
    std::uint64_t digest = 0; ///< FNV-1a, 64 bits, of its first and its last 65 536 bytes
    bool operator==(const FileMemory&) const = default;
};

/// None when there is no such file, or it cannot be read.
std::optional<FileMemory> fileMemoryOf(const std::filesystem::path& path);

/// Of files that are not where they were, or are others there: where they are now. Looked for as they lay
/// beside the set, then by name, size and digest in the set's folder and those below it (six deep, 20 000
/// entries). Those that are found nowhere are left out.
std::map<std::string, std::string> movedFiles(const std::vector<FileMemory>& remembered,
                                              const std::filesystem::path& folder);

} // namespace cobbleway
