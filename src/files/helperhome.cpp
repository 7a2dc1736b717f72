#include "files/helperhome.h"

#include "files/folders.h"

#include <cerrno>
#include <csignal>
#include <cstdlib>
#include <unistd.h>

namespace cobbleway {
namespace fs = std::filesystem;
namespace {

constexpr const char* start = "helper-home-";

void sweep(const fs::path& folder) {
    std::error_code error;
    for (const auto& entry : fs::directory_iterator(folder, error)) {
        const std::string name = entry.path().filename().string();
        if (!name.starts_with(start)) continue;
        const long owner = std::strtol(name.c_str() + std::string_view(start).size(), nullptr, 10);
        std::error_code ignored;
        if (owner > 0 && kill(static_cast<pid_t>(owner), 0) != 0 && errno == ESRCH)
            fs::remove_all(entry.path(), ignored);
    }
}

} // namespace

HelperHome::HelperHome() {
    fs::path folder = cacheFolder();
    if (folder.empty() || !makePrivateFolder(folder)) return;
    sweep(folder);
    std::string name = (folder / (start + std::to_string(getpid()) + "-XXXXXX")).string();
    if (!mkdtemp(name.data())) return; // 0700
    m_path = name;
    std::error_code ignored;
    if (const char* person = std::getenv("HOME"))
        fs::create_symlink(fs::path(person) / ".lv2", m_path / ".lv2", ignored);
}

HelperHome::~HelperHome() {
    std::error_code ignored;
    if (!m_path.empty()) fs::remove_all(m_path, ignored);
}

} // namespace cobbleway
