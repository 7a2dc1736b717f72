/// The lists of a soundfont as they stand in its file (SoundFont 2.04 technical specification, 5 to 8).
#pragma once
#include "font/soundfont.h"
#include "midi/fingerprint.h"

#include <optional>
#include <span>

namespace cobbleway::fontlists {

using Bytes = std::span<const std::uint8_t>;

/// Numbers of what a zone can say (8.1.2).
enum Generator {
    generatorDecay = 36,
    generatorSustain = 37,
    generatorRelease = 38,
    generatorInstrument = 41,
    generatorKeyRange = 43,
    generatorVelocityRange = 44,
    generatorAttenuation = 48,
    generatorCoarseTune = 51,
    generatorFineTune = 52,
    generatorSample = 53,
    generatorSampleModes = 54,
    generatorExclusiveClass = 57,
    generatorRootKey = 58
};
inline constexpr int generatorCount = 59; ///< they count from 0

inline constexpr std::uint16_t romSample = 0x8000;
inline constexpr std::uint16_t compressedSample = 0x10; ///< SF3: the sample is an Ogg Vorbis stream
inline constexpr std::size_t mostZones = 1'000'000; ///< of one font; bounds what a damaged one can ask for

inline unsigned little16(Bytes at) { return at[0] | (at[1] << 8U); }
inline std::uint32_t little32(Bytes at) {
    return little16(at) | (static_cast<std::uint32_t>(little16(at.subspan(2))) << 16);
}

/// A list of equal records; counts only whole ones.
struct Records {
    Bytes bytes;
    std::size_t size = 1;
    [[nodiscard]] std::size_t count() const { return bytes.size() / size; }
    [[nodiscard]] Bytes at(std::size_t i) const { return bytes.subspan(i * size, size); }
};

/// The zones of presets or of instruments: which settings each has (7.3 to 7.5 and 7.7 to 7.9).
struct ZoneLists {
    Records bags{{}, 4}, generators{{}, 4}, modulators{{}, 10};
    int target = 0; ///< the generator that says what a zone plays
};

/// Valid as long as the bytes that they were found in.
struct Lists {
    Records presets{{}, 38}, instruments{{}, 22}, samples{{}, 46};
    ZoneLists presetZones{.target = generatorInstrument}, instrumentZones{.target = generatorSample};
    std::string name, version;
    Bytes sampleData; ///< the chunk smpl
    Bytes lowBytes;   ///< the chunk sm24: the lower eight bits of each value
    Fingerprint print;
    std::vector<Message> damage;
};

/// None for bytes that are no soundfont or hold no presets.
std::optional<Lists> listsOf(Bytes file);

/// The text in a field of a record.
std::string textOf(Bytes bytes);

/// How a controller changes a setting (7.4, 8.2): the fields of its record.
struct Modulator {
    std::uint16_t source = 0;
    std::uint16_t generator = 0; ///< what it changes
    std::int16_t amount = 0;
    std::uint16_t amountSource = 0;
    std::uint16_t transform = 0;
    /// Whether two change the same by the same (9.5.1), so that one takes the place of the other.
    [[nodiscard]] bool isLike(const Modulator& other) const {
        return source == other.source && generator == other.generator && amountSource == other.amountSource &&
               transform == other.transform;
    }
    bool operator==(const Modulator&) const = default;
};

/// What a zone of a preset or an instrument says, with what the global zone says for it (7.3, 7.7).
struct ZoneSaid {
    KeyRange keys, velocities;
    struct Setting {
        std::uint8_t generator = 0;
        std::int16_t amount = 0;
        bool operator==(const Setting&) const = default;
    };
    std::vector<Setting> settings; ///< by generator, each once; of those of a generator the last counts
    std::vector<Modulator> modulators;
    std::optional<unsigned> target; ///< the instrument or sample that it plays, 0-based
    [[nodiscard]] std::optional<int> amountOf(int generator) const;
    [[nodiscard]] int amountOr(int generator, int otherwise) const {
        return amountOf(generator).value_or(otherwise);
    }
};

/// The zones `first` … `last` (not included) that play something.
std::vector<ZoneSaid> zonesOf(const ZoneLists& lists, std::size_t first, std::size_t last);

/// The zones of a preset or an instrument, by its place in its list, of which the last is the end mark.
std::vector<ZoneSaid> zonesOfPreset(const Lists& lists, std::size_t preset);
std::vector<ZoneSaid> zonesOfInstrument(const Lists& lists, std::size_t instrument);

/// Whether there is anything to hear: sample data of some length, within the file.
bool sampleSounds(const Lists& lists, unsigned sample);

inline KeyRange both(const KeyRange& a, const KeyRange& b) {
    return {std::max(a.lowest, b.lowest), std::min(a.highest, b.highest)};
}
inline bool isEmpty(const KeyRange& range) { return range.lowest > range.highest; }
inline bool holds(const KeyRange& range, int value) {
    return value >= range.lowest && value <= range.highest;
}

} // namespace cobbleway::fontlists
