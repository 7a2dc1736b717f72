#include "song/match/instruments.h"

#include <algorithm>
#include <cmath>

namespace cobbleway {
namespace {

enum Kin {
    Keyboard,
    Bells,
    Bars,
    Organ,
    Guitar,
    ElectricGuitar,
    Bass,
    Strings,
    Voices,
    Brass,
    Saxes,
    Reeds,
    Flutes,
    Lead,
    Pad,
    PluckedStrings,
    Drum,
    Noises
};

constexpr bool single = true, chords = false;
using enum Start;
using enum Hold;

// One row a program, in the order of RP-003.
constexpr std::array<InstrumentFacts, 128> table = {{
    // Piano
    {{21, 108}, chords, Struck, Dies, Keyboard},
    {{21, 108}, chords, Struck, Dies, Keyboard},
    {{21, 108}, chords, Struck, Dies, Keyboard},
    {{21, 108}, chords, Struck, Dies, Keyboard},
    {{28, 103}, chords, Struck, Dies, Keyboard},
    {{28, 103}, chords, Struck, Dies, Keyboard},
    {{29, 89}, chords, Plucked, Dies, Keyboard},
    {{36, 96}, chords, Plucked, Dies, Keyboard},
    // Chromatic percussion
    {{60, 108}, chords, Struck, Dies, Bells},
    {{72, 108}, chords, Struck, Dies, Bells},
    {{60, 96}, chords, Plucked, Dies, Bells},
    {{53, 89}, chords, Struck, Dies, Bars},
    {{45, 96}, chords, Struck, Short, Bars},
    {{65, 108}, chords, Struck, Short, Bars},
    {{60, 79}, chords, Struck, Dies, Bells},
    {{50, 86}, chords, Struck, Dies, PluckedStrings},
    // Organ
    {{36, 96}, chords, Blown, Holds, Organ},
    {{36, 96}, chords, Blown, Holds, Organ},
    {{36, 96}, chords, Blown, Holds, Organ},
    {{24, 103}, chords, Blown, Holds, Organ},
    {{36, 96}, chords, Blown, Holds, Organ},
    {{36, 96}, chords, Blown, Holds, Organ},
    {{60, 96}, chords, Blown, Holds, Organ},
    {{36, 96}, chords, Blown, Holds, Organ},
    // Guitar
    {{40, 84}, chords, Plucked, Dies, Guitar},
    {{40, 84}, chords, Plucked, Dies, Guitar},
    {{40, 86}, chords, Plucked, Dies, Guitar},
    {{40, 86}, chords, Plucked, Dies, ElectricGuitar},
    {{40, 86}, chords, Plucked, Short, ElectricGuitar},
    {{40, 86}, chords, Plucked, Holds, ElectricGuitar},
    {{40, 86}, chords, Plucked, Holds, ElectricGuitar},
    {{40, 98}, chords, Plucked, Dies, ElectricGuitar},
    // Bass
    {{28, 60}, single, Plucked, Dies, Bass},
    {{28, 62}, single, Plucked, Dies, Bass},
    {{28, 62}, single, Plucked, Dies, Bass},
    {{28, 62}, single, Plucked, Dies, Bass},
    {{28, 62}, single, Plucked, Short, Bass},
    {{28, 62}, single, Plucked, Short, Bass},
    {{24, 67}, single, Plucked, Holds, Bass},
    {{24, 67}, single, Plucked, Holds, Bass},
    // Strings
    {{55, 103}, single, Bowed, Holds, Strings},
    {{48, 91}, single, Bowed, Holds, Strings},
    {{36, 81}, single, Bowed, Holds, Strings},
    {{28, 62}, single, Bowed, Holds, Strings},
    {{28, 100}, chords, Bowed, Holds, Strings},
    {{28, 100}, chords, Plucked, Short, Strings},
    {{23, 104}, chords, Plucked, Dies, PluckedStrings},
    {{36, 57}, single, Struck, Dies, Drum},
    // Ensemble
    {{28, 100}, chords, Bowed, Holds, Strings},
    {{28, 100}, chords, Swelling, Holds, Strings},
    {{28, 100}, chords, Bowed, Holds, Strings},
    {{28, 100}, chords, Swelling, Holds, Strings},
    {{40, 84}, chords, Blown, Holds, Voices},
    {{40, 84}, chords, Blown, Holds, Voices},
    {{40, 84}, chords, Blown, Holds, Voices},
    {{36, 84}, chords, Struck, Short, Strings},
    // Brass
    {{52, 86}, single, Blown, Holds, Brass},
    {{34, 77}, single, Blown, Holds, Brass},
    {{26, 65}, single, Blown, Holds, Brass},
    {{52, 86}, single, Blown, Holds, Brass},
    {{34, 77}, single, Blown, Holds, Brass},
    {{34, 86}, chords, Blown, Holds, Brass},
    {{34, 96}, chords, Blown, Holds, Brass},
    {{34, 96}, chords, Swelling, Holds, Brass},
    // Reed
    {{56, 88}, single, Blown, Holds, Saxes},
    {{49, 81}, single, Blown, Holds, Saxes},
    {{44, 76}, single, Blown, Holds, Saxes},
    {{36, 69}, single, Blown, Holds, Saxes},
    {{58, 91}, single, Blown, Holds, Reeds},
    {{52, 81}, single, Blown, Holds, Reeds},
    {{34, 75}, single, Blown, Holds, Reeds},
    {{50, 94}, single, Blown, Holds, Reeds},
    // Pipe
    {{74, 108}, single, Blown, Holds, Flutes},
    {{60, 98}, single, Blown, Holds, Flutes},
    {{60, 98}, single, Blown, Holds, Flutes},
    {{60, 96}, single, Blown, Holds, Flutes},
    {{60, 96}, single, Blown, Holds, Flutes},
    {{55, 84}, single, Blown, Holds, Flutes},
    {{60, 96}, single, Blown, Holds, Flutes},
    {{60, 84}, single, Blown, Holds, Flutes},
    // Synth lead
    {{24, 108}, single, Blown, Holds, Lead},
    {{24, 108}, single, Blown, Holds, Lead},
    {{36, 96}, single, Blown, Holds, Lead},
    {{36, 96}, single, Blown, Holds, Lead},
    {{36, 96}, single, Plucked, Holds, Lead},
    {{36, 96}, single, Blown, Holds, Lead},
    {{36, 96}, chords, Blown, Holds, Lead},
    {{24, 84}, single, Plucked, Holds, Lead},
    // Synth pad
    {{36, 96}, chords, Swelling, Holds, Pad},
    {{36, 96}, chords, Swelling, Holds, Pad},
    {{36, 96}, chords, Blown, Holds, Pad},
    {{36, 96}, chords, Swelling, Holds, Pad},
    {{36, 96}, chords, Bowed, Holds, Pad},
    {{36, 96}, chords, Swelling, Holds, Pad},
    {{36, 96}, chords, Swelling, Holds, Pad},
    {{36, 96}, chords, Swelling, Holds, Pad},
    // Synth effects
    {{36, 96}, chords, Struck, Dies, Pad},
    {{36, 96}, chords, Swelling, Holds, Pad},
    {{36, 108}, chords, Struck, Dies, Bells},
    {{36, 96}, chords, Swelling, Holds, Pad},
    {{36, 96}, chords, Struck, Dies, Pad},
    {{36, 96}, chords, Swelling, Holds, Pad},
    {{36, 96}, chords, Swelling, Holds, Pad},
    {{36, 96}, chords, Swelling, Holds, Pad},
    // Ethnic
    {{48, 81}, chords, Plucked, Dies, PluckedStrings},
    {{48, 86}, chords, Plucked, Dies, Guitar},
    {{50, 86}, chords, Plucked, Dies, PluckedStrings},
    {{55, 91}, chords, Plucked, Dies, PluckedStrings},
    {{48, 84}, chords, Plucked, Dies, Bars},
    {{36, 84}, single, Blown, Holds, Reeds},
    {{55, 100}, single, Bowed, Holds, Strings},
    {{48, 79}, single, Blown, Holds, Reeds},
    // Percussive
    {{72, 96}, chords, Struck, Dies, Bells},
    {{60, 84}, chords, Struck, Short, Bars},
    {{52, 81}, chords, Struck, Dies, Bars},
    {{60, 84}, chords, Struck, Short, Bars},
    {{36, 72}, chords, Struck, Short, Drum},
    {{36, 84}, chords, Struck, Short, Drum},
    {{36, 84}, chords, Struck, Short, Drum},
    {{0, 127}, chords, Swelling, Short, Noises},
    // Sound effects
    {{0, 127}, chords, Plucked, Short, Noises},
    {{0, 127}, chords, Blown, Short, Noises},
    {{0, 127}, chords, Swelling, Holds, Noises},
    {{0, 127}, chords, Blown, Short, Noises},
    {{0, 127}, chords, Struck, Short, Noises},
    {{0, 127}, chords, Swelling, Holds, Noises},
    {{0, 127}, chords, Swelling, Holds, Noises},
    {{0, 127}, chords, Struck, Short, Noises},
}};

} // namespace

const InstrumentFacts& instrumentFacts(Program program) { return table[program.value & 0x7FU]; }

std::optional<KeyRange> compassOf(Program program) {
    // Pianos, guitars, basses, solo strings, harp, timpani, voices, brass, reeds, flutes, banjo, fiddle.
    const auto among = [&](int low, int high) { return program.value >= low && program.value <= high; };
    const bool played = among(0, 1) || among(24, 26) || among(32, 35) || among(40, 43) || among(46, 47) ||
                        among(52, 53) || among(56, 60) || among(64, 74) || program.value == 105 ||
                        program.value == 110;
    if (!played) return std::nullopt;
    return instrumentFacts(program).range;
}

double shareOutside(const KeyWeights& notes, const KeyRange& range) {
    double all = 0, outside = 0;
    for (int key = 0; key < 128; ++key) {
        const double weight = notes[static_cast<std::size_t>(key)];
        all += weight;
        if (key < range.lowest || key > range.highest) outside += weight;
    }
    return all > 0 ? outside / all : 0;
}

double farness(Program program, Program other, const KeyWeights* notes) {
    if (program == other) return 0;
    const InstrumentFacts &a = instrumentFacts(program), &b = instrumentFacts(other);
    const double octaves =
        std::abs(a.range.lowest + a.range.highest - b.range.lowest - b.range.highest) / 2.0 / 12;
    double far = 0;
    if (a.kin != b.kin) far += 8;
    const bool bothStrings = a.kin == Strings && b.kin == Strings; // the standard has two families of them
    if (program.value / 8 != other.value / 8 && !bothStrings) far += 4;
    if (a.start != b.start) far += 3;
    if (a.hold != b.hold) far += 3;
    if (a.oneNote != b.oneNote) far += 1;
    far += octaves / 3;
    far += std::min(1.0, std::abs(program.value - other.value) / 40.0);
    if (b.kin == Noises && a.kin != Noises) far += 20;
    if (notes) far += 3 * shareOutside(*notes, b.range);
    return far;
}

} // namespace cobbleway
