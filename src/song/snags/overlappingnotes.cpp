#include "song/heard/notes.h"
#include "song/shape/edits.h"
#include "song/snags/kinds.h"

namespace cobbleway {

void snags::overlappingNotes(const PartContext& context, Found& found) {
    const Part& part = context.part;
    if (part.aside || part.recipe.unisons == Unisons::Cut) return;
    std::array<Tick, 128> ends, starts;
    ends.fill(-1);
    starts.fill(-1);
    std::size_t overlaps = 0;
    Tick place = 0;
    for (const Note& note : context.heard.notes) {
        const std::size_t key = note.key.value & 0x7FU;
        if (note.start < ends[key] && note.start != starts[key] && overlaps++ == 0) place = note.start;
        ends[key] = std::max(ends[key], note.end);
        starts[key] = note.start;
    }
    if (overlaps == 0 || originsOf(context.song, part.source).size() < 2) return;
    Snag snag = forPart(part, "overlapping-notes", Step::Parts);
    snag.place = place;
    snag.pill = {"overlapping-notes.pill", {{"notes", overlaps}}};
    snag.what = {"overlapping-notes.what", {{"notes", overlaps}, {"part", part.name}}};
    snag.why = {"overlapping-notes.why"};
    snag.fixes.push_back({{"fix.cut-overlaps"}, false, [id = part.id](const Song& song) {
                              return edits::setUnisons(song, id, Unisons::Cut);
                          }});
    found.push_back(std::move(snag));
}

} // namespace cobbleway
