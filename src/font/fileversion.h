#pragma once
#include <filesystem>
#include <string>

namespace cobbleway {

/// A file as it is now: path, size in bytes and time of the last change, tabs between; another text after
/// every change. With a size of 0 where it is not there.
std::string fileVersion(const std::filesystem::path& path);

} // namespace cobbleway
