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
    snag.pill = {"pitched-on-drums.pill"};
    snag.what = {"pitched-on-drums.what", {{"part", part.name}, {"reason", *why}}};
    snag.why = {"pitched-on-drums.why"};
    snag.fixes.push_back({{"fix.make-pitched"}, false, [id = part.id](const Song& song) {
                              return edits::makePitched(song, id);
                          }});
    found.push_back(std::move(snag));
}

} // namespace cobbleway
