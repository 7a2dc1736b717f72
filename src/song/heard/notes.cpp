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
    std::uint32_t next = 0;
    events.each(*source.events, [&](const Event& event, EventRef ref) {
        const std::uint32_t i = next++;
        if (event.isNoteOn()) {
            pairs.on(origins.numberOf(ref), event.data1, static_cast<std::uint32_t>(notes.size()));
            const Tick tick = events.tickOf(ref);
            notes.push_back(
                {i, noEvent, tick, std::max(tick, events.end), Key{event.data1}, Velocity{event.data2}});
        } else if (event.isNoteOff()) {
            const std::uint32_t note = pairs.off(origins.numberOf(ref), event.data1);
            if (note == noEvent) return;
            notes[note].off = i;
            notes[note].end = events.tickOf(ref);
        }
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
