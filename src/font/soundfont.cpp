#include "font/soundfont.h"

#include "font/mappedfile.h"
#include "midi/text.h"

#include <algorithm>
#include <bitset>
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
constexpr int generatorInstrument = 41, generatorKeyRange = 43, generatorSample = 53;
constexpr std::uint16_t romSample = 0x8000;

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
    std::string name;
};

std::string textOf(Bytes bytes) {
    std::string_view text(reinterpret_cast<const char*>(bytes.data()), bytes.size());
    text = text.substr(0, text.find('\0'));
    return toUtf8(text, guessEncoding(text));
}

/// Calls visit(tag, body) for each chunk; a length that runs over the end is cut.
template <class Visit> void forEachChunk(Bytes bytes, Visit visit) {
    while (bytes.size() >= 8) {
        const std::string_view tag(reinterpret_cast<const char*>(bytes.data()), 4);
        const std::size_t length = std::min<std::size_t>(little32(bytes.subspan(4)), bytes.size() - 8);
        visit(tag, bytes.subspan(8, length));
        bytes = bytes.subspan(std::min(bytes.size(), 8 + length + (length & 1)));
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
}

std::optional<Lists> listsOf(Bytes file) {
    if (file.size() < 12 || std::string_view(reinterpret_cast<const char*>(file.data()), 4) != "RIFF")
        return std::nullopt;
    if (std::string_view(reinterpret_cast<const char*>(file.data()) + 8, 4) != "sfbk") return std::nullopt;
    Lists lists;
    forEachChunk(file.subspan(12), [&](std::string_view tag, Bytes body) {
        if (tag != "LIST" || body.size() < 4) return;
        const std::string_view kind(reinterpret_cast<const char*>(body.data()), 4);
        if (kind == "INFO" || kind == "pdta")
            forEachChunk(body.subspan(4), [&](auto t, Bytes b) { takeList(lists, t, b); });
    });
    if (lists.presets.count() < 2) return std::nullopt;
    return lists;
}

/// What a zone says: its keys and what it points to.
struct Zone {
    Keys keys;
    std::optional<unsigned> target;
};

/// The zones `first` … `last` (not included) of a bag list. A first zone without target is the global one and
/// gives its keys to those that name none (7.3, 7.7).
std::vector<Zone> zonesOf(const Records& bags, const Records& generators, std::size_t first, std::size_t last,
                          int targetGenerator) {
    std::vector<Zone> zones;
    Keys global;
    global.set();
    for (std::size_t bag = first; bag < last && bag + 1 < bags.count(); ++bag) {
        const std::size_t begin = little16(bags.at(bag));
        const std::size_t end = std::min<std::size_t>(little16(bags.at(bag + 1)), generators.count());
        Zone zone{global, std::nullopt};
        for (std::size_t g = begin; g < end; ++g) {
            const Bytes record = generators.at(g);
            const auto number = static_cast<int>(little16(record));
            if (number == targetGenerator) {
                zone.target = little16(record.subspan(2));
                break; // generators after the target are to be ignored
            }
            if (number != generatorKeyRange) continue;
            zone.keys.reset();
            for (unsigned key = record[2]; key <= record[3] && key < 128; ++key) zone.keys.set(key);
        }
        if (zone.target)
            zones.push_back(zone);
        else if (bag == first)
            global = zone.keys;
    }
    return zones;
}

bool sampleSounds(const Lists& lists, unsigned sample) {
    if (sample + 1 >= lists.samples.count()) return false;
    const Bytes record = lists.samples.at(sample);
    return little32(record.subspan(24)) > little32(record.subspan(20)) &&
           !(little16(record.subspan(44)) & romSample);
}

Keys keysOfInstrument(const Lists& lists, unsigned instrument) {
    Keys keys;
    if (instrument + 1 >= lists.instruments.count()) return keys;
    const std::size_t first = little16(lists.instruments.at(instrument).subspan(20));
    const std::size_t last = little16(lists.instruments.at(instrument + 1).subspan(20));
    for (const Zone& zone :
         zonesOf(lists.instrumentBags, lists.instrumentGenerators, first, last, generatorSample))
        if (sampleSounds(lists, *zone.target)) keys |= zone.keys;
    return keys;
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

Preset presetOf(const Lists& lists, std::size_t i, const std::vector<Keys>& instrumentKeys) {
    const Bytes record = lists.presets.at(i);
    Preset preset{static_cast<int>(little16(record.subspan(22))),
                  static_cast<int>(little16(record.subspan(20))),
                  textOf(record.first(20)),
                  {}};
    const std::size_t first = little16(record.subspan(24));
    const std::size_t last = little16(lists.presets.at(i + 1).subspan(24));
    Keys keys;
    for (const Zone& zone :
         zonesOf(lists.presetBags, lists.presetGenerators, first, last, generatorInstrument))
        if (*zone.target < instrumentKeys.size()) keys |= zone.keys & instrumentKeys[*zone.target];
    preset.ranges = rangesOf(keys);
    return preset;
}

std::vector<Preset> presetsOf(const Lists& lists) {
    std::vector<Keys> instrumentKeys;
    for (std::size_t i = 0; i + 1 < lists.instruments.count(); ++i)
        instrumentKeys.push_back(keysOfInstrument(lists, static_cast<unsigned>(i)));
    std::vector<Preset> presets;
    for (std::size_t i = 0; i + 1 < lists.presets.count(); ++i) { // the last is the end mark
        Preset preset = presetOf(lists, i, instrumentKeys);
        if (preset.bank <= kitBank && preset.program < 128) presets.push_back(std::move(preset));
    }
    const auto number = [](const Preset& p) { return std::tuple(p.bank, p.program); };
    std::stable_sort(presets.begin(), presets.end(),
                     [&](const Preset& a, const Preset& b) { return number(a) < number(b); });
    presets.erase(std::unique(presets.begin(), presets.end(),
                              [&](const Preset& a, const Preset& b) { return number(a) == number(b); }),
                  presets.end());
    return presets;
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
    if (file.bytes().empty())
        return Error{"The soundfont cannot be opened.", path.string(),
                     "Check that the file is there and may be read."};
    const auto lists = listsOf(file.bytes());
    if (!lists)
        return Error{"This is not a soundfont, or its lists of sounds are lost.", path.string(),
                     "Choose an SF2 or SF3 file."};
    SoundFont font{path.string(), lists->name, path, file.bytes().size(), presetsOf(*lists)};
    if (font.name.empty()) font.name = path.stem().string();
    return font;
}

} // namespace cobbleway
