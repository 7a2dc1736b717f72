/// The device messages of a file, as people are told of them.
#pragma once
#include "midi/dialect.h"
#include "words/message.h"

#include <functional>

namespace cobbleway {

/// A system exclusive message that asks the device for something.
struct DeviceMessage {
    std::uint32_t track = 0, index = 0; ///< which event of the file, 0-based
    Tick tick = 0;
    Message what;          ///< for people: "GM reset", "master volume 64 %"
    bool followed = false; ///< whether what plays here does as it says
    Dialect reset =
        Dialect::None; ///< of a reset: which dialect's; a device forgets its sounds and levels by it
    bool operator==(const DeviceMessage&) const = default;
};

/// Calls `take` for all system exclusive messages of a file in order of track: resets, rhythm parts, master
/// volume, master tuning and what else is known by its published form; the rest by the maker's number.
void eachDeviceMessage(const MidiFile& file, const std::function<void(const DeviceMessage&)>& take);

/// Messages that ask for the same, in the same words.
struct DeviceMessageKind {
    DeviceMessage first;
    std::size_t times = 0;
};
/// What a file asks the device for, in order of the first of each kind.
std::vector<DeviceMessageKind> deviceMessageKinds(const MidiFile& file);

} // namespace cobbleway
