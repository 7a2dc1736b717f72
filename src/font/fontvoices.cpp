#include "font/fontvoices.h"

#include "font/mappedfile.h"

#include <algorithm>
#include <tuple>

namespace cobbleway {
namespace {

using namespace fontlists;
using FileBytes = std::span<const std::uint8_t>;

/// After each sample stand 46 values of silence (7.10), which loops that end past it reach.
constexpr std::uint64_t silenceAfter = 46;

FontSample uncompressed(const Lists& lists, FileBytes file, std::uint64_t start, std::uint64_t end) {
    const std::uint64_t there = lists.sampleData.size() / 2;
    const auto chunk = static_cast<std::uint64_t>(lists.sampleData.data() - file.data());
    end = std::min(end, there);
    FontSample sample;
    sample.offset = chunk + start * 2;
    sample.frames = static_cast<std::uint32_t>(end - start);
    sample.bytes = (std::min(end + silenceAfter, there) - start) * 2;
    if (lists.lowBytes.size() >= there)
        sample.lowBytes = static_cast<std::uint64_t>(lists.lowBytes.data() - file.data()) + start;
    return sample;
}

FontSample compressed(const Lists& lists, FileBytes file, std::uint64_t start, std::uint64_t end) {
    FontSample sample;
    sample.offset = static_cast<std::uint64_t>(lists.sampleData.data() - file.data()) + start;
    sample.bytes = std::min<std::uint64_t>(end, lists.sampleData.size()) - start;
    sample.compressed = true;
    return sample;
}

/// A sample that does not sound has no data.
FontSample sampleOf(const Lists& lists, FileBytes file, unsigned number) {
    if (!sampleSounds(lists, number)) return {};
    const auto record = lists.samples.at(number);
    const std::uint64_t start = little32(record.subspan(20)), end = little32(record.subspan(24));
    const std::uint32_t loopStart = little32(record.subspan(28)), loopEnd = little32(record.subspan(32));
    const bool packed = little16(record.subspan(44)) & compressedSample;
    FontSample sample = packed ? compressed(lists, file, start, end) : uncompressed(lists, file, start, end);
    // Those of compressed samples count from their start, others from the start of the chunk.
    const auto base = static_cast<std::uint32_t>(packed ? 0 : start);
    sample.loopStart = loopStart >= base ? loopStart - base : 0;
    sample.loopEnd = loopEnd >= base ? loopEnd - base : 0;
    sample.rate = little32(record.subspan(36));
    sample.rootKey = record[40] < 128 ? record[40] : 60; // 255 stands for "no pitch" (7.10)
    sample.correction = static_cast<std::int8_t>(record[41]);
    return sample;
}

/// The voices of a preset. `instruments`: the zones of each, by their places in `voices.zones`.
std::vector<FontVoices::Voice>
voicesOf(const FontVoices& voices, std::uint32_t firstZone,
         const std::vector<std::pair<std::uint32_t, std::uint32_t>>& instruments, std::size_t& left) {
    std::vector<FontVoices::Voice> found;
    for (std::uint32_t zone = firstZone; zone < voices.zones.size(); ++zone) {
        const ZoneSaid& said = voices.zones[zone];
        if (*said.target >= instruments.size()) continue;
        const auto [first, last] = instruments[*said.target];
        for (std::uint32_t inner = first; inner < last; ++inner) {
            const ZoneSaid& played = voices.zones[inner];
            FontVoices::Voice voice{both(said.keys, played.keys), both(said.velocities, played.velocities),
                                    zone, inner, static_cast<std::uint16_t>(*played.target)};
            if (*played.target >= voices.samples.size() || voices.samples[voice.sample].bytes == 0) continue;
            if (isEmpty(voice.keys) || isEmpty(voice.velocities) || left == 0) continue;
            --left;
            found.push_back(voice);
        }
    }
    return found;
}

} // namespace

const FontVoices::Preset* FontVoices::find(int bank, int program) const {
    const auto at = std::lower_bound(
        presets.begin(), presets.end(), std::tuple(bank, program),
        [](const Preset& p, const auto& number) { return std::tuple(p.bank, p.program) < number; });
    return at != presets.end() && at->bank == bank && at->program == program ? &*at : nullptr;
}

Result<FontVoices> readFontVoices(std::span<const std::uint8_t> file, const std::string& where) {
    const auto lists = listsOf(file);
    if (!lists) return Error{{"error.not-font"}, where, {"now.choose-font"}};
    FontVoices voices;
    for (std::size_t i = 0; i + 1 < lists->samples.count(); ++i)
        voices.samples.push_back(sampleOf(*lists, file, static_cast<unsigned>(i)));
    const auto take = [&](std::vector<ZoneSaid> zones) {
        const auto first = static_cast<std::uint32_t>(voices.zones.size());
        if (first + zones.size() <= mostZones)
            std::move(zones.begin(), zones.end(), std::back_inserter(voices.zones));
        return first;
    };
    std::vector<std::pair<std::uint32_t, std::uint32_t>> instruments;
    for (std::size_t i = 0; i + 1 < lists->instruments.count(); ++i) {
        const std::uint32_t first = take(zonesOfInstrument(*lists, i));
        instruments.emplace_back(first, static_cast<std::uint32_t>(voices.zones.size()));
    }
    std::size_t left = mostZones;
    for (std::size_t i = 0; i + 1 < lists->presets.count(); ++i) {
        const auto record = lists->presets.at(i);
        const std::uint32_t first = take(zonesOfPreset(*lists, i));
        voices.presets.push_back({static_cast<int>(little16(record.subspan(22))),
                                  static_cast<int>(little16(record.subspan(20))), textOf(record.first(20)),
                                  voicesOf(voices, first, instruments, left)});
    }
    const auto number = [](const FontVoices::Preset& p) { return std::tuple(p.bank, p.program); };
    std::stable_sort(voices.presets.begin(), voices.presets.end(),
                     [&](const auto& a, const auto& b) { return number(a) < number(b); });
    voices.presets.erase(std::unique(voices.presets.begin(), voices.presets.end(),
                                     [&](const auto& a, const auto& b) { return number(a) == number(b); }),
                         voices.presets.end());
    return voices;
}

Result<FontVoices> readFontVoices(const std::filesystem::path& path) {
    const MappedFile file(path);
    if (file.bytes().empty()) return Error{{"error.font-open"}, path.string(), {"now.check-readable"}};
    return readFontVoices(file.bytes(), path.string());
}

} // namespace cobbleway
