#include "font/soundfont.h"

#include "font/fontlists.h"
#include "font/mappedfile.h"

#include <algorithm>
#include <bitset>
#include <cmath>
#include <optional>
#include <tuple>

namespace cobbleway {
namespace {

using namespace fontlists;

using Keys = std::bitset<128>;

/// The ranges of generators 36 to 38 (SoundFont 2.04, 8.1.3): −12000, which is a millisecond, to 8000; 0 to
/// 1440, of which 1000 is silence.
constexpr int shortest = -12000;
std::int16_t timecents(int value) { return static_cast<std::int16_t>(std::clamp(value, shortest, 8000)); }
std::int16_t centibels(int value) { return static_cast<std::int16_t>(std::clamp(value, 0, 1000)); }

double centsOf(const ZoneSaid& said) {
    return 100.0 * said.amountOr(generatorCoarseTune, 0) + said.amountOr(generatorFineTune, 0);
}

/// A sample's length; 0 where it is not known, since what is compressed counts in bytes.
float secondsOf(Bytes sample) {
    if (little16(sample.subspan(44)) & compressedSample) return 0;
    const auto values = static_cast<float>(little32(sample.subspan(24)) - little32(sample.subspan(20)));
    const std::uint32_t rate = little32(sample.subspan(36));
    return rate == 0 ? 0 : values / static_cast<float>(rate);
}

/// An instrument's zones with what their samples say.
std::vector<Zone> soundingZones(const Lists& lists, std::size_t instrument) {
    std::vector<Zone> zones;
    for (const ZoneSaid& said : zonesOfInstrument(lists, instrument)) {
        if (!sampleSounds(lists, *said.target) || isEmpty(said.keys)) continue;
        const Bytes sample = lists.samples.at(*said.target);
        // 7.10: 255 stands for "no pitch"; 60 is then to be used, as for 128–254.
        const int recorded = sample[40] < 128 ? sample[40] : 60;
        const int root = said.amountOr(generatorRootKey, -1);
        const bool looped = said.amountOr(generatorSampleModes, 0) & 1; // 1 and 3: 8.1.2
        zones.push_back({said.keys, said.velocities, static_cast<std::uint16_t>(instrument),
                         static_cast<std::uint16_t>(*said.target),
                         static_cast<std::uint8_t>(root >= 0 && root < 128 ? root : recorded),
                         centsOf(said) + static_cast<std::int8_t>(sample[41]),
                         timecents(said.amountOr(generatorDecay, shortest)),
                         centibels(said.amountOr(generatorSustain, 0)),
                         timecents(said.amountOr(generatorRelease, shortest)),
                         static_cast<std::uint16_t>(said.amountOr(generatorExclusiveClass, 0)),
                         looped ? 0.0F : secondsOf(sample)});
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
    Keys keys;
    for (const ZoneSaid& said : zonesOfPreset(lists, i)) {
        if (*said.target >= instruments.size()) continue;
        for (Zone zone : instruments[*said.target]) {
            zone.keys = both(zone.keys, said.keys);
            zone.velocities = both(zone.velocities, said.velocities);
            if (isEmpty(zone.keys) || isEmpty(zone.velocities) || zonesLeft == 0) continue;
            --zonesLeft;
            zone.cents += centsOf(said);
            zone.decay = timecents(zone.decay + said.amountOr(generatorDecay, 0));
            zone.release = timecents(zone.release + said.amountOr(generatorRelease, 0));
            zone.sustain = centibels(zone.sustain + said.amountOr(generatorSustain, 0));
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
        instruments.push_back(soundingZones(lists, i));
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
    font.has24Bit = !lists->lowBytes.empty();
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
