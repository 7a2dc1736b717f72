#include "midi/gm.h"
#include "song/match/rangefit.h"
#include "song/shape/edits.h"
#include "song/snags/kinds.h"

namespace cobbleway {
namespace {

// The guitar's lowest string sounds E2 (key 40), the bass guitar's highest open string G2 (43):
// common practice, no source.
constexpr int lowestGuitarKey = 40;
constexpr int firstGuitar = 24, lastGuitar = 31, acousticBass = 32;

} // namespace

void snags::bassOnGuitar(const PartContext& context, Found& found) {
    const Part& part = context.part;
    const auto& program = context.match.asks.front().program;
    if (part.aside || part.source.drums || part.sound.chosen || !program || program->value < firstGuitar ||
        program->value > lastGuitar)
        return;
    const auto histogram = histogramOf(context.heard);
    int low = 0, all = 0;
    for (int key = 0; key < 128; ++key) {
        all += histogram[static_cast<std::size_t>(key)];
        if (key < lowestGuitarKey) low += histogram[static_cast<std::size_t>(key)];
    }
    if (low * 2 <= all) return;
    Snag snag = forPart(part, "bass-on-guitar", Step::Sounds);
    snag.pill = {"bass-on-guitar.pill"};
    snag.what = {"bass-on-guitar.what",
                 {{"part", part.name}, {"program", std::string(programName(*program))}}};
    snag.why = {"bass-on-guitar.why"};
    const Match bass = matchAsk({0, {}, {}, Program{acousticBass}, false}, Dialect::GM, context.catalogue);
    if (bass.sound)
        snag.fixes.push_back({{"fix.use-sound", {{"sound", bass.sound->name}}},
                              false,
                              [id = part.id, sound = *bass.sound](const Song& song) {
                                  return edits::chooseSound(song, id, sound);
                              }});
    found.push_back(std::move(snag));
}

} // namespace cobbleway
