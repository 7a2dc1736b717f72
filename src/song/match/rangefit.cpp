#include "song/match/rangefit.h"

namespace cobbleway {
namespace {

template <class Counts> auto outsideShifted(const Counts& counts, const Preset& preset, int semitones) {
    typename Counts::value_type outside = 0;
    for (int key = 0; key < 128; ++key) {
        const auto count = counts[static_cast<std::size_t>(key)];
        const int at = key + semitones;
        if (count > 0 && (at < 0 || at > 127 || !preset.plays(Key{static_cast<std::uint8_t>(at)})))
            outside += count;
    }
    return outside;
}

} // namespace

std::array<int, 128> histogramOf(const HeardPart& heard) {
    std::array<int, 128> histogram{};
    for (const Note& note : heard.notes) ++histogram[note.key.value & 0x7FU];
    return histogram;
}

int notesOutside(const std::array<int, 128>& histogram, const Preset& preset) {
    return outsideShifted(histogram, preset, 0);
}

int bestOctaves(const KeyWeights& weights, const Preset& preset) {
    int best = 0;
    double least = outsideShifted(weights, preset, 0);
    for (const int octaves : {1, -1, 2, -2, 3, -3, 4, -4}) {
        const double outside = outsideShifted(weights, preset, 12 * octaves);
        if (outside >= least) continue;
        best = octaves;
        least = outside;
    }
    return best;
}

KeyRange foldRange(const Preset& preset) {
    KeyRange widest = preset.span();
    int most = -1;
    for (const KeyRange& range : preset.ranges)
        if (range.highest - range.lowest > most) {
            widest = range;
            most = range.highest - range.lowest;
        }
    return widest;
}

} // namespace cobbleway
