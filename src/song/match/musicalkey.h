/// Keys, and the one that fits how long each pitch class sounds.
#pragma once
#include <array>
#include <optional>
#include <string>

namespace cobbleway {

/// How long each pitch class sounds, C first; any unit.
using PitchClasses = std::array<double, 12>;
double sumOf(const PitchClasses& classes);

/// Of any number of semitones, 0–11.
inline int pitchClass(int semitones) { return (semitones % 12 + 12) % 12; }

struct MusicalKey {
    int tonic = 0; ///< pitch class, 0 is C
    bool minor = false;
    double fit = 0; ///< correlation with the key's profile, −1 to 1
    bool operator==(const MusicalKey&) const = default;
};

/// How long each pitch class sounds in a key, in no particular unit. Profiles: C. L. Krumhansl and
/// E. J. Kessler, "Tracing the dynamic changes in perceived tonal organization in a spatial representation of
/// musical keys", Psychological Review 89 (1982); from memory.
PitchClasses profileOf(const MusicalKey& key);

/// What else tells the key of a piece than how long its pitch classes sound.
struct KeyHints {
    int firstBass = -1, lastBass = -1; ///< pitch classes of its first and its last lowest note; −1: none
    std::optional<int> sharps = {};    ///< of the file's first signature, flats below 0
    bool minor = false;                ///< the same
};

/// The key whose profile correlates best with the pitch classes. With hints: a piece most likely ends, and
/// often begins, on its tonic in the bass, and its signature is believed unless the notes speak against it;
/// one of C major hardly counts, since many programs write it without being told (common practice, no
/// source).
MusicalKey keyOf(const PitchClasses& classes, const KeyHints& hints = {});

/// How many sharps a key has, −5 to 6; flats below 0.
int sharpsOf(const MusicalKey& key);

/// "B♭ major".
std::string keyText(const MusicalKey& key);

} // namespace cobbleway
