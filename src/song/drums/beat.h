/// A plain beat for a song that has none.
#pragma once
#include "song/model/song.h"

#include <span>
#include <string_view>

namespace cobbleway {

/// What a beat is like.
enum class BeatStyle { Straight, Swing, Waltz, March, Bossa, Click };
std::span<const BeatStyle> beatStyles();
/// "straight", "swing", "waltz", "march", "bossa", "click".
std::string_view beatStyleName(BeatStyle style);
/// What suits a song's first metre: a waltz in three, a march in two, else straight.
BeatStyle beatStyleFor(const Song& song);

namespace edits {

/// Adds a drum part "Beat" with notes like any others, in time with every change of tempo and metre: a kick
/// on strong beats, a snare between them, hats or a ride in the style's grid; a click has high and low wood
/// blocks alone. With `fills` the last bar of each section runs over the toms, and a crash begins the next.
/// A song without length is left as it is.
Song addBeat(Song song, BeatStyle style, bool fills);

} // namespace edits
} // namespace cobbleway
