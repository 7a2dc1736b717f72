#include "files/fonttrial.h"

#include "files/atomicfile.h"
#include "files/childprocess.h"
#include "sound/otherfonts.h"

#include <algorithm>
#include <cerrno>
#include <csignal>
#include <cstdlib>
#include <map>
#include <sstream>
#include <unistd.h>

namespace cobbleway {
namespace fs = std::filesystem;
namespace {

/// A file as it is now: another text after every change.
std::string versionOf(const fs::path& path) {
    std::error_code error;
    const auto time = fs::last_write_time(path, error).time_since_epoch().count();
    const auto size = fs::file_size(path, error);
    return path.string() + "\t" + std::to_string(error ? 0 : size) + "\t" + std::to_string(time);
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

/// Verdicts by version: why a font is set aside, empty when it is not.
class Verdicts {
  public:
    explicit Verdicts(fs::path cache) : m_cache(std::move(cache)) {
        for (const std::string& line : linesOf(m_cache))
            if (const auto tab = line.rfind('\t'); tab != std::string::npos)
                m_known[line.substr(0, tab)] = line.substr(tab + 1);
    }
    [[nodiscard]] const std::string* find(const std::string& version) const {
        const auto at = m_known.find(version);
        return at == m_known.end() ? nullptr : &at->second;
    }
    void keep(const std::string& version, std::string why) {
        std::replace(why.begin(), why.end(), '\t', ' ');
        m_known[version] = std::move(why);
        if (m_cache.empty() || !makeFolder(m_cache.parent_path()).ok()) return;
        std::string text;
        for (const auto& [known, verdict] : m_known) text += known + "\t" + verdict + "\n";
        (void)writeFile(m_cache, text).ok(); // without a cache the next start takes longer, no more
    }

  private:
    fs::path m_cache;
    std::map<std::string, std::string> m_known;
};

Error setAside(Message what, const fs::path& font) {
    return {std::move(what), font.string(), {"now.font-set-aside"}};
}

/// Tries a font, or says what was found the last time.
Result<Done> tried(const fs::path& font, const FontTrialOptions& options) {
    Verdicts verdicts(options.cache);
    const std::string version = versionOf(font);
    if (const std::string* why = verdicts.find(version)) {
        if (why->empty()) return Done{};
        return setAside(fromLine(*why), font);
    }
    const auto found = tryFont(options.helper, font, options.seconds, options.stop);
    if (!options.stop.stop_requested()) verdicts.keep(version, found ? "" : asLine(found.error().what));
    return found;
}

} // namespace

Result<Done> tryFont(const fs::path& helper, const fs::path& font, double seconds, std::stop_token stop) {
    ChildProcess child(helper, {"font", font.string()});
    std::string line;
    const auto refused = [&](Message why) { return setAside(std::move(why), font); };
    if (!child.started()) return refused({"font.no-helper"});
    constexpr double slice = 0.1; // how soon a stop is seen
    auto got = ChildProcess::Got::Nothing;
    for (double waited = 0; waited < seconds && got == ChildProcess::Got::Nothing; waited += slice) {
        if (stop.stop_requested()) return refused({"font.not-tried"});
        got = child.readLine(line, slice);
    }
    switch (got) {
    case ChildProcess::Got::Line:
        if (line == "ok") return Done{};
        return refused(fromLine(line));
    case ChildProcess::Got::Nothing: return refused({"font.too-slow"});
    case ChildProcess::Got::End: break;
    }
    return refused({"font.crashed"});
}

Result<SoundFont> readTriedFont(const fs::path& path, const FontTrialOptions& options) {
    if (FontGuard(options.state).endedAProgram(path)) return setAside({"font.ended-program"}, path);
    if (auto harmless = tried(path, options); !harmless) return harmless.error();
    return readOtherFont(path);
}

Catalogue withoutUnsafeFonts(Catalogue catalogue, const FontTrialOptions& options,
                             std::vector<FontProblem>& problems) {
    const FontGuard guard(options.state);
    for (const FontPtr& font : std::vector<FontPtr>(catalogue.fonts())) {
        if (font->id == houseFontId || options.stop.stop_requested()) continue;
        std::optional<Error> problem;
        if (guard.endedAProgram(font->path))
            problem = setAside({"font.ended-program"}, font->path);
        else if (!font->damage.empty() || font->compressed)
            if (auto harmless = tried(font->path, options); !harmless) problem = harmless.error();
        if (!problem) continue;
        problems.push_back({font->path, *problem});
        catalogue = catalogue.without(font->id);
    }
    return catalogue;
}

fs::path FontGuard::note() const { return m_state / ("loading-font-" + std::to_string(getpid())); }

void FontGuard::begin(const fs::path& font) const {
    if (m_state.empty() || !makeFolder(m_state).ok()) return;
    (void)writeFile(note(), versionOf(font) + "\n").ok();
}

void FontGuard::end() const {
    std::error_code ignored;
    if (!m_state.empty()) fs::remove(note(), ignored);
}

bool FontGuard::endedAProgram(const fs::path& font) const {
    if (m_state.empty()) return false;
    const fs::path known = m_state / "fonts-that-ended-the-program";
    auto ended = linesOf(known);
    const std::size_t before = ended.size();
    std::error_code error;
    for (const auto& entry : fs::directory_iterator(m_state, error)) { // notes of programs that are no more
        const std::string name = entry.path().filename().string();
        constexpr std::string_view start = "loading-font-";
        if (!name.starts_with(start)) continue;
        const long pid = std::strtol(name.c_str() + start.size(), nullptr, 10);
        if (pid <= 0 || kill(static_cast<pid_t>(pid), 0) == 0 || errno != ESRCH) continue;
        for (const std::string& line : linesOf(entry.path())) ended.push_back(line);
        std::error_code ignored;
        fs::remove(entry.path(), ignored);
    }
    if (ended.size() != before) {
        std::string text;
        for (const std::string& line : ended) text += line + "\n";
        (void)writeFile(known, text).ok();
    }
    return std::find(ended.begin(), ended.end(), versionOf(font)) != ended.end();
}

namespace {

fs::path xdgFolder(const char* variable, const char* underHome) {
    const char* named = std::getenv(variable);
    const char* home = std::getenv("HOME");
    if (named && *named) return fs::path(named) / "cobbleway";
    return home && *home ? fs::path(home) / underHome / "cobbleway" : fs::path();
}

} // namespace

fs::path stateFolder() { return xdgFolder("XDG_STATE_HOME", ".local/state"); }

fs::path fontCache() {
    const fs::path folder = xdgFolder("XDG_CACHE_HOME", ".cache");
    return folder.empty() ? folder : folder / "fonts";
}

} // namespace cobbleway
