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
    snag.pill = "not a kit";
    snag.what = part.name + " is drums, and " + part.sound.chosen->name + ", which is no drum kit, plays it.";
    snag.why = "Every drum comes out as a note of a melody.";
    snag.mends.push_back({"Play it with a kit", false,
                          [id = part.id](const Song& song) { return edits::followFile(song, id); }});
    snag.mends.push_back({"Make it pitched", false,
                          [id = part.id](const Song& song) { return edits::makePitched(song, id); }});
    found.push_back(std::move(snag));
}

} // namespace cobbleway
