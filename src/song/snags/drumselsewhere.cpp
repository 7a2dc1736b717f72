#include "song/drums/drumedits.h"
#include "song/match/drumlikeness.h"
#include "song/snags/kinds.h"

namespace cobbleway {

void snags::drumsElsewhere(const PartContext& context, Found& found) {
    const Part& part = context.part;
    const auto why = whyDrums(context.song, part);
    if (!why) return;
    Snag snag = forPart(part, "drums-elsewhere", Step::Parts);
    snag.pill = {"drums-elsewhere.pill"};
    snag.what = {"drums-elsewhere.what", {{"part", part.name}, {"reason", *why}}};
    snag.why = {"drums-elsewhere.why", {{"channel", part.source.channel.value + 1}}};
    snag.fixes.push_back({{"fix.make-drums"}, false, [id = part.id](const Song& song) {
                              return edits::drumsBack(song, {id});
                          }});
    found.push_back(std::move(snag));
}

} // namespace cobbleway
