/// A song as a MIDI file again, with its changes written in.
#pragma once
#include "song/match.h"
#include "song/song.h"

namespace cobbleway {

enum class Layout {
    TrackPerPart, ///< type 1: a conductor track, then a track a part
    SingleTrack   ///< type 0
};

/// Writes changes in: transposition, dropped controllers, names given; a sound chosen by hand as bank and
/// program; level as volume controller (by the GM volume law), pan as pan controller. Events of no part and
/// of parts set aside are kept. Roles and the room are matters of the mix and not written. Parts of one
/// source keep their channels and ports.
MidiFile toMidi(const Song& song, Layout layout);

/// The conductor and one part alone, type 1.
MidiFile toMidi(const Song& song, const Part& part);

} // namespace cobbleway
