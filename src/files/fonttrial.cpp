#include "files/fonttrial.h"

#include "files/childprocess.h"
#include "files/endings.h"
#include "files/folders.h"
#include "files/verdicts.h"
#include "font/fileversion.h"
#include "sound/otherfonts.h"

#include <algorithm>

namespace cobbleway {
namespace fs = std::filesystem;
namespace {

Error setAside(Message what, const fs::path& font) {
    return {std::move(what), font.string(), {"now.font-set-aside"}};
}

/// Tries a font, or says what was found the last time.
Result<Done> tried(const fs::path& font, const FontTrialOptions& options) {
    Verdicts verdicts(options.cache);
    const std::string version = fileVersion(font);
    if (const std::string* why = verdicts.find(version)) {
        if (why->empty()) return Done{};
        return setAside(fromLine(*why), font);
    }
    auto found = tryFont(options.helper, font, options.seconds, options.stop);
    if (options.stop.stop_requested()) return found;
    verdicts.set(version, found ? "" : asLine(found.error().what));
    verdicts.save([](const std::string&) { return true; });
    return found;
}

} // namespace

Result<Done> tryFont(const fs::path& helper, const fs::path& font, double seconds,
                     const std::stop_token& stop) {
    ChildProcess child(helper, {"font", font.string()});
    std::string line;
    const auto refused = [&](Message why) { return setAside(std::move(why), font); };
    if (!child.started()) return refused({"font.no-helper"});
    auto got = ChildProcess::Got::Line;
    do got = child.readLineWhileWorking(line, seconds, stop);
    while (got == ChildProcess::Got::Line && line == "working");
    if (stop.stop_requested()) return refused({"font.not-tried"});
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
        if (font->id == houseFontId) continue;
        if (!guard.endedAProgram(font->path)) continue;
        problems.push_back({font->path, setAside({"font.ended-program"}, font->path), true});
        catalogue = catalogue.without(font->id);
    }
    return catalogue;
}

void forgetFontVerdict(const FontTrialOptions& options, const fs::path& font) {
    const std::string version = fileVersion(font);
    const Verdicts verdicts(options.cache);
    verdicts.save([&](const std::string& known) { return known != version; });
    forgiveEnding(options.state, font.string());
}

void FontGuard::begin(const fs::path& font) const {
    if (m_state.empty()) return;
    (void)writePrivately(endingNote(m_state), fileVersion(font) + "\n").ok();
}

void FontGuard::end() const {
    std::error_code ignored;
    if (!m_state.empty()) fs::remove(endingNote(m_state), ignored);
}

bool FontGuard::endedAProgram(const fs::path& font) const {
    const auto ended = endedPrograms(m_state);
    return std::find(ended.begin(), ended.end(), fileVersion(font)) != ended.end();
}

fs::path fontCache() {
    const fs::path folder = cacheFolder();
    return folder.empty() ? folder : folder / "fonts";
}

} // namespace cobbleway
