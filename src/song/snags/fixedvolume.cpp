#include "song/model/levels.h"
#include "song/shape/edits.h"
#include "song/snags/kinds.h"

namespace cobbleway {

void snags::fixedVolume(const PartContext& context, Found& found) {
    const Part& part = context.part;
    const auto volume = part.aside ? std::nullopt : cobbleway::fixedVolume(context.song, part);
    if (!volume || *volume == 0) return;
    Snag snag = forPart(part, "fixed-volume", Step::Parts);
    snag.asked = false;
    snag.pill = "level is fixed";
    snag.what =
        "The volume controller of " + part.name + " never moves from " + std::to_string(*volume) + ".";
    snag.why = "In other programs it freezes the level: a fader that is moved jumps back.";
    snag.mends.push_back({"Make it the part's level", true,
                          [id = part.id](const Song& song) { return edits::volumeIntoLevel(song, id); }});
    found.push_back(std::move(snag));
}

} // namespace cobbleway
