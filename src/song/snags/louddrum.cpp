#include "song/derived.h"
#include "song/drums/drumedits.h"
#include "song/snags/kinds.h"

#include <cmath>

namespace cobbleway {
namespace {

double meanOf(const DrumHits::Velocities& velocities) {
    double sum = 0, count = 0;
    for (std::size_t v = 1; v < 128; ++v) {
        sum += static_cast<double>(v) * velocities[v];
        count += velocities[v];
    }
    return count > 0 ? sum / count : 0;
}

} // namespace

/// Hats, a ride or small percussion that are hit often and harder than kick and snare (common practice, no
/// source: what keeps the time is played softer than what marks it).
void snags::loudDrum(const PartContext& context, Found& found) {
    const Part& part = context.part;
    if (!part.source.drums || part.aside) return;
    constexpr int fewest = 32; // hits
    const auto view = context.drums();
    double marks = 0, count = 0;
    for (const DrumNote& note : view->notes)
        if (note.piece == DrumPiece::Kick || note.piece == DrumPiece::Snare) {
            marks += meanOf(view->hits->after[note.key.value]) * note.hits;
            count += note.hits;
        }
    if (count < 16) return;
    marks /= count;
    const DrumNote* loudest = nullptr;
    double most = 0;
    for (const DrumNote& note : view->notes) {
        const bool keepsTime = note.piece == DrumPiece::Hats || note.piece == DrumPiece::Percussion ||
                               note.key.value == 51 || note.key.value == 59;
        const double mean = meanOf(view->hits->after[note.key.value]);
        if (!keepsTime || note.off || note.hits < fewest || mean < marks + 12 || mean <= most) continue;
        loudest = &note;
        most = mean;
    }
    if (!loudest) return;
    const int softer = static_cast<int>(std::lround(most - marks * 0.8));
    Snag snag = forPart(part, "loud-drum", Step::Drums);
    snag.key += ":" + std::to_string(loudest->key.value);
    snag.pill = {"loud-drum.pill"};
    snag.what = {"loud-drum.what",
                 {{"key", loudest->key.value},
                  {"drum", loudest->name},
                  {"part", part.name},
                  {"mean", std::lround(most)},
                  {"others", std::lround(marks)}}};
    snag.why = {"loud-drum.why", {{"hits", loudest->hits}}};
    VelocityShape trim = loudest->trim;
    trim.offset -= softer;
    snag.fixes.push_back({{"fix.softer", {{"steps", softer}}},
                          false,
                          [id = part.id, key = loudest->key, trim](const Song& song) {
                              return edits::setDrumTrim(song, id, {key}, trim);
                          }});
    found.push_back(std::move(snag));
}

} // namespace cobbleway
