/// Changing a song's time: tempo, metre, where it begins, and its sections.
#pragma once
#include "song/model/song.h"

#include <string>
#include <vector>

namespace cobbleway {

/// Tempo changes made fewer.
struct FlatTempo {
    std::vector<TempoChange> tempos;
    double mostMoved = 0; ///< seconds: by how much a place is moved at most, at any tick
};

/// The fewest constant tempos, each begun at a change of the song, that keep every place within `tolerance`
/// seconds of where it was: found step by step, each tempo reaching as far as one can. The song's end stays
/// within the tolerance too.
FlatTempo flattened(const Song& song, double tolerance);

/// One tempo for the whole song, quarters a minute, that keeps its length.
double steadyBpm(const Song& song);

/// Ticks from the start to the first note of any part; 0 for a song without notes.
Tick leadingSilence(const Song& song);

namespace edits {

/// One tempo from `tick` until the next change, 4–1000 quarters a minute. Under an SMPTE division tempo does
/// not matter, and nothing changes; so for all tempo edits.
Song setTempo(Song song, Tick tick, double bpm);
/// Takes a tempo change away; the first cannot be.
Song removeTempo(Song song, Tick tick);
/// All tempos times `factor`, 0.1–10.
Song scaleTempo(Song song, double factor);
/// One tempo throughout, 4–1000 quarters a minute.
Song steadyTempo(Song song, double bpm);
/// See flattened(); `tolerance` in seconds.
Song flattenTempo(Song song, double tolerance);
/// Metre from the start of the bar that holds `tick`; numerator 1–32, denominator 1–64 and a power of two.
Song setMetre(Song song, Tick tick, int numerator, int denominator);
/// A pick-up: the first bar lasts `ticks`, less than a bar of the first metre; 0 takes a pick-up away.
Song setPickUp(Song song, Tick ticks);
/// The song begins `ticks` earlier: at most leadingSilence(). What was before stays at the start.
Song removeLeadingSilence(Song song, Tick ticks);

/// A section from `tick` on; the one that held it ends there. A section that begins there takes the name.
Song addSection(Song song, Tick tick, const std::string& name);
/// Renames the section that begins at `start`.
Song renameSection(Song song, Tick start, const std::string& name);
/// Lets the section that begins at `start` begin elsewhere, between its neighbours' starts.
Song moveSection(Song song, Tick start, Tick to);
/// Takes a section away; the one before it lasts until its end.
Song removeSection(Song song, Tick start);

} // namespace edits
} // namespace cobbleway
