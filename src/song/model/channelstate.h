/// One channel, one state: what several tracks of a file say of the same channel.
#pragma once

namespace cobbleway {

struct Song;

/// Lets each part of a fresh song name the events of its channel's other tracks that count for it. By
/// MIDI 1.0 a channel has one state, whichever track sends it; where each track says its own, each keeps its
/// own.
///
/// So for each aspect (program with bank, volume, pan, expression, each pedal, each further controller,
/// parameters, bend, pressure, pressure of keys) a part follows the others up to its own first event of the
/// aspect, in a device's order (tick, track, place in the track), and no further. Where its own comes before
/// its first note it follows nobody. Banks of a track without programs are meant for the programs of others.
/// A note that its own track never ends is ended by the first note-off of another track that ends nothing
/// there. Channel mode messages (120 to 127) are each track's own.
///
/// The standard orders nothing between tracks at one tick; a program that comes at the tick of a part's first
/// note, where none was before, counts for that note.
///
/// Tracks of a type 2 file are songs of their own and do not hear each other.
void followChannels(Song& song);

} // namespace cobbleway
