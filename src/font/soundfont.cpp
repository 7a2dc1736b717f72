#include "font/soundfont.h"

#include "font/mappedfile.h"
#include "midi/fingerprint.h"
#include "midi/text.h"

#include <algorithm>
#include <bitset>
#include <cmath>
#include <optional>
#include <span>
#include <string_view>
#include <tuple>

namespace cobbleway {
namespace {

using Bytes = std::span<const std::uint8_t>;
using Keys = std::bitset<128>;

// Record sizes and generator numbers: SoundFont 2.04, 7.2–7.10 and 8.1.2.
constexpr std::size_t presetHeader = 38, bagRecord = 4, generatorRecord = 4, instrumentHeader = 22,
                      sampleHeader = 46;
enum Generator {
    generatorDecay = 36,
    generatorSustain = 37,
    generatorRelease = 38,
    generatorInstrument = 41,
    generatorKeyRange = 43,
    generatorVelocityRange = 44,
    generatorCoarseTune = 51,
    generatorFineTune = 52,
    generatorSample = 53,
    generatorSampleModes = 54,
    generatorExclusiveClass = 57,
    generatorRootKey = 58
};
constexpr std::uint16_t romSample = 0x8000;
constexpr std::uint16_t compressedSample = 0x10; // SF3: the sample is an Ogg Vorbis stream
constexpr std::size_t mostZones = 1'000'000;     // of one font; bounds what a damaged one can ask for

unsigned little16(Bytes at) { return at[0] | (at[1] << 8U); }
std::uint32_t little32(Bytes at) {
    return little16(at) | (static_cast<std::uint32_t>(little16(at.subspan(2))) << 16);
}

/// A list of equal records; counts only whole ones.
struct Records {
    Bytes bytes;
    std::size_t size = 1;
    [[nodiscard]] std::size_t count() const { return bytes.size() / size; }
    [[nodiscard]] Bytes at(std::size_t i) const { return bytes.subspan(i * size, size); }
};

struct Lists {
    Records presets{{}, presetHeader}, presetBags{{}, bagRecord}, presetGenerators{{}, generatorRecord};
    Records instruments{{}, instrumentHeader}, instrumentBags{{}, bagRecord},
        instrumentGenerators{{}, generatorRecord};
    Records samples{{}, sampleHeader};
    std::string name, version;
    std::uint64_t sampleBytes = 0; ///< of the chunk smpl
    bool has24Bit = false;
    Fingerprint print;
    std::vector<Message> damage;
};

std::string textOf(Bytes bytes) {
    std::string_view text(reinterpret_cast<const char*>(bytes.data()), bytes.size());
    text = text.substr(0, text.find('\0'));
    return toUtf8(text, guessEncoding(text));
}

/// Whether a chunk can begin here: four letters, digits or blanks, and a length that there is room for.
bool canBeChunk(Bytes bytes) {
    if (bytes.size() < 8) return false;
    const auto isOfTag = [](std::uint8_t c) {
        return (c >= '0' && c <= '9') || (c >= 'A' && c <= 'Z') || (c >= 'a' && c <= 'z') || c == ' ';
    };
    return std::all_of(bytes.begin(), bytes.begin() + 4, isOfTag) &&
           little32(bytes.subspan(4)) <= bytes.size() - 8;
}

/// Calls visit(tag, body) for each chunk; a length that runs over the end is cut. After a chunk of an odd
/// length stands a byte that counts for nothing (RIFF); many fonts of compressed samples leave it out, and
/// are read as they are meant.
template <class Visit> void forEachChunk(Bytes bytes, Visit visit) {
    while (bytes.size() >= 8) {
        const std::string_view tag(reinterpret_cast<const char*>(bytes.data()), 4);
        const std::size_t length = std::min<std::size_t>(little32(bytes.subspan(4)), bytes.size() - 8);
        visit(tag, bytes.subspan(8, length));
        const Bytes rest = bytes.subspan(8 + length);
        const bool pads = length % 2 == 1 && !rest.empty() && !canBeChunk(rest);
        bytes = rest.subspan(pads ? 1 : 0);
    }
}

void takeList(Lists& lists, std::string_view tag, Bytes body) {
    if (tag == "phdr")
        lists.presets.bytes = body;
    else if (tag == "pbag")
        lists.presetBags.bytes = body;
    else if (tag == "pgen")
        lists.presetGenerators.bytes = body;
    else if (tag == "inst")
        lists.instruments.bytes = body;
    else if (tag == "ibag")
        lists.instrumentBags.bytes = body;
    else if (tag == "igen")
        lists.instrumentGenerators.bytes = body;
    else if (tag == "shdr")
        lists.samples.bytes = body;
    else if (tag == "INAM")
        lists.name = textOf(body);
    else if (tag == "ifil" && body.size() >= 4) {
        const unsigned minor = little16(body.subspan(2));
        lists.version = std::to_string(little16(body)) + (minor < 10 ? ".0" : ".") + std::to_string(minor);
    } else if (tag == "smpl")
        lists.sampleBytes = body.size();
    else if (tag == "sm24")
        lists.has24Bit = true;
}

void reportLists(Lists& lists) {
    const auto check = [&](const Records& records, const char* what, std::size_t least) {
        if (records.count() < least)
            lists.damage.push_back({"font.list-cut", {{"list", Message(what)}}});
        else if (records.bytes.size() % records.size != 0)
            lists.damage.push_back({"font.list-odd", {{"list", Message(what)}}});
    };
    check(lists.presets, "font.presets", 2);
    check(lists.presetBags, "font.preset-zones", 2);
    check(lists.presetGenerators, "font.preset-settings", 1);
    check(lists.instruments, "font.instruments", 2);
    check(lists.instrumentBags, "font.instrument-zones", 2);
    check(lists.instrumentGenerators, "font.instrument-settings", 1);
    check(lists.samples, "font.samples", 2);
}

std::optional<Lists> listsOf(Bytes file) {
    if (file.size() < 12 || std::string_view(reinterpret_cast<const char*>(file.data()), 4) != "RIFF")
        return std::nullopt;
    if (std::string_view(reinterpret_cast<const char*>(file.data()) + 8, 4) != "sfbk") return std::nullopt;
    Lists lists;
    if (little32(file.subspan(4)) + std::uint64_t{8} > file.size() + 1)
        lists.damage.emplace_back("font.short");
    forEachChunk(file.subspan(12), [&](std::string_view tag, Bytes body) {
        if (tag != "LIST" || body.size() < 4) return;
        const std::string_view kind(reinterpret_cast<const char*>(body.data()), 4);
        if (kind == "pdta") lists.print.add(body);
        if (kind == "INFO" || kind == "pdta" || kind == "sdta")
            forEachChunk(body.subspan(4), [&](auto t, Bytes b) { takeList(lists, t, b); });
    });
    if (lists.presets.count() < 2) return std::nullopt;
    reportLists(lists);
    return lists;
}

KeyRange rangeOf(Bytes record) { return {record[2], std::min<int>(record[3], 127)}; }

KeyRange both(const KeyRange& a, const KeyRange& b) {
    return {std::max(a.lowest, b.lowest), std::min(a.highest, b.highest)};
}
bool isEmpty(const KeyRange& range) { return range.lowest > range.highest; }

/// What a zone of a preset or an instrument says.
struct Said {
    KeyRange keys, velocities;
    std::optional<int> rootKey;
    int coarse = 0, fine = 0;          ///< semitones, cents
    std::optional<int> decay, release; ///< timecents
    int sustain = 0;                   ///< centibels
    bool looped = false;
    std::uint16_t exclusiveClass = 0;
    std::optional<unsigned> target;
};

void takeGenerator(Said& said, int number, Bytes record) {
    const auto amount = static_cast<std::int16_t>(little16(record.subspan(2)));
    switch (number) {
    case generatorKeyRange: said.keys = rangeOf(record); break;
    case generatorVelocityRange: said.velocities = rangeOf(record); break;
    case generatorCoarseTune: said.coarse = amount; break;
    case generatorFineTune: said.fine = amount; break;
    case generatorDecay: said.decay = amount; break;
    case generatorSustain: said.sustain = amount; break;
    case generatorRelease: said.release = amount; break;
    case generatorSampleModes: said.looped = amount & 1; break; // 1 and 3: 8.1.2
    case generatorExclusiveClass: said.exclusiveClass = static_cast<std::uint16_t>(amount); break;
    case generatorRootKey:
        if (amount >= 0 && amount < 128) said.rootKey = amount;
        break;
    default: break;
    }
}

/// The zones `first` … `last` (not included) of a bag list. A first zone without target is the global one and
/// gives what it says to those that do not say it themselves (7.3, 7.7).
std::vector<Said> zonesOf(const Records& bags, const Records& generators, std::size_t first, std::size_t last,
                          int targetGenerator) {
    std::vector<Said> zones;
    Said global;
    for (std::size_t bag = first; bag < last && bag + 1 < bags.count(); ++bag) {
        const std::size_t begin = little16(bags.at(bag));
        const std::size_t end = std::min<std::size_t>(little16(bags.at(bag + 1)), generators.count());
        Said zone = global;
        for (std::size_t g = begin; g < end; ++g) {
            const Bytes record = generators.at(g);
            const auto number = static_cast<int>(little16(record));
            if (number == targetGenerator) {
                zone.target = little16(record.subspan(2));
                break; // generators after the target are to be ignored
            }
            takeGenerator(zone, number, record);
        }
        if (zone.target)
            zones.push_back(zone);
        else if (bag == first)
            global = zone;
    }
    return zones;
}

/// Whether there is anything to hear: sample data of some length, within the file.
bool sampleSounds(const Lists& lists, unsigned sample) {
    if (sample + 1 >= lists.samples.count()) return false;
    const Bytes record = lists.samples.at(sample);
    const std::uint64_t start = little32(record.subspan(20)), end = little32(record.subspan(24));
    const unsigned type = little16(record.subspan(44));
    // Places count in 16-bit values, but in bytes where samples are compressed.
    const std::uint64_t there = type & compressedSample ? lists.sampleBytes : lists.sampleBytes / 2;
    return end > start && start < there && !(type & romSample);
}

/// The ranges of generators 36 to 38 (SoundFont 2.04, 8.1.3): −12000, which is a millisecond, to 8000; 0 to
/// 1440, of which 1000 is silence.
constexpr int shortest = -12000;
std::int16_t timecents(int value) { return static_cast<std::int16_t>(std::clamp(value, shortest, 8000)); }
std::int16_t centibels(int value) { return static_cast<std::int16_t>(std::clamp(value, 0, 1000)); }

/// A sample's length; 0 where it is not known, since what is compressed counts in bytes.
float secondsOf(Bytes sample) {
    if (little16(sample.subspan(44)) & compressedSample) return 0;
    const auto values = static_cast<float>(little32(sample.subspan(24)) - little32(sample.subspan(20)));
    const std::uint32_t rate = little32(sample.subspan(36));
    return rate == 0 ? 0 : values / static_cast<float>(rate);
}

/// An instrument's zones with what their samples say.
std::vector<Zone> zonesOfInstrument(const Lists& lists, std::size_t instrument) {
    std::vector<Zone> zones;
    const std::size_t first = little16(lists.instruments.at(instrument).subspan(20));
    const std::size_t last = little16(lists.instruments.at(instrument + 1).subspan(20));
    for (const Said& said :
         zonesOf(lists.instrumentBags, lists.instrumentGenerators, first, last, generatorSample)) {
        if (!sampleSounds(lists, *said.target) || isEmpty(said.keys)) continue;
        const Bytes sample = lists.samples.at(*said.target);
        // 7.10: 255 stands for "no pitch"; 60 is then to be used, as for 128–254.
        const int recorded = sample[40] < 128 ? sample[40] : 60;
        zones.push_back({said.keys, said.velocities, static_cast<std::uint16_t>(instrument),
                         static_cast<std::uint16_t>(*said.target),
                         static_cast<std::uint8_t>(said.rootKey.value_or(recorded)),
                         100.0 * said.coarse + said.fine + static_cast<std::int8_t>(sample[41]),
                         timecents(said.decay.value_or(shortest)), centibels(said.sustain),
                         timecents(said.release.value_or(shortest)), said.exclusiveClass,
                         said.looped ? 0.0F : secondsOf(sample)});
    }
    return zones;
}

std::vector<KeyRange> rangesOf(const Keys& keys) {
    std::vector<KeyRange> ranges;
    for (int key = 0; key < 128; ++key) {
        if (!keys.test(static_cast<std::size_t>(key))) continue;
        if (!ranges.empty() && ranges.back().highest == key - 1)
            ranges.back().highest = key;
        else
            ranges.push_back({key, key});
    }
    return ranges;
}

Preset presetOf(const Lists& lists, std::size_t i, const std::vector<std::vector<Zone>>& instruments,
                std::size_t& zonesLeft) {
    const Bytes record = lists.presets.at(i);
    Preset preset{static_cast<int>(little16(record.subspan(22))),
                  static_cast<int>(little16(record.subspan(20))),
                  textOf(record.first(20)),
                  {},
                  {}};
    const std::size_t first = little16(record.subspan(24));
    const std::size_t last = little16(lists.presets.at(i + 1).subspan(24));
    Keys keys;
    for (const Said& said :
         zonesOf(lists.presetBags, lists.presetGenerators, first, last, generatorInstrument)) {
        if (*said.target >= instruments.size()) continue;
        for (Zone zone : instruments[*said.target]) {
            zone.keys = both(zone.keys, said.keys);
            zone.velocities = both(zone.velocities, said.velocities);
            if (isEmpty(zone.keys) || isEmpty(zone.velocities) || zonesLeft == 0) continue;
            --zonesLeft;
            zone.cents += 100.0 * said.coarse + said.fine;
            zone.decay = timecents(zone.decay + said.decay.value_or(0));
            zone.release = timecents(zone.release + said.release.value_or(0));
            zone.sustain = centibels(zone.sustain + said.sustain);
            for (int key = zone.keys.lowest; key <= zone.keys.highest; ++key)
                keys.set(static_cast<std::size_t>(key));
            preset.zones.push_back(zone);
        }
    }
    preset.ranges = rangesOf(keys);
    return preset;
}

std::vector<Preset> presetsOf(Lists& lists) {
    std::vector<std::vector<Zone>> instruments;
    for (std::size_t i = 0; i + 1 < lists.instruments.count(); ++i)
        instruments.push_back(zonesOfInstrument(lists, i));
    std::vector<Preset> presets;
    std::size_t zonesLeft = mostZones, odd = 0, silent = 0;
    for (std::size_t i = 0; i + 1 < lists.presets.count(); ++i) { // the last is the end mark
        Preset preset = presetOf(lists, i, instruments, zonesLeft);
        if (preset.bank > kitBank || preset.program > 127) {
            ++odd;
            continue;
        }
        silent += preset.ranges.empty();
        presets.push_back(std::move(preset));
    }
    const auto tell = [&](auto count, const char* what) {
        if (count > 0) lists.damage.push_back({what, {{"presets", count}}});
    };
    tell(odd, "font.odd-presets");
    tell(silent, "font.silent-presets");
    const auto number = [](const Preset& p) { return std::tuple(p.bank, p.program); };
    std::stable_sort(presets.begin(), presets.end(),
                     [&](const Preset& a, const Preset& b) { return number(a) < number(b); });
    presets.erase(std::unique(presets.begin(), presets.end(),
                              [&](const Preset& a, const Preset& b) { return number(a) == number(b); }),
                  presets.end());
    return presets;
}

std::vector<std::string> namesOf(const Records& records) {
    std::vector<std::string> names;
    for (std::size_t i = 0; i + 1 < records.count(); ++i) names.push_back(textOf(records.at(i).first(20)));
    return names;
}

/// Whether the loop of a compressed sample lies where no sample can be: the library that plays fonts reads
/// there without looking. Places count in values of the sample as it was before it was compressed.
bool hasWildLoop(const Lists& lists) {
    constexpr std::uint32_t longest = 1U << 27; // 47 minutes at 48 kHz
    for (std::size_t i = 0; i + 1 < lists.samples.count(); ++i) {
        const Bytes record = lists.samples.at(i);
        if (!(little16(record.subspan(44)) & compressedSample)) continue;
        const std::uint32_t start = little32(record.subspan(28)), end = little32(record.subspan(32));
        if (start > end || end > longest) return true;
    }
    return false;
}

bool anyCompressed(const Lists& lists) {
    for (std::size_t i = 0; i + 1 < lists.samples.count(); ++i)
        if (little16(lists.samples.at(i).subspan(44)) & compressedSample) return true;
    return false;
}

} // namespace

bool Preset::plays(Key key) const {
    return std::any_of(ranges.begin(), ranges.end(),
                       [&](const KeyRange& r) { return key.value >= r.lowest && key.value <= r.highest; });
}

KeyRange Preset::span() const {
    return ranges.empty() ? KeyRange{} : KeyRange{ranges.front().lowest, ranges.back().highest};
}

const Preset* SoundFont::find(int bank, int program) const {
    const auto at = std::lower_bound(
        presets.begin(), presets.end(), std::tuple(bank, program),
        [](const Preset& p, const auto& number) { return std::tuple(p.bank, p.program) < number; });
    return at != presets.end() && at->bank == bank && at->program == program ? &*at : nullptr;
}

Result<SoundFont> readSoundFont(const std::filesystem::path& path) {
    const MappedFile file(path);
    if (file.bytes().empty()) return Error{{"error.font-open"}, path.string(), {"now.check-readable"}};
    auto lists = listsOf(file.bytes());
    if (!lists) return Error{{"error.not-font"}, path.string(), {"now.choose-font"}};
    if (hasWildLoop(*lists)) return Error{{"error.wild-loop"}, path.string(), {"now.fetch-font"}};
    SoundFont font;
    font.id = path.string();
    font.name = lists->name.empty() ? path.stem().string() : lists->name;
    font.path = path;
    font.size = file.bytes().size();
    font.presets = presetsOf(*lists);
    font.instruments = namesOf(lists->instruments);
    font.samples = namesOf(lists->samples);
    font.version = lists->version;
    font.compressed = anyCompressed(*lists);
    font.has24Bit = lists->has24Bit;
    font.digest = lists->print.value();
    font.damage = std::move(lists->damage);
    return font;
}

double soundingTime(const Zone& zone, double held) {
    constexpr double silent = 1000; // centibels
    const double decay = std::exp2(zone.decay / 1200.0), release = std::exp2(zone.release / 1200.0);
    const double fallen = std::min<double>(silent * held / decay, zone.sustain);
    const double time = (fallen >= silent ? decay : held) + release * (1 - fallen / silent);
    return zone.sampleSeconds > 0 ? std::min<double>(time, zone.sampleSeconds) : time;
}

std::optional<KeySound> soundOn(const SoundFont& font, const Preset& preset, Key key, Velocity velocity) {
    for (const Zone& zone : preset.zones)
        if (key.value >= zone.keys.lowest && key.value <= zone.keys.highest &&
            velocity.value >= zone.velocities.lowest && velocity.value <= zone.velocities.highest)
            return KeySound{font.instruments[zone.instrument], font.samples[zone.sample]};
    return std::nullopt;
}

std::string keySoundName(const KeySound& sound) {
    std::string name;
    for (const char c : sound.sample) name += c == '_' ? ' ' : c;
    const auto endsWith = [&](std::string_view end) {
        return name.size() > end.size() && name.ends_with(end);
    };
    for (bool more = true; more;) {
        more = false;
        for (const std::string_view mark : {"(L)", "(R)", " L", " R", "-L", "-R", ".L", ".R", " "})
            if (endsWith(mark)) {
                name.resize(name.size() - mark.size());
                more = true;
            }
    }
    return name.empty() ? sound.instrument : name;
}

} // namespace cobbleway
