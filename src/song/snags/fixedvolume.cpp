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
    snag.pill = {"fixed-volume.pill"};
    snag.what = {"fixed-volume.what", {{"part", part.name}, {"value", *volume}}};
    snag.why = {"fixed-volume.why"};
    snag.fixes.push_back({{"fix.volume-into-level"}, true, [id = part.id](const Song& song) {
                              return edits::volumeIntoLevel(song, id);
                          }});
    found.push_back(std::move(snag));
}

} // namespace cobbleway
