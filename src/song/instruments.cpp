#include "song/instruments.h"

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
    Effect
};

constexpr bool one = true, many = false;
using enum Start;
using enum Hold;

// One row a program, in the order of RP-003.
constexpr std::array<InstrumentFacts, 128> table = {{
    // Piano
    {{21, 108}, many, Struck, Dies, Keyboard},
    {{21, 108}, many, Struck, Dies, Keyboard},
    {{21, 108}, many, Struck, Dies, Keyboard},
    {{21, 108}, many, Struck, Dies, Keyboard},
    {{28, 103}, many, Struck, Dies, Keyboard},
    {{28, 103}, many, Struck, Dies, Keyboard},
    {{29, 89}, many, Plucked, Dies, Keyboard},
    {{36, 96}, many, Plucked, Dies, Keyboard},
    // Chromatic percussion
    {{60, 108}, many, Struck, Dies, Bells},
    {{72, 108}, many, Struck, Dies, Bells},
    {{60, 96}, many, Plucked, Dies, Bells},
    {{53, 89}, many, Struck, Dies, Bars},
    {{45, 96}, many, Struck, Short, Bars},
    {{65, 108}, many, Struck, Short, Bars},
    {{60, 79}, many, Struck, Dies, Bells},
    {{50, 86}, many, Struck, Dies, PluckedStrings},
    // Organ
    {{36, 96}, many, Blown, Holds, Organ},
    {{36, 96}, many, Blown, Holds, Organ},
    {{36, 96}, many, Blown, Holds, Organ},
    {{24, 103}, many, Blown, Holds, Organ},
    {{36, 96}, many, Blown, Holds, Organ},
    {{36, 96}, many, Blown, Holds, Organ},
    {{60, 96}, many, Blown, Holds, Organ},
    {{36, 96}, many, Blown, Holds, Organ},
    // Guitar
    {{40, 84}, many, Plucked, Dies, Guitar},
    {{40, 84}, many, Plucked, Dies, Guitar},
    {{40, 86}, many, Plucked, Dies, Guitar},
    {{40, 86}, many, Plucked, Dies, ElectricGuitar},
    {{40, 86}, many, Plucked, Short, ElectricGuitar},
    {{40, 86}, many, Plucked, Holds, ElectricGuitar},
    {{40, 86}, many, Plucked, Holds, ElectricGuitar},
    {{40, 98}, many, Plucked, Dies, ElectricGuitar},
    // Bass
    {{28, 60}, one, Plucked, Dies, Bass},
    {{28, 62}, one, Plucked, Dies, Bass},
    {{28, 62}, one, Plucked, Dies, Bass},
    {{28, 62}, one, Plucked, Dies, Bass},
    {{28, 62}, one, Plucked, Short, Bass},
    {{28, 62}, one, Plucked, Short, Bass},
    {{24, 67}, one, Plucked, Holds, Bass},
    {{24, 67}, one, Plucked, Holds, Bass},
    // Strings
    {{55, 103}, one, Bowed, Holds, Strings},
    {{48, 91}, one, Bowed, Holds, Strings},
    {{36, 81}, one, Bowed, Holds, Strings},
    {{28, 62}, one, Bowed, Holds, Strings},
    {{28, 100}, many, Bowed, Holds, Strings},
    {{28, 100}, many, Plucked, Short, Strings},
    {{23, 104}, many, Plucked, Dies, PluckedStrings},
    {{36, 57}, one, Struck, Dies, Drum},
    // Ensemble
    {{28, 100}, many, Bowed, Holds, Strings},
    {{28, 100}, many, Swelling, Holds, Strings},
    {{28, 100}, many, Bowed, Holds, Strings},
    {{28, 100}, many, Swelling, Holds, Strings},
    {{40, 84}, many, Blown, Holds, Voices},
    {{40, 84}, many, Blown, Holds, Voices},
    {{40, 84}, many, Blown, Holds, Voices},
    {{36, 84}, many, Struck, Short, Strings},
    // Brass
    {{52, 86}, one, Blown, Holds, Brass},
    {{34, 77}, one, Blown, Holds, Brass},
    {{26, 65}, one, Blown, Holds, Brass},
    {{52, 86}, one, Blown, Holds, Brass},
    {{34, 77}, one, Blown, Holds, Brass},
    {{34, 86}, many, Blown, Holds, Brass},
    {{34, 96}, many, Blown, Holds, Brass},
    {{34, 96}, many, Swelling, Holds, Brass},
    // Reed
    {{56, 88}, one, Blown, Holds, Saxes},
    {{49, 81}, one, Blown, Holds, Saxes},
    {{44, 76}, one, Blown, Holds, Saxes},
    {{36, 69}, one, Blown, Holds, Saxes},
    {{58, 91}, one, Blown, Holds, Reeds},
    {{52, 81}, one, Blown, Holds, Reeds},
    {{34, 75}, one, Blown, Holds, Reeds},
    {{50, 94}, one, Blown, Holds, Reeds},
    // Pipe
    {{74, 108}, one, Blown, Holds, Flutes},
    {{60, 98}, one, Blown, Holds, Flutes},
    {{60, 98}, one, Blown, Holds, Flutes},
    {{60, 96}, one, Blown, Holds, Flutes},
    {{60, 96}, one, Blown, Holds, Flutes},
    {{55, 84}, one, Blown, Holds, Flutes},
    {{60, 96}, one, Blown, Holds, Flutes},
    {{60, 84}, one, Blown, Holds, Flutes},
    // Synth lead
    {{24, 108}, one, Blown, Holds, Lead},
    {{24, 108}, one, Blown, Holds, Lead},
    {{36, 96}, one, Blown, Holds, Lead},
    {{36, 96}, one, Blown, Holds, Lead},
    {{36, 96}, one, Plucked, Holds, Lead},
    {{36, 96}, one, Blown, Holds, Lead},
    {{36, 96}, many, Blown, Holds, Lead},
    {{24, 84}, one, Plucked, Holds, Lead},
    // Synth pad
    {{36, 96}, many, Swelling, Holds, Pad},
    {{36, 96}, many, Swelling, Holds, Pad},
    {{36, 96}, many, Blown, Holds, Pad},
    {{36, 96}, many, Swelling, Holds, Pad},
    {{36, 96}, many, Bowed, Holds, Pad},
    {{36, 96}, many, Swelling, Holds, Pad},
    {{36, 96}, many, Swelling, Holds, Pad},
    {{36, 96}, many, Swelling, Holds, Pad},
    // Synth effects
    {{36, 96}, many, Struck, Dies, Pad},
    {{36, 96}, many, Swelling, Holds, Pad},
    {{36, 108}, many, Struck, Dies, Bells},
    {{36, 96}, many, Swelling, Holds, Pad},
    {{36, 96}, many, Struck, Dies, Pad},
    {{36, 96}, many, Swelling, Holds, Pad},
    {{36, 96}, many, Swelling, Holds, Pad},
    {{36, 96}, many, Swelling, Holds, Pad},
    // Ethnic
    {{48, 81}, many, Plucked, Dies, PluckedStrings},
    {{48, 86}, many, Plucked, Dies, Guitar},
    {{50, 86}, many, Plucked, Dies, PluckedStrings},
    {{55, 91}, many, Plucked, Dies, PluckedStrings},
    {{48, 84}, many, Plucked, Dies, Bars},
    {{36, 84}, one, Blown, Holds, Reeds},
    {{55, 100}, one, Bowed, Holds, Strings},
    {{48, 79}, one, Blown, Holds, Reeds},
    // Percussive
    {{72, 96}, many, Struck, Dies, Bells},
    {{60, 84}, many, Struck, Short, Bars},
    {{52, 81}, many, Struck, Dies, Bars},
    {{60, 84}, many, Struck, Short, Bars},
    {{36, 72}, many, Struck, Short, Drum},
    {{36, 84}, many, Struck, Short, Drum},
    {{36, 84}, many, Struck, Short, Drum},
    {{0, 127}, many, Swelling, Short, Effect},
    // Sound effects
    {{0, 127}, many, Plucked, Short, Effect},
    {{0, 127}, many, Blown, Short, Effect},
    {{0, 127}, many, Swelling, Holds, Effect},
    {{0, 127}, many, Blown, Short, Effect},
    {{0, 127}, many, Struck, Short, Effect},
    {{0, 127}, many, Swelling, Holds, Effect},
    {{0, 127}, many, Swelling, Holds, Effect},
    {{0, 127}, many, Struck, Short, Effect},
}};

} // namespace

const InstrumentFacts& instrumentFacts(Program program) { return table[program.value & 0x7FU]; }

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
    if (b.kin == Effect && a.kin != Effect) far += 20;
    if (notes) far += 3 * shareOutside(*notes, b.range);
    return far;
}

} // namespace cobbleway
