#include "song/shape/edits.h"
#include "song/snags/kinds.h"

namespace cobbleway {

void snags::doubledNotes(const PartContext& context, Found& found) {
    const Part& part = context.part;
    if (part.aside || part.recipe.unisons != Unisons::KeepBoth) return;
    std::array<Tick, 128> last;
    last.fill(-1);
    std::size_t doubled = 0;
    Tick place = 0;
    for (const Note& note : context.heard.notes) {
        Tick& before = last[note.key.value & 0x7FU];
        if (before == note.start && doubled++ == 0) place = note.start;
        before = note.start;
    }
    // A few doubled hits are how somebody played. Common practice, no source.
    const std::size_t all = context.heard.notes.size();
    if (doubled == 0 || (doubled < 10 && (doubled * 100 < all || part.source.drums))) return;
    Snag snag = forPart(part, "doubled-notes", Step::Parts);
    snag.place = place;
    snag.pill = {"doubled-notes.pill", {{"notes", doubled}}};
    snag.what = {"doubled-notes.what", {{"notes", doubled}, {"part", part.name}}};
    snag.why = {"doubled-notes.why"};
    snag.fixes.push_back({{"fix.keep-one"}, false, [id = part.id](const Song& song) {
                              return edits::setUnisons(song, id, Unisons::KeepOne);
                          }});
    found.push_back(std::move(snag));
}

} // namespace cobbleway
