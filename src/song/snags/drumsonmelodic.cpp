#include "song/derived.h"
#include "song/shape/edits.h"
#include "song/snags/kinds.h"

namespace cobbleway {

/// A drum part that a pitched sound of a soundfont plays.
void snags::drumsOnMelodic(const PartContext& context, Found& found) {
    const Part& part = context.part;
    if (!part.source.drums || part.aside || !part.sound.chosen) return;
    if (context.drums()->kit.isKit) return;
    Snag snag = forPart(part, "drums-on-melodic", Step::Drums);
    snag.serious = true;
    snag.pill = {"drums-on-melodic.pill"};
    snag.what = {"drums-on-melodic.what", {{"part", part.name}, {"sound", part.sound.chosen->name}}};
    snag.why = {"drums-on-melodic.why"};
    snag.fixes.push_back(
        {{"fix.use-kit"}, false, [id = part.id](const Song& song) { return edits::followFile(song, id); }});
    snag.fixes.push_back({{"fix.make-pitched"}, false, [id = part.id](const Song& song) {
                              return edits::makePitched(song, id);
                          }});
    found.push_back(std::move(snag));
}

} // namespace cobbleway
