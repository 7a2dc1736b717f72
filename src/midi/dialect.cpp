#include "midi/dialect.h"

#include <algorithm>
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
    for (const Track& track : file.tracks)
        for (const Event& event : track.events)
            if (event.status == 0xF0) visit(file.bytes(event));
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
    return richest;
}

std::vector<RhythmPart> rhythmPartsOf(const MidiFile& file) {
    std::vector<RhythmPart> found;
    forEachSysex(file, [&](Bytes sysex) {
        if (const auto part = rhythmPartOf(sysex)) found.push_back(*part);
    });
    return found;
}

} // namespace cobbleway
