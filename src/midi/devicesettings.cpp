#include "midi/devicesettings.h"

#include <algorithm>

namespace cobbleway {
namespace {

using Bytes = std::span<const std::uint8_t>;
constexpr int centre = 64;
constexpr int noChannel = 16;

/// Bytes of a message from a place on, without the closing F7 and as many before it.
Bytes dataFrom(Bytes sysex, std::size_t first, std::size_t atEnd) {
    std::size_t last = sysex.size();
    if (last > 0 && sysex[last - 1] == 0xF7) --last;
    last -= std::min(last, atEnd);
    return last > first ? sysex.subspan(first, last - first) : Bytes();
}

/// Which part of a GS device a block is for: 0 is channel 10's; 1–9 are 1–9's; A–F are 11–16's.
std::size_t gsPart(int address) {
    const int block = address & 0x0F;
    return static_cast<std::size_t>(block == 0 ? 9 : (block < 10 ? block - 1 : block));
}

/// Four halves of bytes as tenths of a cent; 0x0400 is none.
std::optional<int> masterTuning(Bytes data) {
    if (data.size() < 4) return std::nullopt;
    int value = 0;
    for (std::size_t i = 0; i < 4; ++i) value = value << 4 | (data[i] & 0x0F);
    return std::clamp(value - 0x400, -1000, 1000);
}

void sayController(DeviceSettings& settings, int number, int value) {
    settings.asChannel.push_back(
        {0xB0, static_cast<std::uint8_t>(number), static_cast<std::uint8_t>(value & 0x7F)});
}

/// RPN 0; no parameter is chosen afterwards.
void sayBendRange(DeviceSettings& settings, int semitones) {
    sayController(settings, cc::rpnMsb, 0);
    sayController(settings, cc::rpnLsb, 0);
    sayController(settings, cc::dataEntryMsb, std::clamp(semitones, 0, 24));
    sayController(settings, cc::dataEntryLsb, 0);
    sayController(settings, cc::rpnMsb, 127);
    sayController(settings, cc::rpnLsb, 127);
}

/// Fourteen bits, the upper seven first.
int fourteenBits(Bytes bytes, std::size_t at) { return (bytes[at] & 0x7F) << 7 | (bytes[at + 1] & 0x7F); }

int semitones(int value) { return std::clamp(value - centre, -24, 24); }

/// What a parameter of a GS part says; false for one that is not known.
bool sayGsPart(DeviceSettings& settings, int parameter, int value) {
    constexpr std::array sound = {76, 77, 74, 71, 73, 75, 72, 78}; // 30 to 37
    if (parameter >= 0x30 && parameter < 0x38)
        return sayController(settings, sound[static_cast<std::size_t>(parameter - 0x30)], value), true;
    if (parameter >= 0x40 && parameter < 0x4C)
        return settings.keyTunings.push_back({parameter - 0x40, value - centre}), true;
    switch (parameter) {
    case 0x00: return sayController(settings, cc::bankMsb, value), true;
    case 0x01: return settings.asChannel.push_back({0xC0, static_cast<std::uint8_t>(value), 0}), true;
    case 0x13: return sayController(settings, value == 0 ? cc::mono : cc::poly, value == 0), true;
    case 0x16: settings.partKeyShift = semitones(value); return true;
    case 0x19: return sayController(settings, cc::volume, value), true;
    case 0x1C: return value > 0 && (sayController(settings, cc::pan, value), true);
    case 0x21: return sayController(settings, cc::chorusSend, value), true;
    case 0x22: return sayController(settings, cc::reverbSend, value), true;
    default: return false;
    }
}

/// The same of an XG part.
bool sayXgPart(DeviceSettings& settings, int parameter, int value) {
    constexpr std::array sound = {76, 77, 78, 74, 71, 73, 75, 72}; // 15 to 1C
    if (parameter >= 0x15 && parameter < 0x1D)
        return sayController(settings, sound[static_cast<std::size_t>(parameter - 0x15)], value), true;
    if (parameter >= 0x41 && parameter < 0x4D)
        return settings.keyTunings.push_back({parameter - 0x41, value - centre}), true;
    switch (parameter) {
    case 0x01: return sayController(settings, cc::bankMsb, value), true;
    case 0x02: return sayController(settings, cc::bankLsb, value), true;
    case 0x03: return settings.asChannel.push_back({0xC0, static_cast<std::uint8_t>(value), 0}), true;
    case 0x05: return sayController(settings, value == 0 ? cc::mono : cc::poly, value == 0), true;
    case 0x08: settings.partKeyShift = semitones(value); return true;
    case 0x0B: return sayController(settings, cc::volume, value), true;
    case 0x0E: return value > 0 && (sayController(settings, cc::pan, value), true);
    case 0x12: return sayController(settings, cc::chorusSend, value), true;
    case 0x13: return sayController(settings, cc::reverbSend, value), true;
    case 0x23: return sayBendRange(settings, value - centre), true;
    default: return false;
    }
}

} // namespace

void DeviceReader::reset() {
    for (std::size_t part = 0; part < m_receives.size(); ++part) m_receives[part] = static_cast<int>(part);
}

std::uint16_t DeviceReader::channelsOf(std::size_t part) const {
    const int channel = part < m_receives.size() ? m_receives[part] : noChannel;
    return channel < noChannel ? static_cast<std::uint16_t>(1U << channel) : std::uint16_t{0};
}

DeviceSettings DeviceReader::take(Bytes sysex) {
    DeviceSettings settings;
    settings.reset = resetIn(sysex);
    if (settings.reset != Dialect::None)
        reset();
    else if (!sysex.empty() && (sysex[0] == 0x7E || sysex[0] == 0x7F))
        takeUniversal(sysex, settings);
    else if (sysexMatches(sysex, {0x41, -1, 0x42, 0x12, 0x40, -1, -1, -1}))
        takeGs(sysex, settings);
    else if (sysexMatches(sysex, {0x43, -1, 0x4C, -1, -1, -1, -1}) && (sysex[1] & 0xF0) == 0x10)
        takeXg(sysex, settings);
    if (settings.channels == 0) { // no channel hears it
        settings.partKeyShift.reset();
        settings.keyTunings.clear();
        settings.asChannel.clear();
    }
    return settings;
}

void DeviceReader::takeUniversal(Bytes sysex, DeviceSettings& settings) const {
    const auto fourteen = [&](std::size_t at) { return (sysex[at] & 0x7F) | (sysex[at + 1] & 0x7F) << 7; };
    if (sysexMatches(sysex, {0x7F, -1, 0x04, 0x01, -1, -1})) settings.volume = fourteen(4) / 16383.0;
    if (sysexMatches(sysex, {0x7F, -1, 0x04, 0x03, -1, -1}))
        settings.tuning = (fourteen(4) - 8192) * 1000 / 8192;
    if (sysexMatches(sysex, {0x7F, -1, 0x04, 0x04, -1, -1})) settings.keyShift = (sysex[5] & 0x7F) - centre;
    const bool bytes = sysexMatches(sysex, {-1, -1, 0x08, 0x08}),
               words = sysexMatches(sysex, {-1, -1, 0x08, 0x09});
    const std::size_t each = words ? 2 : 1;
    if ((!bytes && !words) || sysex.size() < 7 + 12 * each) return;
    // Channels 15 and 16, then 8 to 14, then 1 to 7.
    settings.channels =
        static_cast<std::uint16_t>((sysex[4] & 3) << 14 | (sysex[5] & 0x7F) << 7 | (sysex[6] & 0x7F));
    for (int key = 0; key < 12; ++key) {
        const std::size_t at = 7 + static_cast<std::size_t>(key) * each;
        settings.keyTunings.push_back(
            {key, words ? (fourteenBits(sysex, at) - 8192) * 100 / 8192 : (sysex[at] & 0x7F) - centre});
    }
}

void DeviceReader::takeGs(Bytes sysex, DeviceSettings& settings) {
    const int block = sysex[5], first = sysex[6];
    // The byte before the end is the checksum.
    const Bytes data = dataFrom(sysex, 7, sysex.size() > 8 ? 1 : 0);
    if (block == 0x00 && first == 0x00) settings.tuning = masterTuning(data);
    if (block == 0x00 && first == 0x04) settings.volume = (sysex[7] & 0x7F) / 127.0;
    if (block == 0x00 && first == 0x05) settings.keyShift = semitones(sysex[7] & 0x7F);
    if ((block & 0xF0) != 0x10 && (block & 0xF0) != 0x20) return;
    const std::size_t part = gsPart(block);
    settings.channels = channelsOf(part);
    for (std::size_t i = 0; i < data.size(); ++i) {
        const int parameter = first + static_cast<int>(i), value = data[i] & 0x7F;
        if ((block & 0xF0) == 0x20) {
            if (parameter == 0x10) sayBendRange(settings, value - centre);
        } else if (parameter == 0x02) {
            m_receives[part] = std::min(value, noChannel);
            settings.channels = channelsOf(part);
        } else {
            (void)sayGsPart(settings, parameter, value);
        }
    }
}

void DeviceReader::takeXg(Bytes sysex, DeviceSettings& settings) {
    const int high = sysex[3], middle = sysex[4], first = sysex[5];
    const Bytes data = dataFrom(sysex, 6, 0);
    if (high == 0 && middle == 0) {
        if (first == 0x00) settings.tuning = masterTuning(data);
        if (first == 0x04) settings.volume = (sysex[6] & 0x7F) / 127.0;
        if (first == 0x06) settings.keyShift = semitones(sysex[6] & 0x7F);
    }
    if (high != 0x08 || middle >= noChannel) return;
    const auto part = static_cast<std::size_t>(middle);
    settings.channels = channelsOf(part);
    for (std::size_t i = 0; i < data.size(); ++i) {
        const int parameter = first + static_cast<int>(i), value = data[i] & 0x7F;
        if (parameter == 0x04) {
            m_receives[part] = std::min(value, noChannel);
            settings.channels = channelsOf(part);
        } else {
            (void)sayXgPart(settings, parameter, value);
        }
    }
}

std::vector<PlacedSettings> deviceSettingsOf(const MidiFile& file) {
    struct Message {
        SysexPlace place;
        Tick tick = 0;
        int port = 0;
        std::vector<std::uint8_t> bytes;
    };
    std::vector<Message> messages;
    forEachSysex(file, [&](Bytes bytes, const Event& event, const SysexPlace& place) {
        if (messages.size() < mostDeviceSettings)
            messages.push_back({place, event.tick, event.port, {bytes.begin(), bytes.end()}});
    });
    std::stable_sort(messages.begin(), messages.end(),
                     [](const Message& a, const Message& b) { return a.tick < b.tick; });
    std::array<DeviceReader, 128> readers; // a device a port
    std::vector<PlacedSettings> found;
    for (const Message& message : messages) {
        DeviceSettings settings = readers[static_cast<std::size_t>(message.port) & 0x7F].take(message.bytes);
        if (!settings.empty())
            found.push_back({message.place, message.tick, message.port, std::move(settings)});
    }
    return found;
}

DeviceVolume deviceVolumeOf(const MidiFile& file) {
    std::vector<std::pair<double, Tick>> set;
    forEachSysex(file, [&](Bytes bytes, const Event& event, const SysexPlace&) {
        if (const auto volume = DeviceReader().take(bytes).volume) set.emplace_back(*volume, event.tick);
    });
    if (set.empty()) return {};
    Tick firstNote = file.end();
    for (const Track& track : file.tracks) {
        const auto note = std::find_if(track.events.begin(), track.events.end(),
                                       [](const Event& event) { return event.isNoteOn(); });
        if (note != track.events.end()) firstNote = std::min(firstNote, note->tick);
    }
    const double first = set.front().first;
    const bool same = std::all_of(set.begin(), set.end(), [&](const auto& s) { return s.first == first; });
    const bool early =
        std::any_of(set.begin(), set.end(), [&](const auto& s) { return s.second <= firstNote; });
    if (same && first == 0) return {1, false, true};
    return same && early ? DeviceVolume{first} : DeviceVolume{1, true};
}

} // namespace cobbleway
