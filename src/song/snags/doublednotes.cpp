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
    snag.pill = std::to_string(doubled) + (doubled == 1 ? " note doubled" : " notes doubled");
    snag.what = counted(doubled, "note") + " of " + part.name + (doubled == 1 ? " is" : " are") +
                " struck twice at the same moment.";
    snag.why = "Some devices play them too loud, others let the end of one cut the other off.";
    snag.mends.push_back({"Keep one of each", false, [id = part.id](const Song& song) {
                              return edits::setUnisons(song, id, Unisons::KeepOne);
                          }});
    found.push_back(std::move(snag));
}

} // namespace cobbleway
