#include "midi/gm.h"
#include "song/match/names.h"
#include "song/match/rangefit.h"
#include "song/match/transposing.h"
#include "song/shape/edits.h"
#include "song/snags/kinds.h"

#include <cstdlib>

namespace cobbleway {

void snags::writtenOctave(const PartContext& context, Found& found) {
    const Part& part = context.part;
    if (part.aside || part.source.drums || !part.nameGiven) return;
    const int octaves = octavesByName(part.name, context.traits().keys);
    const auto& sound = context.match.first().sound;
    const Preset* preset = sound ? context.catalogue.find(*sound) : nullptr;
    if (octaves == 0 || (preset && notesOutside(histogramOf(context.heard), *preset) > 0)) return;
    const std::string named(programName(*programFromName(part.name)));
    const auto instrument = transposingInstrument(part.name);
    const bool written = instrument && instrument->semitones == 12 * octaves;
    Snag snag = forPart(part, "written-octave", Step::Parts);
    snag.pill = {"written-octave.pill"};
    snag.what = {octaves > 0 ? "written-octave.what-below" : "written-octave.what-above",
                 {{"part", part.name}, {"instrument", named}}};
    snag.why = {written ? "written-octave.why-written" : "written-octave.why"};
    snag.fixes.push_back({shiftByOctaves(octaves), false,
                          [id = part.id, to = part.recipe.octaves + octaves](const Song& song) {
                              return edits::setOctaves(song, id, to);
                          }});
    found.push_back(std::move(snag));
}

} // namespace cobbleway
