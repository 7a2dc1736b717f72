#include "song/heard/overview.h"

#include <algorithm>
#include <array>

namespace cobbleway {
namespace {

/// Joins notes of one key with less than `grain` ticks between them.
std::vector<DrawnNote> coarser(std::span<const DrawnNote> fine, Tick grain) {
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

void Overview::Level::findEnds(std::span<const DrawnNote> notes) {
    Tick latest = 0;
    for (std::size_t i = 0; i < notes.size(); ++i) {
        latest = std::max(latest, notes[i].end);
        if ((i + 1) % stretch == 0 || i + 1 == notes.size()) latestEnd.push_back(latest);
    }
}

std::span<const DrawnNote> Overview::notesOf(const Level& level) const {
    return &level == &m_levels.front() ? std::span(m_heard->notes) : std::span(level.joined);
}

Overview::Overview(std::shared_ptr<const HeardPart> heard) : m_heard(std::move(heard)) {
    if (m_heard->notes.empty()) return;
    std::array<bool, 128> used{};
    for (const Note& note : m_heard->notes) used[note.key.value & 0x7FU] = true;
    for (int key = 0; key < 128; ++key)
        if (used[static_cast<std::size_t>(key)]) m_keys.push_back(key);
    m_levels.emplace_back().findEnds(m_heard->notes);
    constexpr std::size_t few = 256; // below that nothing is gained
    std::size_t size = m_heard->notes.size();
    for (Tick grain = 2; grain < Tick{1} << 40 && size > few; grain *= 2) {
        Level level{grain, coarser(notesOf(m_levels.back()), grain), {}};
        if (level.joined.size() * 2 > size) continue; // so all take no more room than the notes
        level.joined.shrink_to_fit();
        level.findEnds(level.joined);
        size = level.joined.size();
        m_levels.push_back(std::move(level));
    }
}

std::span<const DrawnNote> Overview::between(Tick from, Tick to, Tick grain) const {
    const Level* level = nullptr;
    for (const Level& candidate : m_levels)
        if (!level || candidate.grain <= grain) level = &candidate;
    if (!level) return {};
    const auto notes = notesOf(*level);
    const auto stretch =
        std::upper_bound(level->latestEnd.begin(), level->latestEnd.end(), from) - level->latestEnd.begin();
    const auto first = std::min(static_cast<std::size_t>(stretch) * Level::stretch, notes.size());
    const auto last = static_cast<std::size_t>(
        std::partition_point(notes.begin(), notes.end(), [to](const DrawnNote& s) { return s.start < to; }) -
        notes.begin());
    // A note of no length at the very start is there too.
    const auto begin = std::min(first, last);
    return notes.subspan(begin, last - begin);
}

} // namespace cobbleway
