#include "midi/devicemessages.h"

#include "midi/devicesettings.h"

#include <bit>
#include <cmath>
#include <cstdlib>

namespace cobbleway {
namespace {

using Bytes = std::span<const std::uint8_t>;

/// The maker of a message by its number (MMA's list of manufacturer ids; from memory).
std::string makerText(Bytes sysex) {
    if (sysex.empty()) return "an empty message";
    switch (sysex[0]) {
    case 0x41: return "a message for a Roland device";
    case 0x42: return "a message for a Korg device";
    case 0x43: return "a message for a Yamaha device";
    case 0x44: return "a message for a Casio device";
    case 0x47: return "a message for an Akai device";
    case 0x7D: return "a message outside any standard";
    case 0x7E: return "a general message (non real time)";
    case 0x7F: return "a general message (real time)";
    default: break;
    }
    return "a message for a device of maker " + std::to_string(sysex[0]);
}

struct Meaning {
    std::string what;
    bool followed = false;
};

std::string shiftText(int semitones) {
    return std::to_string(semitones) + (std::abs(semitones) == 1 ? " semitone" : " semitones");
}

/// What is followed, by what it sets.
std::string settingText(const DeviceSettings& settings) {
    if (settings.volume) return "master volume " + std::to_string(std::lround(*settings.volume * 100)) + " %";
    if (settings.tuning) return "master tuning " + std::to_string(*settings.tuning / 10) + " cents";
    if (settings.keyShift) return "master transposition " + shiftText(*settings.keyShift);
    const std::string channel = std::popcount(settings.channels) == 1
                                    ? "channel " + std::to_string(std::countr_zero(settings.channels) + 1)
                                    : "several channels";
    if (settings.partKeyShift) return "transposition of " + channel + " " + shiftText(*settings.partKeyShift);
    if (!settings.keyTunings.empty()) return "tuning of the scale of " + channel;
    return "a setting of " + channel;
}

/// Universal messages (MIDI 1.0, table of universal system exclusive).
std::optional<Meaning> universalMeaning(Bytes sysex) {
    if (sysexMatches(sysex, {0x7E, -1, 0x09, 0x02})) return Meaning{"GM off", false};
    if (sysexMatches(sysex, {0x7F, -1, 0x04, 0x02, -1, -1})) return Meaning{"master balance", false};
    if (sysexMatches(sysex, {0x7F, -1, 0x04, 0x05})) return Meaning{"reverb or chorus settings", false};
    if (sysexMatches(sysex, {0x7E, -1, 0x08}) || sysexMatches(sysex, {0x7F, -1, 0x08}))
        return Meaning{"a tuning of single notes", false};
    return std::nullopt;
}

/// Messages of the GS and XG conventions, by their published addresses.
std::optional<Meaning> conventionMeaning(Bytes sysex) {
    const bool gs = sysexMatches(sysex, {0x41, -1, 0x42, 0x12, 0x40, -1, -1, -1});
    if (gs && sysex[5] == 0x01 && sysex[6] >= 0x30 && sysex[6] <= 0x40)
        return Meaning{sysex[6] < 0x38 ? "reverb settings" : "chorus settings", false};
    if (gs) return Meaning{"a GS setting", false};
    const bool xg = sysexMatches(sysex, {0x43, -1, 0x4C, -1, -1, -1, -1}) && (sysex[1] & 0xF0) == 0x10;
    if (xg && sysex[3] == 0x02) return Meaning{"effect settings", false};
    if (xg) return Meaning{"an XG setting", false};
    return std::nullopt;
}

Meaning meaningOf(Bytes sysex) {
    if (const Dialect dialect = resetIn(sysex); dialect != Dialect::None)
        return {std::string(dialectName(dialect)) + " reset", true};
    if (const auto rhythm = rhythmPartIn(sysex))
        return {"channel " + std::to_string(rhythm->channel.value + 1) +
                    (rhythm->drums ? " made drums" : " made pitched"),
                true};
    if (const DeviceSettings settings = DeviceReader().take(sysex); !settings.empty())
        return {settingText(settings), true};
    if (auto known = universalMeaning(sysex)) return *known;
    if (auto known = conventionMeaning(sysex)) return *known;
    return {makerText(sysex), false};
}

} // namespace

void eachDeviceMessage(const MidiFile& file, const std::function<void(const DeviceMessage&)>& take) {
    const bool volumeFollowed = !deviceVolumeOf(file).ignored;
    forEachSysex(file, [&](Bytes bytes, const Event& event, const SysexPlace& place) {
        const Meaning meaning = meaningOf(bytes);
        DeviceMessage message{place.track,  place.first,      event.tick,
                              meaning.what, meaning.followed, resetIn(bytes)};
        if (!volumeFollowed && DeviceReader().take(bytes).volume) message.followed = false;
        take(message);
    });
}

std::vector<DeviceMessage> deviceMessagesOf(const MidiFile& file) {
    std::vector<DeviceMessage> found;
    eachDeviceMessage(file, [&](const DeviceMessage& message) { found.push_back(message); });
    return found;
}

} // namespace cobbleway
