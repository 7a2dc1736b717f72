#include "song/heard/notes.h"

#include <algorithm>

namespace cobbleway {

std::size_t Origins::find(const Origin& origin) {
    const auto at = std::find(m_all.begin(), m_all.end(), origin);
    m_last = static_cast<std::size_t>(at - m_all.begin());
    if (at == m_all.end()) m_all.push_back(origin);
    return m_last;
}

std::vector<PartNote> notesOf(const SongEvents& events, const PartSource& source) {
    std::vector<PartNote> notes;
    notes.reserve(source.events->size() / 2);
    NotePairs pairs;
    pairs.reserve(source.events->size() / 2);
    Origins origins(events);
    LooseEnds loose;
    std::uint32_t next = 0;
    events.each(*source.events, [&](const Event& event, EventRef ref) {
        const std::uint32_t i = next++;
        if (event.isNoteOn()) {
            pairs.on(origins.numberOf(ref), event.data1, static_cast<std::uint32_t>(notes.size()));
            const Tick tick = events.tickOf(ref);
            notes.push_back(
                {i, noEvent, tick, std::max(tick, events.end), Key{event.data1}, Velocity{event.data2}});
        } else if (event.isNoteOff()) {
            const std::size_t origin = origins.numberOf(ref);
            const std::uint32_t note = pairs.off(origin, event.data1);
            if (note == noEvent) return loose.add({origin, event.data1, events.tickOf(ref), i});
            notes[note].off = i;
            notes[note].end = events.tickOf(ref);
        }
    });
    loose.settle(
        pairs, origins, [&](std::uint32_t note) { return notes[note].start; },
        [&](std::uint32_t note, const LooseEnds::End& end) {
            notes[note].off = end.event;
            notes[note].end = end.tick;
        });
    return notes;
}

std::vector<OriginCount> originsOf(const SongEvents& events, const PartSource& source) {
    Origins origins(events);
    std::vector<OriginCount> counts;
    events.each(*source.events, [&](const Event& event, EventRef ref) {
        if (!event.isChannel()) return;
        const std::size_t at = origins.numberOf(ref);
        if (at >= counts.size()) counts.push_back({origins.all()[at], 0});
        counts[at].notes += event.isNoteOn();
    });
    return counts;
}

} // namespace cobbleway
