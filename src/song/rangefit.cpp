#include "song/rangefit.h"

namespace cobbleway {
namespace {

int outsideShifted(const std::array<int, 128>& histogram, const Preset& preset, int semitones) {
    int outside = 0;
    for (int key = 0; key < 128; ++key) {
        const int count = histogram[static_cast<std::size_t>(key)];
        const int at = key + semitones;
        if (count > 0 && (at < 0 || at > 127 || !preset.plays(Key{static_cast<std::uint8_t>(at)})))
            outside += count;
    }
    return outside;
}

} // namespace

std::array<int, 128> histogramOf(const Line& line) {
    std::array<int, 128> histogram{};
    for (const Note& note : line.notes) ++histogram[note.key.value & 0x7FU];
    return histogram;
}

int notesOutside(const std::array<int, 128>& histogram, const Preset& preset) {
    return outsideShifted(histogram, preset, 0);
}

int bestOctaves(const std::array<int, 128>& histogram, const Preset& preset) {
    int best = 0, fewest = outsideShifted(histogram, preset, 0);
    for (const int octaves : {1, -1, 2, -2, 3, -3, 4, -4}) {
        const int outside = outsideShifted(histogram, preset, 12 * octaves);
        if (outside >= fewest) continue;
        best = octaves;
        fewest = outside;
    }
    return best;
}

} // namespace cobbleway
