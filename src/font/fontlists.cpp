#include "font/fontlists.h"

#include "midi/text.h"

#include <algorithm>
#include <string_view>

namespace cobbleway::fontlists {
namespace {

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
        lists.presetZones.bags.bytes = body;
    else if (tag == "pgen")
        lists.presetZones.generators.bytes = body;
    else if (tag == "pmod")
        lists.presetZones.modulators.bytes = body;
    else if (tag == "inst")
        lists.instruments.bytes = body;
    else if (tag == "ibag")
        lists.instrumentZones.bags.bytes = body;
    else if (tag == "igen")
        lists.instrumentZones.generators.bytes = body;
    else if (tag == "imod")
        lists.instrumentZones.modulators.bytes = body;
    else if (tag == "shdr")
        lists.samples.bytes = body;
    else if (tag == "INAM")
        lists.name = textOf(body);
    else if (tag == "ifil" && body.size() >= 4) {
        const unsigned minor = little16(body.subspan(2));
        lists.version = std::to_string(little16(body)) + (minor < 10 ? ".0" : ".") + std::to_string(minor);
    } else if (tag == "smpl")
        lists.sampleData = body;
    else if (tag == "sm24")
        lists.lowBytes = body;
}

void reportLists(Lists& lists) {
    const auto check = [&](const Records& records, const char* what, std::size_t least) {
        if (records.count() < least)
            lists.damage.push_back({"font.list-cut", {{"list", Message(what)}}});
        else if (records.bytes.size() % records.size != 0)
            lists.damage.push_back({"font.list-odd", {{"list", Message(what)}}});
    };
    check(lists.presets, "font.presets", 2);
    check(lists.presetZones.bags, "font.preset-zones", 2);
    check(lists.presetZones.generators, "font.preset-settings", 1);
    check(lists.instruments, "font.instruments", 2);
    check(lists.instrumentZones.bags, "font.instrument-zones", 2);
    check(lists.instrumentZones.generators, "font.instrument-settings", 1);
    check(lists.samples, "font.samples", 2);
}

KeyRange rangeOf(Bytes record) { return {record[2], std::min<int>(record[3], 127)}; }

/// What an amount of a later setting takes the place of.
void set(std::vector<ZoneSaid::Setting>& settings, ZoneSaid::Setting setting) {
    const auto at = std::lower_bound(
        settings.begin(), settings.end(), setting.generator,
        [](const ZoneSaid::Setting& one, std::uint8_t generator) { return one.generator < generator; });
    if (at != settings.end() && at->generator == setting.generator)
        at->amount = setting.amount;
    else
        settings.insert(at, setting);
}

/// Takes the settings of a zone up to its target: those after it are to be ignored.
void takeGenerators(ZoneSaid& zone, const ZoneLists& lists, std::size_t begin, std::size_t end) {
    for (std::size_t g = begin; g < std::min(end, lists.generators.count()); ++g) {
        const Bytes record = lists.generators.at(g);
        const auto number = static_cast<int>(little16(record));
        if (number == lists.target) {
            zone.target = little16(record.subspan(2));
            return;
        }
        if (number == generatorKeyRange)
            zone.keys = rangeOf(record);
        else if (number == generatorVelocityRange)
            zone.velocities = rangeOf(record);
        else if (number < generatorCount)
            set(zone.settings,
                {static_cast<std::uint8_t>(number), static_cast<std::int16_t>(little16(record.subspan(2)))});
    }
}

Modulator modulatorOf(Bytes record) {
    return {static_cast<std::uint16_t>(little16(record)),
            static_cast<std::uint16_t>(little16(record.subspan(2))),
            static_cast<std::int16_t>(little16(record.subspan(4))),
            static_cast<std::uint16_t>(little16(record.subspan(6))),
            static_cast<std::uint16_t>(little16(record.subspan(8)))};
}

/// The zone's own modulators, the last of those that are alike; then those of the global zone that it does
/// not have.
void takeModulators(ZoneSaid& zone, const ZoneLists& lists, std::size_t begin, std::size_t end) {
    constexpr std::size_t most = 64; // of a zone
    std::vector<Modulator> own;
    const auto like = [](std::vector<Modulator>& in, const Modulator& modulator) {
        return std::find_if(in.begin(), in.end(),
                            [&](const Modulator& one) { return one.isLike(modulator); });
    };
    for (std::size_t m = begin; m < std::min(end, lists.modulators.count()) && own.size() < most; ++m) {
        const Modulator modulator = modulatorOf(lists.modulators.at(m));
        if (const auto at = like(own, modulator); at != own.end())
            *at = modulator;
        else
            own.push_back(modulator);
    }
    for (const Modulator& global : zone.modulators)
        if (own.size() < most && like(own, global) == own.end()) own.push_back(global);
    zone.modulators = std::move(own);
}

/// The zones of one of a list of presets or instruments, whose first bag stands at a place of its record.
std::vector<ZoneSaid> zonesAt(const Records& owners, const ZoneLists& lists, std::size_t i,
                              std::size_t bagAt) {
    return zonesOf(lists, little16(owners.at(i).subspan(bagAt)), little16(owners.at(i + 1).subspan(bagAt)));
}

} // namespace

std::string textOf(Bytes bytes) {
    std::string_view text(reinterpret_cast<const char*>(bytes.data()), bytes.size());
    text = text.substr(0, text.find('\0'));
    return toUtf8(text, guessEncoding(text));
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

std::optional<int> ZoneSaid::amountOf(int generator) const {
    for (const Setting& setting : settings)
        if (setting.generator == generator) return setting.amount;
    return std::nullopt;
}

/// A first zone without target is the global one and gives what it says to those that do not say it
/// themselves (7.3, 7.7).
std::vector<ZoneSaid> zonesOf(const ZoneLists& lists, std::size_t first, std::size_t last) {
    std::vector<ZoneSaid> zones;
    ZoneSaid global;
    for (std::size_t bag = first; bag < last && bag + 1 < lists.bags.count(); ++bag) {
        const Bytes begin = lists.bags.at(bag), end = lists.bags.at(bag + 1);
        ZoneSaid zone = global;
        takeGenerators(zone, lists, little16(begin), little16(end));
        if (!zone.target && bag != first) continue;
        takeModulators(zone, lists, little16(begin.subspan(2)), little16(end.subspan(2)));
        if (zone.target)
            zones.push_back(std::move(zone));
        else
            global = std::move(zone);
    }
    return zones;
}

std::vector<ZoneSaid> zonesOfPreset(const Lists& lists, std::size_t preset) {
    return zonesAt(lists.presets, lists.presetZones, preset, 24);
}

std::vector<ZoneSaid> zonesOfInstrument(const Lists& lists, std::size_t instrument) {
    return zonesAt(lists.instruments, lists.instrumentZones, instrument, 20);
}

bool sampleSounds(const Lists& lists, unsigned sample) {
    if (sample + 1 >= lists.samples.count()) return false;
    const Bytes record = lists.samples.at(sample);
    const std::uint64_t start = little32(record.subspan(20)), end = little32(record.subspan(24));
    const unsigned type = little16(record.subspan(44));
    // Places count in 16-bit values, but in bytes where samples are compressed.
    const std::uint64_t there =
        type & compressedSample ? lists.sampleData.size() : lists.sampleData.size() / 2;
    return end > start && start < there && !(type & romSample);
}

} // namespace cobbleway::fontlists
