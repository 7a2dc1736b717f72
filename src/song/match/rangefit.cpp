#include "song/match/rangefit.h"

#include "song/match/names.h"
#include "song/match/transposing.h"

#include <algorithm>

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

Preset withinCompass(Preset preset) {
    const auto compass =
        preset.isKit() ? std::nullopt : compassOf(Program{static_cast<std::uint8_t>(preset.program & 0x7F)});
    if (!compass) return preset;
    std::vector<KeyRange> held;
    for (const KeyRange& range : preset.ranges) {
        const KeyRange within{std::max(range.lowest, compass->lowest),
                              std::min(range.highest, compass->highest)};
        if (within.lowest <= within.highest) held.push_back(within);
    }
    if (!held.empty()) preset.ranges = std::move(held);
    return preset;
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

int octavesInto(const KeyWeights& weights, const KeyRange& range) {
    int lowest = 128, highest = -1;
    for (int key = 0; key < 128; ++key)
        if (weights[static_cast<std::size_t>(key)] > 0) {
            lowest = std::min(lowest, key);
            highest = key;
        }
    for (const int octaves : {1, -1, 2, -2, 3, -3, 4, -4})
        if (lowest + 12 * octaves >= range.lowest && highest + 12 * octaves <= range.highest) return octaves;
    return 0;
}

int octavesByName(const std::string& partName, const KeyWeights& weights) {
    const auto program = programFromName(partName);
    if (!program) return 0;
    const KeyRange& range = instrumentFacts(*program).range;
    const auto outside = [&](int octaves) {
        KeyWeights moved{};
        double lost = 0, all = 0;
        for (int key = 0; key < 128; ++key) {
            const double weight = weights[static_cast<std::size_t>(key)];
            all += weight;
            const int to = key + 12 * octaves;
            (to < 0 || to > 127 ? lost : moved[static_cast<std::size_t>(to)]) += weight;
        }
        return all > 0 ? (lost + shareOutside(moved, range) * (all - lost)) / all : 0;
    };
    const auto instrument = transposingInstrument(partName);
    const int written = instrument && instrument->semitones % 12 == 0 ? instrument->semitones / 12 : 0;
    if (written != 0 && outside(0) > 0.2 && outside(written) < 0.02) return written;
    if (written != 0 || outside(0) <= 0.5) return 0; // a guitar far too low plays the bass
    for (const int octaves : {1, -1, 2, -2})
        if (outside(octaves) < 0.1) return octaves;
    return 0;
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
