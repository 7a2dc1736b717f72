/// MidiFile → bytes.
#pragma once
#include "midi/event.h"

#include <cstdint>
#include <vector>

namespace cobbleway {

struct WriteOptions {
    bool runningStatus = true; ///< leave out repeated status bytes (SMF 1.0); meta and sysex cancel it
};

/// Writes a MIDI file of the value's type. Events must be in order of tick, as in every MidiFile that was
/// read or sorted. A time longer than 0x0FFFFFFF ticks, the format's greatest delta time, is written in
/// steps, with an empty sequencer-specific message (FF 7F 00) at each. Ports are written as they stand in the
/// events: FF 21 meta events are the caller's to give.
std::vector<std::uint8_t> writeMidi(const MidiFile& file, WriteOptions options = {});

} // namespace cobbleway
