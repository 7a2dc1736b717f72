#include "midi/dialect.h"

#include "midi/sysex.h"

#include <algorithm>
#include <array>
#include <map>
#include <optional>
#include <set>
#include <utility>

namespace cobbleway {
namespace {

using Bytes = std::span<const std::uint8_t>;

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

} // namespace

Dialect resetIn(Bytes sysex) {
    if (sysexMatches(sysex, {0x7E, -1, 0x09, 0x01})) return Dialect::GM;
    if (sysexMatches(sysex, {0x7E, -1, 0x09, 0x03})) return Dialect::GM2;
    if (sysexMatches(sysex, {0x41, -1, 0x42, 0x12, 0x40, 0x00, 0x7F, 0x00})) return Dialect::GS;
    const bool xg = sysexMatches(sysex, {0x43, -1, 0x4C, 0x00, 0x00, 0x7E, 0x00});
    return xg && (sysex[1] & 0xF0) == 0x10 ? Dialect::XG : Dialect::None;
}

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

std::optional<RhythmPart> rhythmPartIn(Bytes sysex) {
    if (sysexMatches(sysex, {0x41, -1, 0x42, 0x12, 0x40, -1, 0x15, -1}) && (sysex[5] & 0xF0) == 0x10) {
        // Part block 0 is channel 10; 1–9 are channels 1–9; A–F are channels 11–16.
        const int block = sysex[5] & 0x0F;
        const int channel = block == 0 ? 9 : (block < 10 ? block - 1 : block);
        return RhythmPart{Channel{static_cast<std::uint8_t>(channel)}, sysex[7] != 0, 0, 0};
    }
    const bool xg = sysexMatches(sysex, {0x43, -1, 0x4C, 0x08, -1, 0x07, -1}) && (sysex[1] & 0xF0) == 0x10;
    if (xg && sysex[4] < 16) return RhythmPart{Channel{sysex[4]}, sysex[6] != 0, 0, 0};
    return std::nullopt;
}

Dialect dialectOf(const MidiFile& file) {
    Dialect richest = Dialect::None;
    forEachSysex(file, [&](Bytes sysex, const Event&, const SysexPlace&) {
        richest = std::max(richest, resetIn(sysex));
    });
    return richest == Dialect::None ? dialectByBanks(file) : richest;
}

namespace {

/// Drops messages of a file, in order of tick, that leave their channel as it is: a million resets in a row
/// come to a few.
std::vector<RhythmPart> changesOf(std::vector<RhythmPart> messages) {
    std::map<int, std::array<bool, 16>> drums; // by port
    std::erase_if(messages, [&](const RhythmPart& message) {
        const auto [at, fresh] = drums.try_emplace(message.port);
        if (fresh) at->second[drumChannel.value] = true;
        return std::exchange(at->second[message.channel.value], message.drums) == message.drums;
    });
    return messages;
}

} // namespace

std::vector<RhythmPart> rhythmPartsOf(const MidiFile& file) {
    struct Said {
        Tick tick;
        int port;
        std::optional<RhythmPart> part; ///< none: a reset, which gives each channel its first state
    };
    std::vector<Said> said;
    forEachSysex(file, [&](Bytes sysex, const Event& event, const SysexPlace&) {
        if (auto part = rhythmPartIn(sysex))
            said.push_back({event.tick, event.port, part});
        else if (resetIn(sysex) != Dialect::None)
            said.push_back({event.tick, event.port, std::nullopt});
    });
    std::stable_sort(said.begin(), said.end(), [](const Said& a, const Said& b) { return a.tick < b.tick; });
    std::vector<RhythmPart> found;
    std::set<int> reset; // ports that nobody has changed since their last reset
    for (const Said& one : said) {
        if (one.part) {
            reset.erase(one.port);
            found.push_back({one.part->channel, one.part->drums, one.tick, one.port});
        } else if (reset.insert(one.port).second) {
            for (std::uint8_t channel = 0; channel < 16; ++channel)
                found.push_back({Channel{channel}, Channel{channel} == drumChannel, one.tick, one.port});
        }
    }
    return changesOf(std::move(found));
}

bool madeDrums(std::span<const RhythmPart> messages, int port, Channel channel, Tick tick) {
    bool drums = channel == drumChannel;
    for (const RhythmPart& message : messages)
        if (message.tick <= tick && message.port == port && message.channel == channel) drums = message.drums;
    return drums;
}

} // namespace cobbleway
