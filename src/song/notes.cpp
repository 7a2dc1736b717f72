#include "song/notes.h"

#include <algorithm>

namespace cobbleway {

std::size_t Origins::find(const Origin& origin) {
    const auto at = std::find(m_all.begin(), m_all.end(), origin);
    m_last = static_cast<std::size_t>(at - m_all.begin());
    if (at == m_all.end()) m_all.push_back(origin);
    return m_last;
}

std::vector<PartNote> notesOf(const Song& song, const Part& part) {
    std::vector<PartNote> notes;
    notes.reserve(part.events->size() / 2);
    NotePairs pairs;
    pairs.reserve(part.events->size() / 2);
    Origins origins(song);
    const auto& refs = *part.events;
    for (std::uint32_t i = 0; i < refs.size(); ++i) {
        const Event& event = song.event(refs[i]);
        if (event.isNoteOn()) {
            pairs.on(origins.of(refs[i]), event.data1, static_cast<std::uint32_t>(notes.size()));
            const Tick tick = song.tickOf(refs[i]);
            notes.push_back(
                {i, noEvent, tick, std::max(tick, song.end), Key{event.data1}, Velocity{event.data2}});
        } else if (event.isNoteOff()) {
            const std::uint32_t note = pairs.off(origins.of(refs[i]), event.data1);
            if (note == noEvent) continue;
            notes[note].off = i;
            notes[note].end = song.tickOf(refs[i]);
        }
    }
    return notes;
}

std::vector<OriginCount> originsOf(const Song& song, const Part& part) {
    Origins origins(song);
    std::vector<OriginCount> counts;
    for (const EventRef ref : *part.events) {
        const Event& event = song.event(ref);
        if (!event.isChannel()) continue;
        const std::size_t at = origins.of(ref);
        if (at >= counts.size()) counts.push_back({origins.all()[at], 0});
        counts[at].notes += event.isNoteOn();
    }
    return counts;
}

} // namespace cobbleway
