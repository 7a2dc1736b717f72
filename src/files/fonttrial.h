/// Fonts of strangers: which are tried in another program before this one loads them, and which are set
/// aside.
#pragma once
#include "font/catalogue.h"

#include <filesystem>
#include <stop_token>
#include <string>
#include <vector>

namespace cobbleway {

/// Whether a soundfont can be played without harm: the helper loads it and plays every preset. Done, or why
/// not. `seconds`: of processor time between two signs of life, or of standing still.
Result<Done> tryFont(const std::filesystem::path& helper, const std::filesystem::path& font,
                     double seconds = 60, const std::stop_token& stop = {});

struct FontTrialOptions {
    std::filesystem::path helper; ///< the program cobbleway-plugin-helper
    std::filesystem::path cache;  ///< verdicts, by path, size and time; empty: nothing is kept
    std::filesystem::path state;  ///< where FontGuard keeps what it knows; empty for nowhere
    double seconds = 60;          ///< see tryFont()
    std::stop_token stop;
};

/// Reads a DLS file (readOtherFont()) after the helper has tried it.
Result<SoundFont> readTriedFont(const std::filesystem::path& path, const FontTrialOptions& options);

/// Takes fonts out of a catalogue that ended the program last time. Each is named in `problems`. The house
/// font is trusted. SF2 and SF3 are not tried: their lists are read by us, and of their samples only those
/// that play.
Catalogue withoutUnsafeFonts(Catalogue catalogue, const FontTrialOptions& options,
                             std::vector<FontProblem>& problems);

/// Forgets what was found of a font, so that it is tried again.
void forgetFontVerdict(const FontTrialOptions& options, const std::filesystem::path& font);

/// Notes which font is being loaded, in a file, so that the next start knows which one ended the program.
class FontGuard {
  public:
    /// `state`: a folder; empty for no notes.
    explicit FontGuard(std::filesystem::path state) : m_state(std::move(state)) {}
    void begin(const std::filesystem::path& font) const;
    void end() const;
    /// Whether a font, as it is on disk now, ended a program while it was loaded.
    [[nodiscard]] bool endedAProgram(const std::filesystem::path& font) const;

  private:
    std::filesystem::path m_state;
};

/// Where verdicts on fonts lie by the XDG rules.
std::filesystem::path fontCache();

} // namespace cobbleway
