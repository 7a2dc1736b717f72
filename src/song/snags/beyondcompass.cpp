#include "midi/event.h"
#include "midi/gm.h"
#include "song/match/rangefit.h"
#include "song/shape/edits.h"
#include "song/snags/kinds.h"

namespace cobbleway {

/// Notes that the sound plays and that nobody could play on the instrument: advice, nothing is silent.
void snags::beyondCompass(const PartContext& context, Found& found) {
    const Part& part = context.part;
    const auto& sound = context.match.first().sound;
    const Preset* preset = part.aside || part.source.drums || !sound || sound->kind != SoundKind::Preset
                               ? nullptr
                               : context.catalogue.find(*sound);
    if (!preset || preset->isKit()) return;
    const Program program{static_cast<std::uint8_t>(sound->program & 0x7F)};
    const auto compass = compassOf(program);
    if (!compass) return;
    const auto histogram = histogramOf(context.heard);
    int below = 0, above = 0;
    for (int key = 0; key < 128; ++key) {
        const int count = histogram[static_cast<std::size_t>(key)];
        if (key < compass->lowest) below += count;
        if (key > compass->highest) above += count;
    }
    if (below + above == 0 || notesOutside(histogram, *preset) > 0) return; // silent ones are another snag
    Snag snag = forPart(part, "beyond-compass", Step::Sounds);
    snag.asked = false;
    for (const Note& note : context.heard.notes)
        if (note.key.value < compass->lowest || note.key.value > compass->highest) {
            snag.place = note.start;
            break;
        }
    const char* side = above == 0 ? "below" : below == 0 ? "above" : "outside";
    const auto name = [](int key) { return keyName(Key{static_cast<std::uint8_t>(key)}); };
    snag.pill = {"beyond-compass.pill"};
    snag.what = {"beyond-compass.what",
                 {{"notes", below + above},
                  {"part", part.name},
                  {"side", std::string(side)},
                  {"instrument", std::string(programName(program))},
                  {"lowest", name(compass->lowest)},
                  {"highest", name(compass->highest)}}};
    snag.why = {"beyond-compass.why"};
    const int octaves = octavesInto(context.traits().keys, *compass);
    if (octaves != 0)
        snag.fixes.push_back({shiftByOctaves(octaves), false,
                              [id = part.id, to = part.recipe.octaves + octaves](const Song& song) {
                                  return edits::setOctaves(song, id, to);
                              }});
    snag.fixes.push_back({{"fix.fold-notes"}, false, [id = part.id, range = *compass](const Song& song) {
                              return edits::foldInto(song, id, range);
                          }});
    found.push_back(std::move(snag));
}

} // namespace cobbleway
