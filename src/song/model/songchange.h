/// What of a song is another than before, so that only what shows it need look again.
#pragma once
#include "song/model/song.h"

namespace cobbleway {

namespace sides { // of their own, so that the operators hide no others

/// The sides of a song that are shown apart.
enum class Side : unsigned {
    Names = 1,    ///< title; names, order, colours of parts, and which are set aside
    Notes = 2,    ///< events, recipes, the key
    Time = 4,     ///< tempo, metre, sections, the end
    Sounds = 8,   ///< what plays the parts: sounds, effects, the order of fonts
    Levels = 16,  ///< the mix: levels, places, roles, the room
    Writing = 32, ///< how MIDI files are written; snags that are left as they are
    File = 64     ///< another file
};

class Sides {
  public:
    constexpr Sides() = default;
    constexpr Sides(Side side) : m_bits(static_cast<unsigned>(side)) {}
    [[nodiscard]] constexpr bool any() const { return m_bits != 0; }
    [[nodiscard]] constexpr bool has(Sides other) const { return (m_bits & other.m_bits) != 0; }
    friend constexpr Sides operator|(Sides a, Sides b) {
        a.m_bits |= b.m_bits;
        return a;
    }
    Sides& operator|=(Sides other) { return *this = *this | other; }
    bool operator==(const Sides&) const = default;

  private:
    unsigned m_bits = 0;
};
constexpr Sides operator|(Side a, Side b) { return Sides(a) | Sides(b); }

} // namespace sides
using sides::Side;
using sides::Sides;
inline constexpr Sides allSides =
    Side::Names | Side::Notes | Side::Time | Side::Sounds | Side::Levels | Side::Writing | Side::File;

/// The sides in which two songs differ; all of them when they are of different files. None exactly when they
/// are equal.
Sides differenceOf(const Song& before, const Song& after);

/// By how many ticks all tracks of `after` begin later than in `before`; 0 when they do not move together.
Tick shiftOf(const Song& before, const Song& after);

} // namespace cobbleway
