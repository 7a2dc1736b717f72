/// A song as a MIDI file again.
#pragma once
#include "song/match/match.h"
#include "song/model/song.h"
#include "words/message.h"

#include <string>
#include <vector>

namespace cobbleway {

enum class Layout {
    TrackPerPart, ///< type 1: a conductor track, then a track a part
    SingleTrack   ///< type 0
};

/// Writes a song by Song::midi.
///
/// Written in: the recipes of the parts, names given, tempo and sections; a sound chosen by hand as bank and
/// program; level as volume controller (by the GM volume law), pan as pan controller. Roles and the room are
/// matters of the mix and not written. Not written in: the parts as they are cut, every event as the file has
/// it. Events of no part and of parts set aside are kept either way.
///
/// A song that was not changed gives every event it came with, at its tick, and on a single track in its
/// order. Channels of a port above the first are marked by FF 21; when folded, see foldOnto16().
MidiFile toMidi(const Song& song, Layout layout);

/// The conductor and one part alone.
MidiFile toMidi(const Song& song, const Part& part, Layout layout = Layout::TrackPerPart);

/// How many channels the parts with notes need, over all ports.
int channelsNeeded(const Song& song);

/// The ports that a MIDI file of the whole song names, 0-based and in order; 0 alone when it is folded.
std::vector<int> portsOf(const Song& song);

/// What a MIDI file of this song cannot hold, one sentence each; empty when it holds all.
std::vector<Message> notCarriedOver(const Song& song);

/// The song as the file has it, but with the parts as they are cut: what is written when changes are not.
Song withoutChanges(const Song& song);

} // namespace cobbleway
