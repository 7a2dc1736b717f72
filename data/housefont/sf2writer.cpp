#include "sf2writer.h"

#include <algorithm>
#include <cmath>
#include <fstream>
#include <string_view>

namespace fontmaker {
namespace {

using Bytes = std::vector<std::uint8_t>;

void put16(Bytes& out, unsigned value) {
    out.push_back(static_cast<std::uint8_t>(value));
    out.push_back(static_cast<std::uint8_t>(value >> 8));
}
void put32(Bytes& out, std::size_t value) {
    put16(out, static_cast<unsigned>(value & 0xFFFF));
    put16(out, static_cast<unsigned>(value >> 16));
}
void putName(Bytes& out, const std::string& name) {
    for (std::size_t i = 0; i < 20; ++i)
        out.push_back(i < std::min<std::size_t>(19, name.size()) ? static_cast<std::uint8_t>(name[i]) : 0);
}
void putTag(Bytes& out, std::string_view tag) { out.insert(out.end(), tag.begin(), tag.end()); }

Bytes chunk(std::string_view tag, const Bytes& body) {
    Bytes out;
    putTag(out, tag);
    put32(out, body.size() + (body.size() & 1));
    out.insert(out.end(), body.begin(), body.end());
    if (body.size() & 1) out.push_back(0);
    return out;
}
Bytes textChunk(std::string_view tag, const std::string& text) {
    Bytes body(text.begin(), text.end());
    body.push_back(0);
    return chunk(tag, body);
}
Bytes list(std::string_view kind, const std::vector<Bytes>& chunks) {
    Bytes body;
    putTag(body, kind);
    for (const Bytes& c : chunks) body.insert(body.end(), c.begin(), c.end());
    return chunk("LIST", body);
}
void putGenerator(Bytes& out, unsigned number, int amount) {
    put16(out, number);
    put16(out, static_cast<unsigned>(amount) & 0xFFFF);
}

constexpr std::size_t gap = 46; // zero samples after each sample (6.1)

struct Hydra {
    Bytes presets, presetBags, presetGens, instruments, instrumentBags, instrumentGens, samples, wave;
    unsigned presetBag = 0, presetGen = 0, instrumentBag = 0, instrumentGen = 0;
};

void addSamples(Hydra& h, const std::vector<Sample>& samples) {
    std::size_t at = 0;
    for (const Sample& s : samples) {
        for (const float v : s.wave)
            put16(h.wave, static_cast<unsigned>(std::lround(std::clamp(v, -1.0F, 1.0F) * 32767)) & 0xFFFF);
        for (std::size_t i = 0; i < gap; ++i) put16(h.wave, 0);
        putName(h.samples, s.name);
        put32(h.samples, at);
        put32(h.samples, at + s.wave.size());
        put32(h.samples, at + s.loopStart);
        put32(h.samples, at + s.loopEnd);
        put32(h.samples, static_cast<std::size_t>(s.rate));
        h.samples.push_back(static_cast<std::uint8_t>(s.root));
        h.samples.push_back(0);
        put16(h.samples, 0);
        put16(h.samples, 1); // mono
        at += s.wave.size() + gap;
    }
    putName(h.samples, "EOS");
    h.samples.resize(h.samples.size() + 26);
}

void addZone(Hydra& h, const Zone& zone, const Sample& sample) {
    put16(h.instrumentBags, h.instrumentGen);
    put16(h.instrumentBags, 0);
    ++h.instrumentBag;
    putGenerator(h.instrumentGens, keyRange, zone.lowest | (zone.highest << 8)); // must come first (8.5)
    for (const auto& [number, amount] : zone.generators) putGenerator(h.instrumentGens, number, amount);
    putGenerator(h.instrumentGens, sampleModes, sample.loopEnd > sample.loopStart ? 1 : 0);
    putGenerator(h.instrumentGens, sampleId, static_cast<int>(zone.sample)); // must come last
    h.instrumentGen += 3 + static_cast<unsigned>(zone.generators.size());
}

void addPreset(Hydra& h, const PresetSpec& preset, const std::vector<Sample>& samples, int number) {
    putName(h.presets, preset.name);
    put16(h.presets, static_cast<unsigned>(preset.program));
    put16(h.presets, static_cast<unsigned>(preset.bank));
    put16(h.presets, h.presetBag);
    h.presets.resize(h.presets.size() + 12);
    put16(h.presetBags, h.presetGen);
    put16(h.presetBags, 0);
    ++h.presetBag;
    if (preset.attenuationCb != 0) {
        putGenerator(h.presetGens, attenuation, preset.attenuationCb);
        ++h.presetGen;
    }
    putGenerator(h.presetGens, instrument, number);
    ++h.presetGen;
    putName(h.instruments, preset.name);
    put16(h.instruments, h.instrumentBag);
    for (const Zone& zone : preset.zones) addZone(h, zone, samples[zone.sample]);
}

void addEndMarks(Hydra& h) {
    putName(h.presets, "EOP");
    put32(h.presets, 0);
    put16(h.presets, h.presetBag);
    h.presets.resize(h.presets.size() + 12);
    putName(h.instruments, "EOI");
    put16(h.instruments, h.instrumentBag);
    put16(h.presetBags, h.presetGen);
    put16(h.presetBags, 0);
    put16(h.instrumentBags, h.instrumentGen);
    put16(h.instrumentBags, 0);
    put32(h.presetGens, 0);
    put32(h.instrumentGens, 0);
}

} // namespace

bool writeSf2(const std::filesystem::path& path, const std::string& name, const std::string& comment,
              const std::vector<Sample>& samples, const std::vector<PresetSpec>& presets) {
    Hydra h;
    addSamples(h, samples);
    int number = 0;
    for (const PresetSpec& preset : presets) addPreset(h, preset, samples, number++);
    addEndMarks(h);
    const Bytes version = {2, 0, 4, 0}; // 2.04
    const Bytes noModulators(10, 0);
    const Bytes info = list("INFO", {chunk("ifil", version), textChunk("isng", "EMU8000"),
                                     textChunk("INAM", name), textChunk("ICMT", comment)});
    const Bytes data = list("sdta", {chunk("smpl", h.wave)});
    const Bytes hydra = list(
        "pdta", {chunk("phdr", h.presets), chunk("pbag", h.presetBags), chunk("pmod", noModulators),
                 chunk("pgen", h.presetGens), chunk("inst", h.instruments), chunk("ibag", h.instrumentBags),
                 chunk("imod", noModulators), chunk("igen", h.instrumentGens), chunk("shdr", h.samples)});
    Bytes body;
    putTag(body, "sfbk");
    for (const Bytes* part : {&info, &data, &hydra}) body.insert(body.end(), part->begin(), part->end());
    const Bytes file = chunk("RIFF", body);
    std::ofstream out(path, std::ios::binary);
    out.write(reinterpret_cast<const char*>(file.data()), static_cast<std::streamsize>(file.size()));
    return static_cast<bool>(out);
}

} // namespace fontmaker
