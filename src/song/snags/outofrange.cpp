#include "song/match/evidence.h"
#include "song/match/rangefit.h"
#include "song/shape/edits.h"
#include "song/snags/kinds.h"

namespace cobbleway {
void snags::outOfRange(const PartContext& context, Found& found) {
    const Part& part = context.part;
    const auto& sound = context.match.first().sound;
    const Preset* preset = part.aside || !sound ? nullptr : context.catalogue.find(*sound);
    if (!preset) return;
    const HeardPart& heard = context.heard;
    const auto histogram = histogramOf(heard);
    const int outside = notesOutside(histogram, *preset);
    if (outside == 0) return;
    Snag snag = forPart(part, "out-of-range", Step::Sounds);
    for (const Note& note : heard.notes)
        if (!preset->plays(note.key)) {
            snag.place = note.start;
            break;
        }
    snag.serious = outside * 2 > static_cast<int>(heard.notes.size());
    snag.pill = {"out-of-range.pill", {{"notes", outside}}};
    snag.what = {"out-of-range.what", {{"notes", outside}, {"part", part.name}, {"sound", sound->name}}};
    snag.why = {"out-of-range.why", {{"notes", outside}}};
    const int octaves = part.source.drums ? 0 : bestOctaves(context.traits().keys, *preset);
    if (octaves != 0)
        snag.fixes.push_back({shiftByOctaves(octaves), false,
                              [id = part.id, to = part.recipe.octaves + octaves](const Song& song) {
                                  return edits::setOctaves(song, id, to);
                              }});
    if (!part.source.drums)
        snag.fixes.push_back(
            {{"fix.fold-notes"}, false, [id = part.id, range = foldRange(*preset)](const Song& song) {
                 return edits::foldInto(song, id, range);
             }});
    found.push_back(std::move(snag));
}

} // namespace cobbleway
