#include "song/shape/edits.h"
#include "song/snags/kinds.h"

namespace cobbleway {

void snags::noNotes(const PartContext& context, Found& found) {
    const Part& part = context.part;
    if (!part.aside) return;
    Snag snag = forPart(part, "no-notes", Step::Parts);
    snag.pill = "no notes";
    snag.what = part.name + " has no notes and was set aside.";
    snag.why = "It would only stand in the way; its few events are still written to MIDI files.";
    snag.mends.push_back(
        {"Keep it aside", true, [key = snag.key](const Song& song) { return edits::settle(song, key); }});
    found.push_back(std::move(snag));
}

} // namespace cobbleway
