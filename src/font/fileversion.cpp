#include "font/fileversion.h"

namespace cobbleway {

std::string fileVersion(const std::filesystem::path& path) {
    std::error_code error;
    const auto time = std::filesystem::last_write_time(path, error).time_since_epoch().count();
    const auto size = std::filesystem::file_size(path, error);
    return path.string() + "\t" + std::to_string(error ? 0 : size) + "\t" + std::to_string(time);
}

} // namespace cobbleway
