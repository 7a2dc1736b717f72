#include "midi/dialect.h"

#include <algorithm>
#include <array>
#include <optional>

namespace cobbleway {
namespace {

using Bytes = std::span<const std::uint8_t>;

/// Matches bytes against a pattern in which -1 stands for any byte.
bool matches(Bytes bytes, std::initializer_list<int> pattern) {
    if (bytes.size() < pattern.size()) return false;
    return std::equal(pattern.begin(), pattern.end(), bytes.begin(),
                      [](int want, std::uint8_t have) { return want < 0 || want == have; });
}

Dialect dialectOf(Bytes sysex) {
    if (matches(sysex, {0x7E, -1, 0x09, 0x01})) return Dialect::GM;
    if (matches(sysex, {0x7E, -1, 0x09, 0x03})) return Dialect::GM2;
    if (matches(sysex, {0x41, -1, 0x42, 0x12, 0x40, 0x00, 0x7F, 0x00})) return Dialect::GS;
    const bool xg = matches(sysex, {0x43, -1, 0x4C, 0x00, 0x00, 0x7E, 0x00});
    return xg && (sysex[1] & 0xF0) == 0x10 ? Dialect::XG : Dialect::None;
}

std::optional<RhythmPart> rhythmPartOf(Bytes sysex) {
    if (matches(sysex, {0x41, -1, 0x42, 0x12, 0x40, -1, 0x15, -1}) && (sysex[5] & 0xF0) == 0x10) {
        // Part block 0 is channel 10; 1–9 are channels 1–9; A–F are channels 11–16.
        const int block = sysex[5] & 0x0F;
        const int channel = block == 0 ? 9 : (block < 10 ? block - 1 : block);
        return RhythmPart{Channel{static_cast<std::uint8_t>(channel)}, sysex[7] != 0, 0, 0};
    }
    const bool xg = matches(sysex, {0x43, -1, 0x4C, 0x08, -1, 0x07, -1}) && (sysex[1] & 0xF0) == 0x10;
    if (xg && sysex[4] < 16) return RhythmPart{Channel{sysex[4]}, sysex[6] != 0, 0, 0};
    return std::nullopt;
}

/// Visits the system exclusive messages of a track with their first events. Those that come in pieces
/// (SMF 1.0: F0 without a closing F7, then F7 events) are put together; pieces that are none of a message are
/// left out.
template <class Visit> void forEachSysex(const MidiFile& file, std::size_t track, Visit visit) {
    std::vector<std::uint8_t> pieces;
    Event first;
    std::uint32_t firstIndex = 0;
    bool open = false;
    file.eachBesideNotes(track, [&](const Event& event, std::uint32_t index) {
        if (event.status != 0xF0 && event.status != 0xF7) return;
        const Bytes bytes = file.bytes(event);
        const bool closes = !bytes.empty() && bytes.back() == 0xF7;
        if (event.status == 0xF0) {
            if (open) visit(Bytes(pieces), first, firstIndex); // it was never closed
            open = !closes;
            if (closes) return visit(bytes, event, index);
            first = event;
            firstIndex = index;
            pieces.assign(bytes.begin(), bytes.end());
        } else if (open) {
            pieces.insert(pieces.end(), bytes.begin(), bytes.end());
            if (!closes) return;
            open = false;
            visit(Bytes(pieces), first, firstIndex);
        }
    });
    if (open) visit(Bytes(pieces), first, firstIndex);
}

template <class Visit> void forEachSysex(const MidiFile& file, Visit visit) {
    for (std::size_t t = 0; t < file.tracks.size(); ++t)
        forEachSysex(file, t, [&](Bytes bytes, const Event& event, std::uint32_t) { visit(bytes, event); });
}

/// The master volume that a message sets, 0–1: Universal Real Time 04 01, GS 40 00 04, XG 00 00 04.
std::optional<double> masterVolumeIn(Bytes sysex) {
    if (matches(sysex, {0x7F, -1, 0x04, 0x01, -1, -1})) return (sysex[4] | sysex[5] << 7) / 16383.0;
    if (matches(sysex, {0x41, -1, 0x42, 0x12, 0x40, 0x00, 0x04, -1})) return sysex[7] / 127.0;
    const bool xg = matches(sysex, {0x43, -1, 0x4C, 0x00, 0x00, 0x04, -1}) && (sysex[1] & 0xF0) == 0x10;
    return xg ? std::optional(sysex[6] / 127.0) : std::nullopt;
}

/// The dialect whose banks a file selects before a program.
Dialect dialectByBanks(const MidiFile& file) {
    bool gm2 = false;
    for (std::size_t t = 0; t < file.tracks.size(); ++t) {
        std::array<int, 16> msb{};
        file.eachBesideNotes(t, [&](const Event& event, std::uint32_t) {
            if (event.isController(cc::bankMsb)) msb[event.channel().value] = event.data2;
            if (!event.isProgram()) return;
            const int bank = msb[event.channel().value];
            gm2 = gm2 || bank == 120 || bank == 121;
        });
    }
    return gm2 ? Dialect::GM2 : Dialect::None;
}

std::string percent(int value, int whole) { return std::to_string((value * 100 + whole / 2) / whole) + " %"; }

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

/// Universal messages (MIDI 1.0, table of universal system exclusive).
std::optional<Meaning> universalMeaning(Bytes sysex) {
    if (matches(sysex, {0x7E, -1, 0x09, 0x02})) return Meaning{"GM off", false};
    if (matches(sysex, {0x7F, -1, 0x04, 0x01, -1, -1}))
        return Meaning{"master volume " + percent(sysex[4] | sysex[5] << 7, 16383), true};
    if (matches(sysex, {0x7F, -1, 0x04, 0x02, -1, -1})) return Meaning{"master balance", false};
    if (matches(sysex, {0x7F, -1, 0x04, 0x03, -1, -1})) {
        const int cents = ((sysex[4] | sysex[5] << 7) - 8192) * 100 / 8192;
        return Meaning{"master tuning " + std::to_string(cents) + " cents", cents == 0};
    }
    if (matches(sysex, {0x7F, -1, 0x04, 0x04, -1, -1}))
        return Meaning{"master transposition " + std::to_string(sysex[5] - 64) + " semitones",
                       sysex[5] == 64};
    if (matches(sysex, {0x7F, -1, 0x04, 0x05})) return Meaning{"reverb or chorus settings", false};
    if (matches(sysex, {0x7E, -1, 0x08}) || matches(sysex, {0x7F, -1, 0x08}))
        return Meaning{"a tuning of single notes", false};
    return std::nullopt;
}

/// Messages of the GS and XG conventions, by their published addresses.
std::optional<Meaning> conventionMeaning(Bytes sysex) {
    const bool gs = matches(sysex, {0x41, -1, 0x42, 0x12, 0x40, -1, -1, -1});
    if (gs && sysex[5] == 0x00 && sysex[6] == 0x04)
        return Meaning{"master volume " + percent(sysex[7], 127), true};
    if (gs && sysex[5] == 0x00 && sysex[6] == 0x00) return Meaning{"master tuning", false};
    if (gs && sysex[5] == 0x00 && sysex[6] == 0x05) return Meaning{"master transposition", false};
    if (gs && sysex[5] == 0x01 && sysex[6] >= 0x30 && sysex[6] <= 0x40)
        return Meaning{sysex[6] < 0x38 ? "reverb settings" : "chorus settings", false};
    if (gs) return Meaning{"a GS setting", false};
    const bool xg = matches(sysex, {0x43, -1, 0x4C, -1, -1, -1, -1}) && (sysex[1] & 0xF0) == 0x10;
    if (xg && sysex[3] == 0x02) return Meaning{"effect settings", false};
    if (xg && sysex[3] == 0x00 && sysex[5] == 0x04)
        return Meaning{"master volume " + percent(sysex[6], 127), true};
    if (xg) return Meaning{"an XG setting", false};
    return std::nullopt;
}

Meaning meaningOf(Bytes sysex) {
    if (const Dialect dialect = dialectOf(sysex); dialect != Dialect::None)
        return {std::string(dialectName(dialect)) + " reset", true};
    if (const auto rhythm = rhythmPartOf(sysex))
        return {"channel " + std::to_string(rhythm->channel.value + 1) +
                    (rhythm->drums ? " made drums" : " made pitched"),
                true};
    if (auto known = universalMeaning(sysex)) return *known;
    if (auto known = conventionMeaning(sysex)) return *known;
    return {makerText(sysex), false};
}

} // namespace

std::string_view dialectName(Dialect dialect) {
    switch (dialect) {
    case Dialect::GM: return "GM";
    case Dialect::GM2: return "GM2";
    case Dialect::GS: return "GS";
    case Dialect::XG: return "XG";
    case Dialect::None: break;
    }
    return "none said";
}

Dialect dialectOf(const MidiFile& file) {
    Dialect richest = Dialect::None;
    forEachSysex(file, [&](Bytes sysex, const Event&) { richest = std::max(richest, dialectOf(sysex)); });
    return richest == Dialect::None ? dialectByBanks(file) : richest;
}

std::vector<RhythmPart> rhythmPartsOf(const MidiFile& file) {
    std::vector<RhythmPart> found;
    forEachSysex(file, [&](Bytes sysex, const Event& event) {
        if (auto part = rhythmPartOf(sysex)) {
            part->tick = event.tick;
            part->port = event.port;
            found.push_back(*part);
        } else if (dialectOf(sysex) != Dialect::None) // a reset gives each channel its first state
            for (std::uint8_t channel = 0; channel < 16; ++channel)
                found.push_back({Channel{channel}, Channel{channel} == drumChannel, event.tick, event.port});
    });
    std::stable_sort(found.begin(), found.end(),
                     [](const RhythmPart& a, const RhythmPart& b) { return a.tick < b.tick; });
    return found;
}

bool madeDrums(std::span<const RhythmPart> messages, int port, Channel channel, Tick tick) {
    bool drums = channel == drumChannel;
    for (const RhythmPart& message : messages)
        if (message.tick <= tick && message.port == port && message.channel == channel) drums = message.drums;
    return drums;
}

void eachDeviceMessage(const MidiFile& file, const std::function<void(const DeviceMessage&)>& take) {
    const bool volumeFollowed = masterVolumeOf(file) != 1; // else none, full, moving or silent
    for (std::uint32_t t = 0; t < file.tracks.size(); ++t)
        forEachSysex(file, t, [&](Bytes bytes, const Event& event, std::uint32_t i) {
            const Meaning meaning = meaningOf(bytes);
            DeviceMessage message{t, i, event.tick, meaning.what, meaning.followed, dialectOf(bytes)};
            if (const auto volume = masterVolumeIn(bytes); volume && !volumeFollowed)
                message.followed = *volume == 1;
            take(message);
        });
}

std::vector<DeviceMessage> deviceMessagesOf(const MidiFile& file) {
    std::vector<DeviceMessage> found;
    eachDeviceMessage(file, [&](const DeviceMessage& message) { found.push_back(message); });
    return found;
}

double masterVolumeOf(const MidiFile& file) {
    std::optional<double> only;
    bool moves = false;
    forEachSysex(file, [&](Bytes sysex, const Event&) {
        const auto volume = masterVolumeIn(sysex);
        if (!volume) return;
        moves = moves || (only && *only != *volume);
        only = volume;
    });
    return moves || !only || *only == 0 ? 1 : *only;
}

} // namespace cobbleway
