/// Writes SoundFont 2 files (SoundFont 2.04 technical specification).
#pragma once
#include <cstdint>
#include <filesystem>
#include <string>
#include <utility>
#include <vector>

namespace fontmaker {

struct Sample {
    std::string name;
    std::vector<float> wave;                ///< −1 to 1
    std::size_t loopStart = 0, loopEnd = 0; ///< equal: plays once
    int rate = 32000;                       ///< Hz; chosen so that the root key is exactly in tune
    int root = 60;
};

/// Generator numbers of the specification, 8.1.2.
enum Generator : std::uint16_t {
    modEnvToPitch = 7,
    filterFc = 8,
    filterQ = 9,
    vibratoToPitch = 6,
    modEnvToFilter = 11,
    pan = 17,
    vibratoDelay = 23,
    vibratoFreq = 24,
    modDelay = 25,
    modAttack = 26,
    modDecay = 28,
    modSustain = 29,
    modRelease = 30,
    volAttack = 34,
    volHold = 35,
    volDecay = 36,
    volSustain = 37,
    volRelease = 38,
    instrument = 41,
    keyRange = 43,
    attenuation = 48,
    coarseTune = 51,
    fineTune = 52,
    sampleId = 53,
    sampleModes = 54,
    scaleTuning = 56,
    exclusiveClass = 57,
    rootKey = 58
};

struct Zone {
    int lowest = 0, highest = 127;
    std::size_t sample = 0;
    std::vector<std::pair<Generator, int>> generators; ///< without key range, sample and loop mode
};

struct PresetSpec {
    int bank = 0, program = 0;
    std::string name;
    int attenuationCb = 0; ///< for the whole preset
    std::vector<Zone> zones;
};

/// False when the file cannot be written. `comment` says what it is and under which licence.
bool writeSf2(const std::filesystem::path& path, const std::string& name, const std::string& comment,
              const std::vector<Sample>& samples, const std::vector<PresetSpec>& presets);

} // namespace fontmaker
