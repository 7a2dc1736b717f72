#include "song/heard/overview.h"

#include <algorithm>
#include <array>

namespace cobbleway {
namespace {

std::vector<Tick> latestEnds(const std::vector<DrawnNote>& notes) {
    std::vector<Tick> ends;
    ends.reserve(notes.size());
    Tick latest = 0;
    for (const DrawnNote& note : notes) ends.push_back(latest = std::max(latest, note.end));
    return ends;
}

/// Joins notes of one key with less than `grain` ticks between them.
std::vector<DrawnNote> coarser(const std::vector<DrawnNote>& fine, Tick grain) {
    constexpr std::size_t none = static_cast<std::size_t>(-1);
    std::array<std::size_t, 128> open;
    open.fill(none);
    std::vector<DrawnNote> joined;
    for (const DrawnNote& stretch : fine) {
        std::size_t& at = open[stretch.key.value & 0x7FU];
        if (at != none && stretch.start < joined[at].end + grain) {
            joined[at].end = std::max(joined[at].end, stretch.end);
            joined[at].velocity = std::max(joined[at].velocity, stretch.velocity);
        } else {
            at = joined.size();
            joined.push_back(stretch);
        }
    }
    return joined;
}

} // namespace

Density densityOf(const HeardPart& heard, Tick end) {
    Density density{};
    for (const Note& note : heard.notes) {
        const double share = static_cast<double>(note.start) / static_cast<double>(std::max<Tick>(1, end));
        ++density[std::min(static_cast<std::size_t>(share * densitySlices), densitySlices - 1)];
    }
    return density;
}

Overview::Overview(const HeardPart& heard) {
    if (heard.notes.empty()) return;
    std::array<bool, 128> used{};
    Level finest;
    finest.notes.reserve(heard.notes.size());
    for (const Note& note : heard.notes) {
        used[note.key.value & 0x7FU] = true;
        finest.notes.push_back({note.start, note.end, note.key, note.velocity});
    }
    for (int key = 0; key < 128; ++key)
        if (used[static_cast<std::size_t>(key)]) m_keys.push_back(key);
    finest.latestEnd = latestEnds(finest.notes);
    m_levels.push_back(std::move(finest));
    constexpr std::size_t few = 256; // below that nothing is gained
    for (Tick grain = 2; grain < Tick{1} << 40 && m_levels.back().notes.size() > few; grain *= 2) {
        Level level{grain, coarser(m_levels.back().notes, grain), {}};
        if (level.notes.size() * 10 > m_levels.back().notes.size() * 9) continue;
        level.latestEnd = latestEnds(level.notes);
        m_levels.push_back(std::move(level));
    }
}

std::span<const DrawnNote> Overview::between(Tick from, Tick to, Tick grain) const {
    const Level* level = nullptr;
    for (const Level& candidate : m_levels)
        if (!level || candidate.grain <= grain) level = &candidate;
    if (!level) return {};
    const auto first =
        std::upper_bound(level->latestEnd.begin(), level->latestEnd.end(), from) - level->latestEnd.begin();
    const auto last = std::partition_point(level->notes.begin(), level->notes.end(),
                                           [to](const DrawnNote& s) { return s.start < to; }) -
                      level->notes.begin();
    // A note of no length at the very start is there too.
    const auto begin = std::min(first, last);
    return std::span(level->notes)
        .subspan(static_cast<std::size_t>(begin), static_cast<std::size_t>(last - begin));
}

} // namespace cobbleway
