/// Which published convention a file follows, and which channels it makes drums by message.
#pragma once
#include "midi/event.h"

#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace cobbleway {

enum class Dialect { None, GM, GM2, GS, XG };

/// "GM", "GM2", "GS", "XG", or "none said".
std::string_view dialectName(Dialect dialect);

/// The dialect of the resets that a file sends; of several the richest: XG, GS, GM2, GM. Without a reset, by
/// banks that only one dialect has: MSB 120 and 121 GM2 (64, 126 and 127 are banks of several).
Dialect dialectOf(const MidiFile& file);

/// The dialect that a message resets the device to; None for other messages. `sysex` begins after F0.
Dialect resetIn(std::span<const std::uint8_t> sysex);

/// From where on a port follows a dialect.
struct DialectFrom {
    Tick tick = 0; ///< of the song
    int port = 0;  ///< 0-based
    Dialect dialect = Dialect::None;
    bool operator==(const DialectFrom&) const = default;
};

/// A rhythm-part message (GS `40 1p 15`, XG `08 pp 07`): a channel made drums, or made pitched.
struct RhythmPart {
    Channel channel;
    bool drums = false;
    Tick tick = 0; ///< from where on it counts
    int port = 0;  ///< 0-based; it counts on this port alone
    bool operator==(const RhythmPart&) const = default;
};

/// The rhythm-part message that bytes are; its tick and port are 0.
std::optional<RhythmPart> rhythmPartIn(std::span<const std::uint8_t> sysex);

/// The rhythm-part messages of a file that change what a channel is, in order of tick. A reset is such a
/// message of each channel: channel 10 is drums by it, and the others are not. Checksums are not insisted on.
std::vector<RhythmPart> rhythmPartsOf(const MidiFile& file);

/// Whether a channel is drums at a tick, by messages in order of tick.
bool madeDrums(std::span<const RhythmPart> messages, int port, Channel channel, Tick tick);

} // namespace cobbleway
