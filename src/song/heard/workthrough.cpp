#include "song/heard/workthrough.h"

#include <algorithm>

namespace cobbleway {
namespace {

constexpr int barsAtATime = 8;

/// The song's sections, or stretches of some bars.
std::vector<Section> sectionsOf(const Song& song) {
    if (!song.sections.empty()) return song.sections;
    std::vector<Section> found;
    for (int bar = 1; bar <= song.bars(); bar += barsAtATime) {
        const Tick start = song.tempo->barStart(bar);
        const Tick end = std::min(song.end, song.tempo->barStart(bar + barsAtATime));
        const int last = std::min(song.bars(), bar + barsAtATime - 1);
        if (end > start)
            found.push_back({start, end, "bars " + std::to_string(bar) + "–" + std::to_string(last)});
    }
    return found;
}

} // namespace

std::vector<WorkRound> workThrough(const Song& song, Tick place, const WorkWish& wish) {
    std::vector<WorkRound> rounds;
    const int each = std::clamp(wish.rounds, 1, 12), joined = std::max(1, each / 2);
    const Section* before = nullptr;
    const auto sections = sectionsOf(song);
    for (const Section& section : sections) {
        if (section.end <= place) continue;
        for (int round = 0; round < each; ++round) {
            const int pace = each == 1 ? wish.to : wish.from + (wish.to - wish.from) * round / (each - 1);
            rounds.push_back({section.start, section.end, pace, section.name, round + 1, each});
        }
        for (int round = 0; before && round < joined; ++round)
            rounds.push_back({before->start, section.end, wish.to, before->name + " and " + section.name,
                              round + 1, joined});
        before = &section;
    }
    return rounds;
}

} // namespace cobbleway
