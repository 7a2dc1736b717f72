#include "midi/devicemessages.h"

#include "midi/devicesettings.h"

#include <bit>
#include <cmath>
#include <cstdlib>
#include <map>

namespace cobbleway {
namespace {

using Bytes = std::span<const std::uint8_t>;

Message madeBy(const char* maker) { return {"device.made-by", {{"maker", std::string(maker)}}}; }

/// The maker of a message by its number (MMA's list of manufacturer ids; from memory).
Message makerText(Bytes sysex) {
    if (sysex.empty()) return {"device.empty"};
    switch (sysex[0]) {
    case 0x41: return madeBy("Roland");
    case 0x42: return madeBy("Korg");
    case 0x43: return madeBy("Yamaha");
    case 0x44: return madeBy("Casio");
    case 0x47: return madeBy("Akai");
    case 0x7D: return {"device.no-standard"};
    case 0x7E: return {"device.general"};
    case 0x7F: return {"device.general"};
    default: break;
    }
    return {"device.maker", {{"number", sysex[0]}}};
}

struct Meaning {
    Message what;
    bool followed = false;
};

/// What is followed, by what it sets.
Message settingText(const DeviceSettings& settings) {
    if (settings.volume) return {"device.volume", {{"percent", std::lround(*settings.volume * 100)}}};
    if (settings.tuning) return {"device.tuning", {{"cents", *settings.tuning / 10}}};
    if (settings.keyShift) return {"device.key-shift", {{"semitones", *settings.keyShift}}};
    const Message channel =
        std::popcount(settings.channels) == 1
            ? Message("device.channel", {{"channel", std::countr_zero(settings.channels) + 1}})
            : Message("device.channels");
    if (settings.partKeyShift)
        return {"device.part-key-shift", {{"channel", channel}, {"semitones", *settings.partKeyShift}}};
    if (!settings.keyTunings.empty()) return {"device.scale", {{"channel", channel}}};
    return {"device.setting", {{"channel", channel}}};
}

/// Universal messages (MIDI 1.0, table of universal system exclusive).
std::optional<Meaning> universalMeaning(Bytes sysex) {
    if (sysexMatches(sysex, {0x7E, -1, 0x09, 0x02})) return Meaning{{"device.gm-off"}, false};
    if (sysexMatches(sysex, {0x7F, -1, 0x04, 0x02, -1, -1})) return Meaning{{"device.balance"}, false};
    if (sysexMatches(sysex, {0x7F, -1, 0x04, 0x05})) return Meaning{{"device.reverb-or-chorus"}, false};
    if (sysexMatches(sysex, {0x7E, -1, 0x08}) || sysexMatches(sysex, {0x7F, -1, 0x08}))
        return Meaning{{"device.note-tuning"}, false};
    return std::nullopt;
}

/// Messages of the GS and XG conventions, by their published addresses.
std::optional<Meaning> conventionMeaning(Bytes sysex) {
    const bool gs = sysexMatches(sysex, {0x41, -1, 0x42, 0x12, 0x40, -1, -1, -1});
    if (gs && sysex[5] == 0x01 && sysex[6] >= 0x30 && sysex[6] <= 0x40)
        return Meaning{{sysex[6] < 0x38 ? "device.reverb" : "device.chorus"}, false};
    if (gs) return Meaning{{"device.gs"}, false};
    const bool xg = sysexMatches(sysex, {0x43, -1, 0x4C, -1, -1, -1, -1}) && (sysex[1] & 0xF0) == 0x10;
    if (xg && sysex[3] == 0x02) return Meaning{{"device.effects"}, false};
    if (xg) return Meaning{{"device.xg"}, false};
    return std::nullopt;
}

Meaning meaningOf(Bytes sysex) {
    if (const Dialect dialect = resetIn(sysex); dialect != Dialect::None)
        return {{"device.reset", {{"dialect", std::string(dialectName(dialect))}}}, true};
    if (const auto rhythm = rhythmPartIn(sysex))
        return {{rhythm->drums ? "device.made-drums" : "device.made-pitched",
                 {{"channel", rhythm->channel.value + 1}}},
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

std::vector<DeviceMessageKind> deviceMessageKinds(const MidiFile& file) {
    std::vector<DeviceMessageKind> kinds;
    std::map<std::pair<Message, bool>, std::size_t> places;
    eachDeviceMessage(file, [&](const DeviceMessage& message) {
        const auto [at, isNew] = places.try_emplace({message.what, message.followed}, kinds.size());
        if (isNew) kinds.push_back({message});
        ++kinds[at->second].times;
    });
    return kinds;
}

} // namespace cobbleway
