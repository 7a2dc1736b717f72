#include "files/shipped.h"

#include <cstdlib>
#include <sstream>

namespace cobbleway {
namespace fs = std::filesystem;

fs::path shippedFile(const std::string& name) {
    std::error_code error;
    const char* named = std::getenv("COBBLEWAY_DATA");
    const fs::path program = fs::read_symlink("/proc/self/exe", error).parent_path();
    for (const fs::path& folder : {fs::path(named ? named : ""), program / "../share/cobbleway"}) {
        if (folder.empty()) continue;
        if (fs::exists(folder / name, error)) return fs::weakly_canonical(folder / name, error);
    }
    return {};
}

fs::path shippedPlugins() { return shippedFile("lv2/cobbleway.lv2/manifest.ttl").parent_path(); }

FontFolders defaultFontFolders() {
    FontFolders where{shippedFile("house.sf2"), {}, {}};
    const char* named = std::getenv("COBBLEWAY_FONT_PATH");
    if (!named) {
        where.folders = standardFontFolders();
        return where;
    }
    std::istringstream list(named);
    for (std::string folder; std::getline(list, folder, ':');)
        if (!folder.empty()) where.folders.emplace_back(folder);
    return where;
}

} // namespace cobbleway
