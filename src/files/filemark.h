#pragma once
#include <cstdint>
#include <filesystem>
#include <string>

namespace cobbleway {

/// By which a file is known again that was read or written: what fileVersion() says of it, and a digest of
/// its bytes (FNV-1a, 64 bits), since a copy that is put back has another time. Empty for none.
struct FileMark {
    std::string version;
    std::uint64_t digest = 0;
    bool operator==(const FileMark&) const = default;
};

/// Empty when there is no such file, or it cannot be read.
FileMark markOf(const std::filesystem::path& path);

/// Whether a file has other contents than it had then; a file that has gone, or of which nothing was known,
/// has not.
bool hasChanged(const std::filesystem::path& path, const FileMark& since);

} // namespace cobbleway
