/// Makes the soundfonts that the build needs. Usage: make-fonts house OUT.sf2 | test OUT.sf2
#include "drums.h"
#include "loudness.h"
#include "programs.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <string_view>

namespace fontmaker {
namespace {

constexpr const char* houseComment =
    "Made by Cobbleway's own program from computed waves. CC0 1.0: no rights reserved.";

int timecents(double seconds) {
    return static_cast<int>(std::lround(1200 * std::log2(std::max(0.001, seconds))));
}
int filterCents(double hz) { return static_cast<int>(std::lround(1200 * std::log2(hz / 8.176))); }

/// Envelope, filter and vibrato of a program as generators.
std::vector<std::pair<Generator, int>> generatorsOf(const ProgramSpec& p) {
    std::vector<std::pair<Generator, int>> list = {{volAttack, timecents(p.attack)},
                                                   {volRelease, timecents(p.release)}};
    if (p.decay > 0) {
        list.emplace_back(volDecay, timecents(p.decay));
        list.emplace_back(volSustain, static_cast<int>(p.sustainDb * 10));
    }
    if (p.cutoff > 0) list.emplace_back(filterFc, filterCents(p.cutoff));
    if (p.sweep != 0) {
        list.emplace_back(modEnvToFilter, static_cast<int>(p.sweep));
        list.emplace_back(modAttack, timecents(p.attack));
        list.emplace_back(modDecay, timecents(0.8));
        list.emplace_back(modSustain, 1000);
    }
    if (p.vibrato > 0) {
        list.emplace_back(vibratoToPitch, static_cast<int>(p.vibrato));
        list.emplace_back(vibratoDelay, timecents(0.35));
        list.emplace_back(vibratoFreq, filterCents(5.2));
    }
    return list;
}

void addZones(PresetSpec& preset, const ProgramSpec& p, const std::vector<Sample>& samples, std::size_t first,
              std::size_t count) {
    const auto base = generatorsOf(p);
    for (int copy = 0; copy < (p.doubled ? 2 : 1); ++copy)
        for (std::size_t i = 0; i < count; ++i) {
            const int from = i == 0 ? 0 : (samples[first + i - 1].root + samples[first + i].root) / 2 + 1;
            const int to = i + 1 == count ? 127 : (samples[first + i].root + samples[first + i + 1].root) / 2;
            Zone zone{from, to, first + i, base};
            if (p.doubled) zone.generators.emplace_back(fineTune, copy == 0 ? -3 : 4);
            if (p.doubled) zone.generators.emplace_back(pan, copy == 0 ? -200 : 200);
            if (copy == 1 && p.second != 0)
                zone.generators.emplace_back(coarseTune, static_cast<int>(p.second));
            preset.zones.push_back(std::move(zone));
        }
}

PresetSpec kit(int program, const char* name, bool brushes, std::vector<Sample>& samples) {
    PresetSpec preset{128, program, name, 0, {}};
    for (auto& [key, sample] : drumSamples(brushes)) {
        // Sounds that both kits have are kept once.
        const auto same = std::find_if(samples.begin(), samples.end(), [&](const Sample& s) {
            return s.name == sample.name && s.wave == sample.wave;
        });
        const auto index = static_cast<std::size_t>(same - samples.begin());
        Zone zone{key, key, index, {{scaleTuning, 0}, {rootKey, key}, {volRelease, timecents(3)}}};
        const int away = key % 5 - 2; // a little room from left to right
        zone.generators.emplace_back(pan, key <= 40 ? 0 : away * 90);
        if (const int group = exclusiveClassOf(key)) zone.generators.emplace_back(exclusiveClass, group);
        preset.zones.push_back(std::move(zone));
        if (same == samples.end()) samples.push_back(std::move(sample));
    }
    return preset;
}

bool makeHouse(const char* path) {
    std::vector<Sample> samples;
    std::vector<PresetSpec> presets;
    std::vector<std::pair<std::size_t, std::size_t>> where(static_cast<std::size_t>(Timbre::Count));
    for (std::size_t t = 0; t < where.size(); ++t) {
        auto made = samplesOf(static_cast<Timbre>(t));
        where[t] = {samples.size(), made.size()};
        std::move(made.begin(), made.end(), std::back_inserter(samples));
    }
    for (std::size_t i = 0; i < programs.size(); ++i) {
        PresetSpec preset{0, static_cast<int>(i), programs[i].name, 0, {}};
        const auto [first, count] = where[static_cast<std::size_t>(programs[i].timbre)];
        addZones(preset, programs[i], samples, first, count);
        presets.push_back(std::move(preset));
    }
    presets.push_back(kit(0, "Standard Kit", false, samples));
    presets.push_back(kit(40, "Brush Kit", true, samples));
    if (!writeSf2(path, "House font", houseComment, samples, presets)) return false;
    // Then evened: each preset is lowered to the same loudness, as far as the softest third allows.
    const auto levels = measureLoudness(path);
    std::vector<double> sorted;
    for (const auto& [number, level] : levels) sorted.push_back(level);
    std::sort(sorted.begin(), sorted.end());
    const double goal = sorted[sorted.size() * 3 / 10];
    for (PresetSpec& preset : presets) {
        const double extra = preset.bank == 128 ? 3 : 0; // drums are short: as loud as the rest by ear
        const double over = levels.at({preset.bank, preset.program}) - goal - extra;
        // Initial attenuation counts 0.4 of what it says in the synthesiser that most people use.
        preset.attenuationCb = std::max(0, static_cast<int>(std::lround(over * 10 / 0.4)));
    }
    return writeSf2(path, "House font", houseComment, samples, presets);
}

/// A plain tone: the program's bits say which of the harmonics 2–8 it has, so that a test can tell it by ear.
Sample testTone(const std::string& name, int code, int root, bool tenth) {
    ToneSpec tone;
    tone.evolve = 0;
    tone.loop = 0.02;
    tone.partials = [=](double) {
        std::vector<Partial> list = {{1, 1}};
        for (int bit = 0; bit < 7; ++bit)
            if (code >> bit & 1) list.push_back({bit + 2.0, 0.5});
        if (tenth) list.push_back({10, 0.5});
        return list;
    };
    return makeTone(name, tone, root);
}

void addTestPreset(std::vector<PresetSpec>& presets, std::vector<Sample>& samples, int bank, int program,
                   int lowest, int highest) {
    PresetSpec preset{bank, program, "Tone " + std::to_string(bank) + ":" + std::to_string(program), 0, {}};
    const std::size_t first = samples.size();
    for (const int root : {48, 72}) samples.push_back(testTone(preset.name, program, root, bank == 8));
    preset.zones = {{lowest, 60, first, {{volRelease, timecents(0.005)}}},
                    {61, highest, first + 1, {{volRelease, timecents(0.005)}}}};
    presets.push_back(std::move(preset));
}

/// The test font: bank 0 but for program 10 (1-based), bank 8 for the first eight programs (with a tenth
/// harmonic), two kits. Program 57 (1-based) plays keys 52–84 alone.
bool makeTest(const char* path) {
    std::vector<Sample> samples;
    std::vector<PresetSpec> presets;
    for (int program = 0; program < 128; ++program)
        if (program != 9)
            addTestPreset(presets, samples, 0, program, program == 56 ? 52 : 0, program == 56 ? 84 : 127);
    for (int program = 0; program < 8; ++program) addTestPreset(presets, samples, 8, program, 0, 127);
    addTestPreset(presets, samples, 128, 0, 35, 81);
    addTestPreset(presets, samples, 128, 40, 35, 81);
    return writeSf2(path, "Test font", "Plain tones for tests.", samples, presets);
}

} // namespace
} // namespace fontmaker

int main(int count, char** words) {
    const std::string_view kind = count == 3 ? words[1] : "";
    const bool made =
        kind == "house" ? fontmaker::makeHouse(words[2]) : kind == "test" && fontmaker::makeTest(words[2]);
    if (!made)
        std::fprintf(stderr, "Usage: make-fonts house|test OUT.sf2 (and the place must be writable)\n");
    return made ? 0 : 1;
}
