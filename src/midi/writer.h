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
/// read or sorted. A delta time above 0x0FFFFFFF, the format's greatest, is held there. Ports are written as
/// they stand in the events: FF 21 meta events are the caller's to give.
std::vector<std::uint8_t> writeMidi(const MidiFile& file, WriteOptions options = {});

/// Appends a variable-length quantity (SMF 1.0), 0 to 0x0FFFFFFF.
void appendVariable(std::vector<std::uint8_t>& out, std::uint32_t value);

} // namespace cobbleway
