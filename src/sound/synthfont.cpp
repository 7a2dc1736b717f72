#include "sound/synthfont.h"

#include <algorithm>
#include <bitset>

namespace cobbleway {
namespace {

using namespace fontlists;
using Generators = std::bitset<generatorCount>;

Generators generators(std::initializer_list<std::size_t> numbers) {
    Generators set;
    for (const std::size_t number : numbers) set.set(number);
    return set;
}

/// Those that stand for nothing, or for what a zone is (SoundFont 2.04, 8.1.2).
const Generators& notSettings() {
    static const Generators set = generators({14, 18, 19, 20, 41, 42, 43, 44, 49, 53, 55});
    return set;
}

/// Those that only an instrument may set (8.1.2 and 8.5).
const Generators& onlyOfInstruments() {
    static const Generators set = generators({0, 1, 2, 3, 4, 12, 45, 46, 47, 50, 54, 57, 58}) | notSettings();
    return set;
}

/// The value of a setting as libfluidsynth counts it: of attenuation four tenths, as the synthesisers did for
/// which fonts were made.
float valueOf(const ZoneSaid::Setting& setting) {
    const auto amount = static_cast<float>(setting.amount);
    return setting.generator == generatorAttenuation ? amount * 0.4F : amount;
}

/// The flags of a modulator's source (8.2), as libfluidsynth counts them; false for a curve that is none.
bool takeSource(std::uint16_t source, int& number, int& flags) {
    constexpr int curves = 4; // linear, concave, convex, switch
    const int curve = source >> 10;
    number = source & 127;
    flags = (source & 0x80 ? FLUID_MOD_CC : FLUID_MOD_GC) |
            (source & 0x100 ? FLUID_MOD_NEGATIVE : FLUID_MOD_POSITIVE) |
            (source & 0x200 ? FLUID_MOD_BIPOLAR : FLUID_MOD_UNIPOLAR);
    if (curve >= curves) return false;
    constexpr std::array<int, curves> names = {FLUID_MOD_LINEAR, FLUID_MOD_CONCAVE, FLUID_MOD_CONVEX,
                                               FLUID_MOD_SWITCH};
    flags |= names[static_cast<std::size_t>(curve)];
    return true;
}

void take(fluid_mod_t& to, const Modulator& from) {
    int source = 0, flags = 0, amountSource = 0, amountFlags = 0;
    const bool known = takeSource(from.source, source, flags) &&
                       takeSource(from.amountSource, amountSource, amountFlags) && from.transform == 0;
    fluid_mod_set_source1(&to, source, flags);
    fluid_mod_set_source2(&to, amountSource, amountFlags);
    fluid_mod_set_dest(&to, from.generator);
    fluid_mod_set_amount(&to, known ? from.amount : 0);
}

/// A loop within `there` values, of which the sample is `length` long. Some fonts end it past the sample's
/// end, in the silence that follows; others say by two equal places that there is none.
std::pair<std::uint32_t, std::uint32_t> loopOf(const FontSample& sample, std::uint32_t length,
                                               std::uint32_t there) {
    auto [start, end] = std::minmax(sample.loopStart, sample.loopEnd);
    if (start == end) return {0, 0};
    return {start > there ? 0 : start, end > there ? length : end};
}

} // namespace

SynthFont::SynthFont(std::shared_ptr<FontSamples> samples, Reader* reader)
    : m_samples(std::move(samples)), m_reader(reader), m_modulator(new_fluid_mod()),
      m_played(m_samples->voices().samples.size()), m_state(m_played.size()) {}

SynthFont::~SynthFont() = default;

SynthFont* SynthFont::addTo(fluid_synth_t* synth, std::shared_ptr<FontSamples> samples, Reader* reader) {
    fluid_sfont_t* const handle =
        new_fluid_sfont([](fluid_sfont_t*) { return ""; },
                        [](fluid_sfont_t* font, int bank, int program) {
                            return static_cast<SynthFont*>(fluid_sfont_get_data(font))->preset(bank, program);
                        },
                        nullptr, nullptr,
                        [](fluid_sfont_t* font) {
                            delete static_cast<SynthFont*>(fluid_sfont_get_data(font));
                            return delete_fluid_sfont(font);
                        });
    if (!handle) return nullptr;
    auto* const font = new SynthFont(std::move(samples), reader);
    fluid_sfont_set_data(handle, font);
    for (const FontVoices::Preset& preset : font->m_samples->voices().presets) {
        (void)preset;
        font->m_presets.emplace_back(new_fluid_preset(
            handle, [](fluid_preset_t*) { return ""; }, [](fluid_preset_t*) { return 0; },
            [](fluid_preset_t*) { return 0; },
            [](fluid_preset_t* played, fluid_synth_t* on, int channel, int key, int velocity) {
                auto* const self =
                    static_cast<SynthFont*>(fluid_sfont_get_data(fluid_preset_get_sfont(played)));
                const auto number = reinterpret_cast<std::uintptr_t>(fluid_preset_get_data(played));
                return self->start(number, on, channel, key, velocity);
            },
            [](fluid_preset_t*) {}));
        fluid_preset_set_data(font->m_presets.back().get(),
                              reinterpret_cast<void*>(font->m_presets.size() - 1));
    }
    font->m_id = fluid_synth_add_sfont(synth, handle);
    if (font->m_id != FLUID_FAILED) return font;
    delete font;
    delete_fluid_sfont(handle);
    return nullptr;
}

fluid_preset_t* SynthFont::preset(int bank, int program) const {
    const auto& presets = m_samples->voices().presets;
    const FontVoices::Preset* found = m_samples->voices().find(bank, program);
    return found ? m_presets[static_cast<std::size_t>(found - presets.data())].get() : nullptr;
}

void SynthFont::prepare(unsigned sample) {
    if (m_state[sample].load(std::memory_order_acquire) != Absent) return;
    const FontSamples::Data& data = m_samples->data(sample);
    const std::lock_guard hold(m_preparing);
    if (m_state[sample].load(std::memory_order_relaxed) != Absent) return;
    if (data.frames == 0) {
        m_state[sample].store(Silent, std::memory_order_release);
        return;
    }
    const FontSample& said = m_samples->voices().samples[sample];
    auto& played = m_played[sample];
    played.reset(new_fluid_sample());
    // It is not copied, and nobody writes to it.
    fluid_sample_set_sound_data(played.get(), const_cast<short*>(data.values.data()),
                                data.low.empty() ? nullptr : const_cast<char*>(data.low.data()), data.frames,
                                said.rate, 0);
    const auto [start, end] = loopOf(said, data.frames, static_cast<std::uint32_t>(data.values.size()));
    fluid_sample_set_loop(played.get(), start, end);
    fluid_sample_set_pitch(played.get(), said.rootKey, said.correction);
    fluid_voice_optimize_sample(played.get());
    m_state[sample].store(Ready, std::memory_order_release);
}

int SynthFont::start(std::size_t preset, fluid_synth_t* synth, int channel, int key, int velocity) {
    // The last zone first, as libfluidsynth's own reader has it: which voice a zone gets is heard, faintly.
    const auto& voices = m_samples->voices().presets[preset].voices;
    for (auto at = voices.rbegin(); at != voices.rend(); ++at) {
        const FontVoices::Voice& voice = *at;
        if (!voice.sounds(key, velocity)) continue;
        if (m_state[voice.sample].load(std::memory_order_acquire) == Absent) {
            if (m_reader)
                m_reader->want(preset);
            else
                prepare(voice.sample);
        }
        if (m_state[voice.sample].load(std::memory_order_acquire) != Ready) continue;
        fluid_voice_t* const made =
            fluid_synth_alloc_voice(synth, m_played[voice.sample].get(), channel, key, velocity);
        if (!made) return FLUID_FAILED;
        setUp(made, voice);
        fluid_synth_start_voice(synth, made);
    }
    return FLUID_OK;
}

/// Instruments set, presets add (SoundFont 2.04, 9.4).
void SynthFont::setUp(fluid_voice_t* voice, const FontVoices::Voice& played) {
    const auto& zones = m_samples->voices().zones;
    const ZoneSaid &instrument = zones[played.instrumentZone], &preset = zones[played.presetZone];
    for (const ZoneSaid::Setting& setting : instrument.settings)
        if (!notSettings().test(setting.generator))
            fluid_voice_gen_set(voice, setting.generator, valueOf(setting));
    addModulators(voice, instrument, FLUID_VOICE_OVERWRITE);
    for (const ZoneSaid::Setting& setting : preset.settings)
        if (!onlyOfInstruments().test(setting.generator))
            fluid_voice_gen_incr(voice, setting.generator, valueOf(setting));
    addModulators(voice, preset, FLUID_VOICE_ADD);
}

void SynthFont::addModulators(fluid_voice_t* voice, const ZoneSaid& zone, int mode) {
    for (const Modulator& modulator : zone.modulators) {
        take(*m_modulator, modulator);
        if (mode == FLUID_VOICE_OVERWRITE || fluid_mod_get_amount(m_modulator.get()) != 0)
            fluid_voice_add_mod(voice, m_modulator.get(), mode);
    }
}

} // namespace cobbleway
