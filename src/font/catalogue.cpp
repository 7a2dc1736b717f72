#include "font/catalogue.h"

#include <algorithm>
#include <cstdlib>
#include <set>

namespace cobbleway {
namespace fs = std::filesystem;
namespace {

bool isFontFile(const fs::path& path) {
    std::string ending = path.extension().string();
    std::transform(ending.begin(), ending.end(), ending.begin(),
                   [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    return ending == ".sf2" || ending == ".sf3";
}

std::vector<fs::path> fontFilesIn(const fs::path& folder) {
    std::vector<fs::path> files;
    std::error_code ignored;
    for (fs::directory_iterator at(folder, ignored), end; at != end; at.increment(ignored))
        if (isFontFile(at->path())) files.push_back(at->path());
    std::sort(files.begin(), files.end());
    return files;
}

} // namespace

Catalogue::Catalogue(std::vector<FontPtr> fonts, std::string defaultId)
    : m_fonts(std::move(fonts)), m_defaultId(std::move(defaultId)) {}

const SoundFont* Catalogue::font(const std::string& id) const {
    const auto at =
        std::find_if(m_fonts.begin(), m_fonts.end(), [&](const FontPtr& f) { return f->id == id; });
    return at == m_fonts.end() ? nullptr : at->get();
}

const SoundFont* Catalogue::defaultFont() const {
    if (const SoundFont* chosen = font(m_defaultId)) return chosen;
    return m_fonts.empty() ? nullptr : m_fonts.front().get();
}

std::vector<const SoundFont*> Catalogue::order() const {
    std::vector<const SoundFont*> order;
    if (const SoundFont* first = defaultFont()) order.push_back(first);
    const SoundFont* house = font(houseFontId);
    if (house && (order.empty() || order.front() != house)) order.push_back(house);
    return order;
}

const Preset* Catalogue::find(const SoundRef& sound) const {
    const SoundFont* in = font(sound.font);
    return in ? in->find(sound.bank, sound.program) : nullptr;
}

std::size_t Catalogue::soundCount() const {
    std::size_t count = 0;
    for (const FontPtr& f : m_fonts) count += f->presets.size();
    return count;
}

Catalogue Catalogue::withDefault(const std::string& id) const { return {m_fonts, id}; }

std::vector<fs::path> standardFontFolders() {
    std::vector<fs::path> folders = {"/usr/share/sounds/sf2", "/usr/share/sounds/sf3",
                                     "/usr/share/soundfonts"};
    const char* data = std::getenv("XDG_DATA_HOME");
    const char* home = std::getenv("HOME");
    if (data && *data)
        folders.push_back(fs::path(data) / "soundfonts");
    else if (home && *home)
        folders.push_back(fs::path(home) / ".local/share/soundfonts");
    return folders;
}

fs::path systemDefaultFont() {
    for (const char* name : {"/usr/share/sounds/sf2/default-GM.sf2", "/usr/share/sounds/sf3/default-GM.sf3",
                             "/usr/share/soundfonts/default.sf2"}) {
        std::error_code error;
        const fs::path real = fs::canonical(name, error);
        if (!error) return real;
    }
    return {};
}

Catalogue scanFonts(const FontFolders& where, const std::string& defaultId,
                    std::vector<FontProblem>* problems) {
    std::vector<FontPtr> fonts;
    std::set<fs::path> seen;
    const auto add = [&](const fs::path& path, const std::string& id) {
        std::error_code error;
        const fs::path real = fs::canonical(path, error);
        if (error || !seen.insert(real).second) return;
        auto read = readSoundFont(real);
        if (!read) {
            if (problems) problems->push_back({real, read.error()});
            return;
        }
        SoundFont font = std::move(read.value());
        if (!id.empty()) font.id = id;
        fonts.push_back(std::make_shared<const SoundFont>(std::move(font)));
    };
    if (!where.houseFont.empty()) add(where.houseFont, houseFontId);
    for (const fs::path& folder : where.folders)
        for (const fs::path& file : fontFilesIn(folder)) add(file, {});
    for (const fs::path& file : where.files) add(file, {});
    // The system's default serves only where it is among the fonts asked for.
    const std::string chosen = defaultId.empty() ? systemDefaultFont().string() : defaultId;
    return {std::move(fonts), chosen};
}

} // namespace cobbleway
