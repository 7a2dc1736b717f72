/// Loudness: the General MIDI volume law, roles, and a part's place in the mix.
#pragma once
#include "song/model/song.h"

#include <optional>

namespace cobbleway {

inline constexpr double lowestLevelDb = -60, highestLevelDb = 12;
inline constexpr double lowestMasterDb = -24, highestMasterDb = 24;
inline constexpr double shortestRoom = 0.3, longestRoom = 4; ///< seconds, Song::roomSeconds
/// The volume (controller 7) that holds where a file sends none (GM developer guidelines).
inline constexpr int defaultVolume = 100;

/// Gain of a volume or expression value, 0–127, in dB: 40·log10(v/127) (GM level 1 developer guidelines);
/// for 0 the lowest level.
double volumeDb(int value);

/// A value of the pan controller with a part's own pan, −1 to +1, on top; 0–127.
int pannedValue(int value, double pan);
inline constexpr int panSpan = 63; ///< steps of the controller from the middle to either end

double dbToGain(double db);   ///< factor of amplitude
double gainToDb(double gain); ///< −120 for 0

/// The one value, 0–127, that a controller of a part holds throughout its notes; none when it moves, was
/// never sent, or is dropped already. A value that is set anew before the first note counts from there.
std::optional<int> fixedValue(const SongEvents& song, const Part& part, std::uint8_t controller);

/// The same of the volume.
std::optional<int> fixedVolume(const SongEvents& song, const Part& part);

/// Whether the volume moves while the part plays (a fade).
bool volumeMoves(const SongEvents& song, const Part& part);

/// The share of the room that the file gives a part: its reverb send (controller 91) at its first note, of
/// the 40 that General MIDI 2 starts with (RP-024; from memory); 0 to 2, 1 where it sends none.
double roomShareOf(const SongEvents& song, const PartSource& source);

/// What the parts' gains in the mix are, from level, role, mute and solo: 0 when off; the back is lowered
/// while another part leads. The master level is not in it. Looks through all parts once.
class MixGains {
  public:
    explicit MixGains(const Song& song);
    [[nodiscard]] double of(const Part& part) const;

  private:
    bool m_someSolo;
    double m_backDb; ///< 0 while no part leads
};

/// The gain of one part of them.
double mixGain(const Song& song, const Part& part);

/// The song with one part alone, as loud as it is in the whole, so that all stems sum to the mix as long as
/// no effect is on it.
Song stemOf(const Song& song, PartId part);

} // namespace cobbleway
