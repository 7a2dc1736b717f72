#include "song/match/drumlikeness.h"
#include "song/match/names.h"
#include "song/shape/edits.h"
#include "song/snags/kinds.h"

namespace cobbleway {

void snags::pitchedOnDrums(const PartContext& context, Found& found) {
    const Part& part = context.part;
    const auto why = whyPitched(context.song, part);
    if (!why) return;
    Snag snag = forPart(part, "pitched-on-drums", Step::Parts);
    snag.pill = "not drums?";
    snag.what = part.name + " is played by a drum kit, but it seems to be pitched: " + *why + ".";
    snag.why = "Its melody comes out as drum beats.";
    snag.mends.push_back({"Make it pitched", false,
                          [id = part.id](const Song& song) { return edits::makePitched(song, id); }});
    found.push_back(std::move(snag));
}

} // namespace cobbleway
