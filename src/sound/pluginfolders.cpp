#include "sound/pluginfolders.h"

#include <algorithm>
#include <cstdlib>
#include <set>
#include <sstream>
#include <string>

namespace cobbleway {
namespace fs = std::filesystem;
namespace {

/// Where programs of this system look (the LV2 book's "standard places", and Debian's for one architecture).
std::vector<fs::path> usualFolders() {
    std::vector<fs::path> folders;
    if (const char* home = std::getenv("HOME")) folders.push_back(fs::path(home) / ".lv2");
    for (const char* place :
         {"/usr/local/lib/lv2", "/usr/lib/lv2", "/usr/lib/" COBBLEWAY_ARCHITECTURE "/lv2"})
        folders.emplace_back(place);
    return folders;
}

/// Whether the name can stand in a line of text, as those are that programs tell each other about bundles.
bool isPlain(const fs::path& bundle) {
    const std::string& name = bundle.native();
    return std::none_of(name.begin(), name.end(), [](unsigned char c) { return c < ' '; });
}

} // namespace

std::vector<fs::path> pluginFolders() {
    for (const char* variable : {"COBBLEWAY_LV2_PATH", "LV2_PATH"}) {
        const char* named = std::getenv(variable);
        if (!named) continue;
        std::vector<fs::path> folders;
        std::istringstream list(named);
        for (std::string folder; std::getline(list, folder, ':');)
            if (!folder.empty()) folders.emplace_back(folder);
        return folders;
    }
    return usualFolders();
}

std::vector<fs::path> pluginBundles() {
    std::vector<fs::path> bundles;
    std::set<fs::path> seen;
    for (const fs::path& folder : pluginFolders()) {
        if (!seen.insert(folder).second) continue;
        const auto first = static_cast<std::ptrdiff_t>(bundles.size());
        std::error_code error;
        for (fs::directory_iterator entry(folder, error), end; !error && entry != end; entry.increment(error))
            if (std::error_code none;
                isPlain(entry->path()) && fs::exists(entry->path() / "manifest.ttl", none))
                bundles.push_back(entry->path());
        std::sort(bundles.begin() + first, bundles.end());
    }
    return bundles;
}

} // namespace cobbleway
