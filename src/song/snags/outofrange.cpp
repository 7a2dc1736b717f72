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
    snag.pill = std::to_string(outside) + " out of range";
    snag.what = std::to_string(outside) + (outside == 1 ? " note of " : " notes of ") + part.name +
                (outside == 1 ? " lies" : " lie") + " outside what " + sound->name + " can play.";
    snag.why = outside == 1 ? "That note is silent." : "Those notes are silent.";
    const int octaves = part.source.drums ? 0 : bestOctaves(context.traits().keys, *preset);
    if (octaves != 0)
        snag.mends.push_back({octavesText(octaves), false,
                              [id = part.id, to = part.recipe.octaves + octaves](const Song& song) {
                                  return edits::setOctaves(song, id, to);
                              }});
    if (!part.source.drums)
        snag.mends.push_back({"Move only those notes by octaves", false,
                              [id = part.id, range = foldRange(*preset)](const Song& song) {
                                  return edits::foldInto(song, id, range);
                              }});
    found.push_back(std::move(snag));
}

} // namespace cobbleway
