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
        return RhythmPart{Channel{static_cast<std::uint8_t>(channel)}, sysex[7] != 0};
    }
    const bool xg = matches(sysex, {0x43, -1, 0x4C, 0x08, -1, 0x07, -1}) && (sysex[1] & 0xF0) == 0x10;
    if (xg && sysex[4] < 16) return RhythmPart{Channel{sysex[4]}, sysex[6] != 0};
    return std::nullopt;
}

template <class Visit> void forEachSysex(const MidiFile& file, Visit visit) {
    for (std::size_t t = 0; t < file.tracks.size(); ++t)
        file.eachBesideNotes(t, [&](const Event& event, std::uint32_t) {
            if (event.status == 0xF0) visit(file.bytes(event));
        });
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
        return Meaning{"master volume " + percent(sysex[7], 127), false};
    if (gs && sysex[5] == 0x00 && sysex[6] == 0x00) return Meaning{"master tuning", false};
    if (gs && sysex[5] == 0x00 && sysex[6] == 0x05) return Meaning{"master transposition", false};
    if (gs && sysex[5] == 0x01 && sysex[6] >= 0x30 && sysex[6] <= 0x40)
        return Meaning{sysex[6] < 0x38 ? "reverb settings" : "chorus settings", false};
    if (gs) return Meaning{"a GS setting", false};
    const bool xg = matches(sysex, {0x43, -1, 0x4C, -1, -1, -1, -1}) && (sysex[1] & 0xF0) == 0x10;
    if (xg && sysex[3] == 0x02) return Meaning{"effect settings", false};
    if (xg && sysex[3] == 0x00 && sysex[5] == 0x04)
        return Meaning{"master volume " + percent(sysex[6], 127), false};
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
    forEachSysex(file, [&](Bytes sysex) { richest = std::max(richest, dialectOf(sysex)); });
    return richest == Dialect::None ? dialectByBanks(file) : richest;
}

std::vector<RhythmPart> rhythmPartsOf(const MidiFile& file) {
    std::vector<RhythmPart> found;
    forEachSysex(file, [&](Bytes sysex) {
        if (const auto part = rhythmPartOf(sysex)) found.push_back(*part);
    });
    return found;
}

void eachDeviceMessage(const MidiFile& file, const std::function<void(const DeviceMessage&)>& take) {
    const bool volumeFollowed = masterVolumeOf(file) != 1; // else none, full, moving or silent
    for (std::uint32_t t = 0; t < file.tracks.size(); ++t)
        file.eachBesideNotes(t, [&](const Event& event, std::uint32_t i) {
            if (event.status != 0xF0) return;
            const Meaning meaning = meaningOf(file.bytes(event));
            DeviceMessage message{
                t, i, event.tick, meaning.what, meaning.followed, dialectOf(file.bytes(event))};
            if (!volumeFollowed && message.what.starts_with("master volume"))
                message.followed = message.what.ends_with("100 %");
            take(message);
        });
}

std::vector<DeviceMessage> deviceMessagesOf(const MidiFile& file) {
    std::vector<DeviceMessage> found;
    eachDeviceMessage(file, [&](const DeviceMessage& message) { found.push_back(message); });
    return found;
}

double masterVolumeOf(const MidiFile& file) {
    std::optional<int> only;
    bool moves = false;
    forEachSysex(file, [&](Bytes sysex) {
        if (!matches(sysex, {0x7F, -1, 0x04, 0x01, -1, -1})) return;
        const int value = sysex[4] | sysex[5] << 7;
        moves = moves || (only && *only != value);
        only = value;
    });
    return moves || !only || *only == 0 ? 1 : *only / 16383.0;
}

} // namespace cobbleway
