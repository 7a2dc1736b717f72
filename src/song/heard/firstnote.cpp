#include "song/heard/firstnote.h"

#include <algorithm>

namespace cobbleway {

std::optional<FirstNote>
firstNoteAfter(const Song& song, PartId part, Tick place,
               const std::function<std::shared_ptr<const HeardPart>(const Part&)>& heardOf) {
    constexpr std::size_t mostHarmony = 6;
    const Part* lead = song.part(part);
    if (!lead || lead->source.drums) return std::nullopt;
    const auto own = heardOf(*lead);
    const auto first = std::find_if(own->notes.begin(), own->notes.end(),
                                    [place](const Note& n) { return n.start >= place; });
    if (first == own->notes.end()) return std::nullopt;
    FirstNote found{first->start, first->key, {}};
    for (const Note& note : own->notes) // of a chord the highest
        if (note.start == first->start && found.key.value < note.key.value) found.key = note.key;
    for (const Part& other : song.parts) {
        if (other.id == part || other.aside || other.source.drums || other.mix.role == Role::Off ||
            other.mix.muted)
            continue;
        const auto heard = heardOf(other);
        for (const Note& note : heard->notes) {
            if (note.start > found.tick) break;
            if (note.end > found.tick && found.harmony.size() < mostHarmony)
                found.harmony.emplace_back(other.id, note.key);
        }
    }
    return found;
}

int barsOfRest(const Song& song, const HeardPart& heard, Tick place) {
    const auto next = std::partition_point(heard.notes.begin(), heard.notes.end(),
                                           [place](const Note& n) { return n.start < place; });
    if (next == heard.notes.end()) return 0;
    const bool sounds =
        std::any_of(heard.notes.begin(), next, [place](const Note& n) { return n.end > place; });
    const int bar = song.tempo->position(place).bar, nextBar = song.tempo->position(next->start).bar;
    if (sounds || nextBar <= bar) return 0;
    return nextBar - bar; // this one is counted until it is over
}

} // namespace cobbleway
