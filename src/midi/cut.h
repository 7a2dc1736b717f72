/// A stretch of a MIDI file as a file of its own.
#pragma once
#include "midi/event.h"

namespace cobbleway {

/// Where what is cut out stands in its file.
enum class CutPlace {
    AtStart, ///< its first tick becomes 0
    AsItWas  ///< where it stood, with silence before it
};

/// The notes from a tick on and before another, at their tempo and in their bars; a note that sounds across
/// an end is heard for what of it is within. Nothing before the stretch is lost that reigns in it: at its
/// start stand tempo, bar and key, each controller's and parameter's last value, program, bend and pressure,
/// and the system exclusive messages in their order. Where it stays in its place, all of these stay in
/// theirs. Texts of times outside are left out, but for names and copyrights. `from` is at least 0; where
/// `to` is not after it, no note is left.
MidiFile cutOut(const MidiFile& midi, Tick from, Tick to, CutPlace place);

/// What is said on one port (0-based, FF 21), which is port 0 of its file: its channels' events and its
/// messages to a device, with tempo, bars and all other texts. Tracks that only had events of other ports are
/// gone.
MidiFile portAlone(const MidiFile& midi, int port);

/// Notes, tempo, bars, keys, names, markers and words alone: no program, controller, bend, pressure and no
/// message to a device. For programs that choose their own sounds.
MidiFile notesAndNames(const MidiFile& midi);

} // namespace cobbleway
