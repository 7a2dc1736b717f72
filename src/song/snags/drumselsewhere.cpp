#include "song/drums/drumedits.h"
#include "song/match/drumlikeness.h"
#include "song/snags/kinds.h"

namespace cobbleway {

void snags::drumsElsewhere(const PartContext& context, Found& found) {
    const Part& part = context.part;
    const auto why = whyDrums(context.song, part);
    if (!why) return;
    Snag snag = forPart(part, "drums-elsewhere", Step::Parts);
    snag.pill = "drums?";
    snag.what = part.name + " seems to be drums: " + *why + ".";
    snag.why = "On channel " + std::to_string(part.source.channel.value + 1) + " a pitched sound plays it.";
    snag.mends.push_back(
        {"Make it drums", false, [id = part.id](const Song& song) { return edits::drumsBack(song, {id}); }});
    found.push_back(std::move(snag));
}

} // namespace cobbleway
