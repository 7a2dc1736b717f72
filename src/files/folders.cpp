#include "files/folders.h"

#include <cstdlib>
#include <sstream>
#include <sys/stat.h>

namespace cobbleway {
namespace fs = std::filesystem;
namespace {

fs::path xdgFolder(const char* variable, const char* underHome) {
    const char* named = std::getenv(variable);
    const char* home = std::getenv("HOME");
    if (named && *named == '/') return fs::path(named) / "cobbleway"; // others are to be ignored
    return home && *home ? fs::path(home) / underHome / "cobbleway" : fs::path();
}

void keepToOwner(const fs::path& folder) {
    std::error_code error;
    if (folder.empty() || !fs::is_directory(fs::symlink_status(folder, error)) || !makePrivateFolder(folder))
        return;
    for (fs::recursive_directory_iterator at(folder, fs::directory_options::skip_permission_denied, error),
         end;
         at != end && !error; at.increment(error)) {
        std::error_code ignored;
        const auto status = at->symlink_status(ignored);
        if (fs::is_directory(status))
            (void)makePrivateFolder(at->path());
        else if (fs::is_regular_file(status) && (status.permissions() & fs::perms(077)) != fs::perms::none)
            (void)chmod(at->path().c_str(), S_IRUSR | S_IWUSR);
    }
}

} // namespace

fs::path stateFolder() { return xdgFolder("XDG_STATE_HOME", ".local/state"); }
fs::path cacheFolder() { return xdgFolder("XDG_CACHE_HOME", ".cache"); }
fs::path configurationFolder() { return xdgFolder("XDG_CONFIG_HOME", ".config"); }

void keepToOwner() {
    for (const fs::path& folder : {stateFolder(), cacheFolder(), configurationFolder()}) keepToOwner(folder);
}

Result<Done> writePrivately(const fs::path& path, const std::string& text) {
    if (auto folder = makePrivateFolder(path.parent_path()); !folder) return folder;
    return writeFile(path, text, Readers::Owner);
}

std::vector<std::string> linesOf(const fs::path& path) {
    std::vector<std::string> lines;
    std::error_code error;
    if (path.empty() || !fs::exists(path, error)) return lines;
    const auto bytes = readFile(path);
    if (!bytes) return lines;
    std::istringstream text(std::string(bytes.value().begin(), bytes.value().end()));
    for (std::string line; std::getline(text, line);) lines.push_back(line);
    return lines;
}

} // namespace cobbleway
