#include "font/catalogue.h"
#include "words/letters.h"

#include <algorithm>
#include <cstdlib>
#include <set>

namespace cobbleway {
namespace fs = std::filesystem;
namespace {

bool isSoundFont(const fs::path& path) {
    const std::string ending = inSmallLetters(path.extension().string());
    return ending == ".sf2" || ending == ".sf3";
}

} // namespace

Catalogue::Catalogue(std::vector<FontPtr> fonts, std::string defaultId)
    : m_fonts(std::move(fonts)), m_order{std::move(defaultId)} {}

const SoundFont* Catalogue::font(const std::string& id) const {
    const auto moved = m_moved.find(id);
    const std::string& wanted = moved == m_moved.end() ? id : moved->second;
    const auto at =
        std::find_if(m_fonts.begin(), m_fonts.end(), [&](const FontPtr& f) { return f->id == wanted; });
    return at == m_fonts.end() ? nullptr : at->get();
}

const SoundFont* Catalogue::defaultFont() const {
    const auto fonts = order();
    return fonts.empty() ? nullptr : fonts.front();
}

std::vector<const SoundFont*> Catalogue::order() const {
    std::vector<const SoundFont*> order;
    const auto add = [&](const SoundFont* next) {
        if (next && std::find(order.begin(), order.end(), next) == order.end()) order.push_back(next);
    };
    for (const std::string& id : m_order) add(font(id));
    if (order.empty() && !m_fonts.empty()) add(m_fonts.front().get());
    add(font(houseFontId));
    return order;
}

const Preset* Catalogue::find(const SoundRef& sound) const {
    const SoundFont* in = sound.kind == SoundKind::Preset ? font(sound.font) : nullptr;
    return in ? in->find(sound.bank, sound.program) : nullptr;
}

std::size_t Catalogue::soundCount() const {
    std::size_t count = m_ports->size();
    for (const FontPtr& f : m_fonts) count += f->presets.size();
    for (const PluginInfo& p : *m_plugins) count += p.instrument;
    return count;
}

Catalogue Catalogue::withOrder(const std::vector<std::string>& ids) const {
    Catalogue other = *this;
    if (!ids.empty()) other.m_order = ids;
    return other;
}

Catalogue Catalogue::without(const std::string& id) const {
    Catalogue other = *this;
    std::erase_if(other.m_fonts, [&](const FontPtr& f) { return f->id == id; });
    return other;
}

Catalogue Catalogue::withMoved(const std::vector<FontMemory>& remembered) const {
    Catalogue other = *this;
    for (const FontMemory& memory : remembered) {
        if (other.font(memory.id) || memory.digest == 0) continue;
        const FontPtr* found = nullptr;
        for (const FontPtr& f : m_fonts)
            if (f->digest == memory.digest && (!found || f->size == memory.size)) found = &f;
        if (found) other.m_moved[memory.id] = (*found)->id;
    }
    return other;
}

const PluginInfo* Catalogue::plugin(const std::string& uri) const {
    const auto at =
        std::find_if(m_plugins->begin(), m_plugins->end(), [&](const PluginInfo& p) { return p.uri == uri; });
    return at == m_plugins->end() ? nullptr : &*at;
}

std::vector<std::filesystem::path> Catalogue::unreadableBundles() const {
    std::vector<std::filesystem::path> bundles;
    for (const PluginSetAside& aside : *m_setAside)
        if (!aside.bundle.empty()) bundles.push_back(aside.bundle);
    return bundles;
}

Catalogue Catalogue::withPlugins(std::vector<PluginInfo> plugins, std::vector<PluginSetAside> aside) const {
    Catalogue other = *this;
    other.m_plugins = std::make_shared<const std::vector<PluginInfo>>(std::move(plugins));
    other.m_setAside = std::make_shared<const std::vector<PluginSetAside>>(std::move(aside));
    return other;
}

const PortInfo* Catalogue::port(const std::string& id) const {
    const auto at =
        std::find_if(m_ports->begin(), m_ports->end(), [&](const PortInfo& p) { return p.id == id; });
    return at == m_ports->end() ? nullptr : &*at;
}

bool Catalogue::sameAs(const Catalogue& o) const {
    return m_fonts == o.m_fonts && m_order == o.m_order && m_moved == o.m_moved && m_plugins == o.m_plugins &&
           m_setAside == o.m_setAside && m_ports == o.m_ports;
}

Catalogue Catalogue::withPorts(std::vector<PortInfo> ports) const {
    Catalogue other = *this;
    other.m_ports = std::make_shared<const std::vector<PortInfo>>(std::move(ports));
    return other;
}

FontMemory memoryOf(const SoundFont& font) { return {font.id, font.name, font.size, font.digest}; }

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
        fs::path real = fs::canonical(name, error);
        if (!error) return real;
    }
    return {};
}

std::vector<fs::path> FontScanner::filesIn(const fs::path& folder) const {
    std::vector<fs::path> files;
    std::error_code ignored;
    for (fs::directory_iterator at(folder, ignored), end; at != end; at.increment(ignored))
        if (isSoundFont(at->path()) ||
            (m_readOther && inSmallLetters(at->path().extension().string()) == ".dls"))
            files.push_back(at->path());
    std::sort(files.begin(), files.end());
    return files;
}

const FontScanner::Kept& FontScanner::read(const fs::path& real, const std::string& id) {
    std::error_code error;
    const auto time = fs::last_write_time(real, error);
    const auto size = fs::file_size(real, error);
    Kept& kept = m_kept[real];
    const bool known = kept.font || !kept.problem.path.empty();
    if (known && !error && kept.time == time && kept.size == size && kept.id == id) return kept;
    kept = {time, size, id, nullptr, {}};
    ++m_filesRead;
    const bool other =
        m_readOther && fs::is_regular_file(real, error) && !isSoundFont(real); // a pipe would wait
    auto font = other ? m_readOther(real) : readSoundFont(real);
    if (!font) {
        kept.problem = {real, font.error()};
        return kept;
    }
    if (!id.empty()) font.value().id = id;
    kept.font = std::make_shared<const SoundFont>(std::move(font.value()));
    return kept;
}

Catalogue FontScanner::scan(const FontFolders& where, const std::string& defaultId,
                            std::vector<FontProblem>* problems) {
    std::vector<FontPtr> fonts;
    std::set<fs::path> seen;
    const auto add = [&](const fs::path& path, const std::string& id) {
        std::error_code error;
        const fs::path real = fs::canonical(path, error);
        if (error || !seen.insert(real).second) return;
        const Kept& kept = read(real, id);
        if (kept.font)
            fonts.push_back(kept.font);
        else if (problems)
            problems->push_back(kept.problem);
    };
    if (!where.houseFont.empty()) add(where.houseFont, houseFontId);
    for (const fs::path& folder : where.folders)
        for (const fs::path& file : filesIn(folder)) add(file, {});
    for (const fs::path& file : where.files) add(file, {});
    std::erase_if(m_kept, [&](const auto& kept) { return !seen.contains(kept.first); });
    // The system's default serves only where it is among the fonts asked for.
    const std::string chosen = defaultId.empty() ? systemDefaultFont().string() : defaultId;
    return {std::move(fonts), chosen};
}

Catalogue scanFonts(const FontFolders& where, const std::string& defaultId,
                    std::vector<FontProblem>* problems, FontScanner::ReadOther readOther) {
    return FontScanner(std::move(readOther)).scan(where, defaultId, problems);
}

} // namespace cobbleway
