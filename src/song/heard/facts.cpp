#include "song/heard/facts.h"

#include <algorithm>
#include <array>

namespace cobbleway {

PartFacts factsOf(const SongEvents& events, const PartSource& source) {
    PartFacts facts;
    std::array<bool, 128> used{};
    events.each(*source.events, [&](const Event& event, EventRef ref) {
        if (event.kind() == 0xB0) used[event.data1 & 0x7FU] = true;
        facts.lyrics += event.isMeta(meta::lyric);
        facts.hasTexts = facts.hasTexts || event.isMeta(meta::lyric) || event.isMeta(meta::text);
        if (!event.isNoteOn()) return;
        if (++facts.notes == 1) facts.firstNote = events.tickOf(ref);
        facts.keys.set(event.data1 & 0x7FU);
    });
    for (int key = 127; key >= 0; --key)
        if (facts.keys.test(static_cast<std::size_t>(key))) {
            facts.lowest = Key{static_cast<std::uint8_t>(key)};
            if (facts.highest.value == 0) facts.highest = facts.lowest;
        }
    for (std::size_t i = 0; i < used.size(); ++i)
        if (used[i]) facts.controllers.push_back(static_cast<std::uint8_t>(i));
    facts.program = firstProgram(events, source);
    return facts;
}

std::vector<Program> programsOf(const std::vector<Ask>& asks) {
    std::vector<Program> programs;
    for (const Ask& ask : asks)
        if (ask.program && std::find(programs.begin(), programs.end(), *ask.program) == programs.end())
            programs.push_back(*ask.program);
    return programs;
}

} // namespace cobbleway
