#include "midi/sysex.h"

#include <algorithm>

namespace cobbleway {

bool sysexMatches(std::span<const std::uint8_t> bytes, std::initializer_list<int> pattern) {
    if (bytes.size() < pattern.size()) return false;
    return std::equal(pattern.begin(), pattern.end(), bytes.begin(),
                      [](int want, std::uint8_t have) { return want < 0 || want == have; });
}

std::vector<std::uint8_t> sysexFrom(const MidiFile& file, std::uint32_t track, std::uint32_t first) {
    const auto& events = file.tracks[track].events;
    std::vector<std::uint8_t> bytes;
    for (std::uint32_t i = first; i < events.size(); ++i) {
        if (i != first && events[i].status == 0xF0) break;
        if (!events[i].isSysex()) continue;
        const auto piece = file.bytes(events[i]);
        bytes.insert(bytes.end(), piece.begin(), piece.end());
        if (!bytes.empty() && bytes.back() == 0xF7) break;
    }
    return bytes;
}

} // namespace cobbleway
