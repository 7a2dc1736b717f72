/// In which keys parts are, and whether one lost its transposition.
#pragma once
#include "song/heard/realise.h"
#include "song/match/musicalkey.h"

#include <array>
#include <cstdint>
#include <functional>
#include <map>
#include <optional>
#include <vector>

namespace cobbleway {

/// Of a part's notes by their length, its own transposition applied, but not the song's. `heard` is what
/// realise() makes of it.
PitchClasses pitchClassesOf(const Song& song, const Part& part, const HeardPart& heard);

/// Holds every part of a song against what the others play while it plays. What it needs of each part is
/// found once.
class KeyCheck {
  public:
    /// What sounds in two quarters.
    struct Window {
        Tick index = 0;            ///< from 0
        std::uint8_t lowest = 255; ///< key, without the song's shift; 255: none
        std::array<float, 12> classes{};
        bool operator==(const Window&) const = default;
    };
    static Tick windowTicks(const Song& song); ///< how long that is
    /// What it needs of one part.
    struct Melody {
        PartId part = 0;
        PitchClasses classes{};
        double sum = 0; ///< of the classes
        int notes = 0;
        std::vector<Window> windows; ///< those in which it sounds, in order
        bool operator==(const Melody&) const = default;
    };
    static Melody melodyOf(const Song& song, const Part& part, const HeardPart& heard);
    explicit KeyCheck(const Song& song);
    /// `melodyOf` gives the melody of each part.
    KeyCheck(const Song& song, const std::function<Melody(const Part&)>& melodyOf);
    /// A transposition in semitones, −11 to +11 or that of the instrument its name tells, after which a part
    /// fits the other pitched parts clearly better, when it is one that transposing instruments have. None
    /// when it fits as it is, or when it has too few notes to tell.
    [[nodiscard]] std::optional<int> suggestion(const Part& part) const;

  private:
    /// A part and what sounds beside it, moved to one key wherever the song is in another.
    struct Beside {
        PitchClasses own{}, others{}, profile{};
        /// How long its notes sound with the others' own and a semitone beside them, by semitones it is moved
        /// up.
        std::array<double, 12> agrees{}, clashes{};
        double all = 0, told = 0; ///< how long it sounds, and where the others have a clear key
    };
    [[nodiscard]] Beside beside(const Melody& own) const;
    [[nodiscard]] PitchClasses othersThan(PartId part) const;
    [[nodiscard]] int agreeing(PartId part, const PitchClasses& profile) const;
    std::vector<Melody> m_melodies; ///< parts that are pitched and have notes; none when there are too many
    std::map<Tick, PitchClasses> m_all; ///< of all of them, by window
};

/// KeyCheck::suggestion() of one part.
std::optional<int> suggestedTransposition(const Song& song, const Part& part);

} // namespace cobbleway
