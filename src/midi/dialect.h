/// Which published convention a file follows, and which channels it makes drums by message.
#pragma once
#include "midi/event.h"

#include <functional>
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

/// A rhythm-part message (GS `40 1p 15`, XG `08 pp 07`): a channel made drums, or made pitched.
struct RhythmPart {
    Channel channel;
    bool drums = false;
    Tick tick = 0; ///< from where on it counts
    int port = 0;  ///< 0-based; it counts on this port alone
    bool operator==(const RhythmPart&) const = default;
};

/// All rhythm-part messages of a file in order of tick, and for each reset one a channel: channel 10 is drums
/// by it and the others are not. Checksums are not insisted on.
std::vector<RhythmPart> rhythmPartsOf(const MidiFile& file);

/// Whether a channel is drums at a tick, by messages in order of tick.
bool madeDrums(std::span<const RhythmPart> messages, int port, Channel channel, Tick tick);

/// A system exclusive message that asks the device for something.
struct DeviceMessage {
    std::uint32_t track = 0, index = 0; ///< which event of the file, 0-based
    Tick tick = 0;
    std::string what;      ///< for people: "GM reset", "master volume 64 %"
    bool followed = false; ///< whether what plays here does as it says
    Dialect reset =
        Dialect::None; ///< of a reset: which dialect's; a device forgets its sounds and levels by it
    bool operator==(const DeviceMessage&) const = default;
};

/// Calls `take` for all system exclusive messages of a file in order of track: resets, rhythm parts, master
/// volume, master tuning and what else is known by its published form; the rest by the maker's number.
void eachDeviceMessage(const MidiFile& file, const std::function<void(const DeviceMessage&)>& take);
/// The same as a list, for files that need not be large.
std::vector<DeviceMessage> deviceMessagesOf(const MidiFile& file);

/// The master volume (Universal Real Time 04 01, MIDI 1.0; GS 40 00 04; XG 00 00 04) when the file sets
/// exactly one: 0–1 of full. 1 when it sets none, moves it, or sets 0.
double masterVolumeOf(const MidiFile& file);

} // namespace cobbleway
