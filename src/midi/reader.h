/// Bytes → MidiFile. Tolerant: content never makes it fail; what it fixes it reports.
#pragma once
#include "midi/event.h"
#include "midi/result.h"

#include <cstdint>
#include <string>
#include <vector>

namespace cobbleway {

/// Something that the reader repaired on the way in.
struct Damage {
    std::uint64_t offset = 0; ///< byte in the file, 0-based
    int track = 0;            ///< 1-based; 0 for the header or the file as a whole
    Message what;             ///< one sentence for a musician
    bool harmless = false;    ///< the standard allows it
    bool operator==(const Damage&) const = default;
};

/// What was read, unchanged. Never edited.
struct SourceFile {
    std::string name;    ///< file name without folder, for people
    std::string path;    ///< where it was read, whole; empty when that is not known
    std::string version; ///< the file there as it was then (fileVersion()); empty when that is not known
    MidiFile midi;
    std::vector<Damage> damage;
};

/// Reads a MIDI file of type 0, 1 or 2 (SMF 1.0), also inside a RIFF wrapper (RP-029) or behind junk.
///
/// Every note that is in the bytes is kept. Lengths in the file are never trusted: memory stays within a
/// small multiple of the byte count. Notes that never end are ended here: at the next start of the same key,
/// or at the end of the track. Where notes of one key overlap, a note-off ends the one that began first. An
/// end with no note is kept and does nothing. Notes after an end mark that comes too early are kept. Fails
/// only when there is no MIDI header or track anywhere, and then says what the file seems to be; and at 2
/// GiB.
Result<SourceFile> readMidi(std::vector<std::uint8_t> bytes, std::string name);

} // namespace cobbleway
