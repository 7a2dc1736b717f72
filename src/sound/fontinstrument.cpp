#include "sound/fontinstrument.h"

#include "midi/event.h"

#include <algorithm>
#include <array>
#include <fluidsynth.h>
#include <vector>

namespace cobbleway {
namespace {

constexpr int slotsAlone = 64;  // one synthesiser offers at most 128 separate outputs
constexpr int slotsInCrew = 16; // so that there are pieces to share
/// From so many sounds on it pays to wake a crew.
constexpr int voicesForCrew = 64;

struct DeleteSettings {
    void operator()(fluid_settings_t* settings) const { delete_fluid_settings(settings); }
};
struct DeleteSynth {
    void operator()(fluid_synth_t* synth) const { delete_fluid_synth(synth); }
};
using Settings = std::unique_ptr<fluid_settings_t, DeleteSettings>;
using Synth = std::unique_ptr<fluid_synth_t, DeleteSynth>;

void silenceLog() {
    static const bool done = [] {
        for (const int level : {FLUID_PANIC, FLUID_ERR, FLUID_WARN, FLUID_INFO, FLUID_DBG})
            fluid_set_log_function(
                level, [](int, const char*, void*) {}, nullptr);
        return true;
    }();
    (void)done;
}

Settings makeSettings(int slots, int rate, int sounds) {
    Settings settings(new_fluid_settings());
    const auto set = [&](const char* name, int value) { fluid_settings_setint(settings.get(), name, value); };
    fluid_settings_setnum(settings.get(), "synth.sample-rate", rate);
    fluid_settings_setnum(settings.get(), "synth.gain", fontGain);
    set("synth.midi-channels", (slots + 15) / 16 * 16);
    set("synth.audio-channels", slots);
    set("synth.audio-groups", slots);
    set("synth.reverb.active", 0);
    set("synth.chorus.active", 0);
    set("synth.polyphony", sounds);
    set("synth.threadsafe-api", 0); // one thread at a time calls it, so it need not lock
    set("synth.lock-memory", 0);
    return settings;
}

/// One synthesiser and its font for some slots.
struct Unit {
    Settings settings;
    Synth synth;
    int font = -1;
    std::vector<float*> outputs; ///< left and right of each slot in turn
    std::vector<float> waste;    ///< what slots past those in use put out: at most tails of nothing
};

class FontInstrument final : public Instrument {
  public:
    explicit FontInstrument(std::shared_ptr<Crew> crew)
        : m_crew(std::move(crew)), m_slotsEach(m_crew ? slotsInCrew : slotsAlone) {}

    static Result<std::unique_ptr<Instrument>> load(const std::filesystem::path& path, int slots, int rate,
                                                    std::shared_ptr<Crew> crew) {
        silenceLog();
        auto instrument = std::make_unique<FontInstrument>(std::move(crew));
        const int each = instrument->m_slotsEach;
        for (int first = 0; first < std::max(1, slots); first += each) {
            const int count = std::clamp(slots - first, 1, each);
            Unit unit{makeSettings(count, rate,
                                   slots > slotsInCrew && each == slotsInCrew ? fontVoices / 2 : fontVoices),
                      nullptr, -1, std::vector<float*>(static_cast<std::size_t>(count) * 2),
                      std::vector<float>(maxFrames)};
            unit.synth.reset(new_fluid_synth(unit.settings.get()));
            unit.font = unit.synth ? fluid_synth_sfload(unit.synth.get(), path.c_str(), 1) : FLUID_FAILED;
            if (unit.font == FLUID_FAILED)
                return Error{"The soundfont cannot be loaded for playing.", path.string(),
                             "Choose another font under Fonts and instruments."};
            instrument->m_units.push_back(std::move(unit));
        }
        instrument->m_slots = std::max(1, slots);
        for (int slot = 0; slot < instrument->m_slots; ++slot) instrument->reset(slot);
        return std::unique_ptr<Instrument>(std::move(instrument));
    }

    void play(int slot, std::uint8_t status, std::uint8_t data1, std::uint8_t data2) override {
        if (slot < 0 || slot >= m_slots) return;
        fluid_synth_t* synth = synthOf(slot);
        const int channel = slot % m_slotsEach;
        switch (status & 0xF0) {
        case 0x80: fluid_synth_noteoff(synth, channel, data1); break;
        case 0x90:
            if (data2 == 0)
                fluid_synth_noteoff(synth, channel, data1);
            else
                fluid_synth_noteon(synth, channel, data1, data2);
            break;
        case 0xA0: fluid_synth_key_pressure(synth, channel, data1, data2); break;
        case 0xB0: control(slot, data1, data2); break;
        case 0xD0: fluid_synth_channel_pressure(synth, channel, data1); break;
        case 0xE0: fluid_synth_pitch_bend(synth, channel, data1 | (data2 << 7)); break;
        default: break;
        }
    }

    void choose(int slot, const InstrumentSound& sound) override {
        if (slot < 0 || slot >= m_slots) return;
        const Unit& unit = m_units[static_cast<std::size_t>(slot / m_slotsEach)];
        fluid_synth_program_select(unit.synth.get(), slot % m_slotsEach, unit.font, sound.bank,
                                   sound.program);
    }

    void release(int slot) override {
        if (slot < 0 || slot >= m_slots) return;
        fluid_synth_cc(synthOf(slot), slot % m_slotsEach, cc::sustain, 0);
        fluid_synth_all_notes_off(synthOf(slot), slot % m_slotsEach);
    }

    void reset(int slot) override {
        if (slot < 0 || slot >= m_slots) return;
        fluid_synth_t* synth = synthOf(slot);
        const int channel = slot % m_slotsEach;
        fluid_synth_cc(synth, channel, cc::resetAll, 0); // RP-015: leaves volume and pan
        fluid_synth_all_notes_off(synth, channel);
        fluid_synth_pitch_bend(synth, channel, 8192);
        fluid_synth_pitch_wheel_sens(synth, channel, 2);
        fluid_synth_cc(synth, channel, cc::volume, 100);
        setPan(slot, 64);
    }

    void render(std::span<const StereoBlock> out, int frames) override {
        std::size_t slot = 0;
        for (Unit& unit : m_units) {
            for (std::size_t i = 0; i + 1 < unit.outputs.size(); i += 2, ++slot) {
                const bool used = slot < out.size();
                unit.outputs[i] = used ? out[slot].left : unit.waste.data();
                unit.outputs[i + 1] = used ? out[slot].right : unit.waste.data();
            }
        }
        m_frames = frames;
        const int units = static_cast<int>(m_units.size());
        if (m_crew && !m_crew->alone() && units > 1 && sounds() >= voicesForCrew)
            m_crew->run(
                units, [](void* self, int unit) { static_cast<FontInstrument*>(self)->renderUnit(unit); },
                this);
        else
            for (int unit = 0; unit < units; ++unit) renderUnit(unit);
    }

  private:
    void renderUnit(int index) {
        Unit& unit = m_units[static_cast<std::size_t>(index)];
        fluid_synth_process(unit.synth.get(), m_frames, 0, nullptr, static_cast<int>(unit.outputs.size()),
                            unit.outputs.data());
    }

    [[nodiscard]] int sounds() const {
        int sum = 0;
        for (const Unit& unit : m_units) sum += fluid_synth_get_active_voice_count(unit.synth.get());
        return sum;
    }

    [[nodiscard]] fluid_synth_t* synthOf(int slot) const {
        return m_units[static_cast<std::size_t>(slot / m_slotsEach)].synth.get();
    }

    void control(int slot, std::uint8_t number, std::uint8_t value) {
        const bool soundChoice = number == cc::bankMsb || number == cc::bankLsb;
        const bool channelMode = number == cc::localControl || number >= 124; // would regroup the channels
        if (soundChoice || channelMode) return;
        if (number == cc::pan) return setPan(slot, value);
        fluid_synth_cc(synthOf(slot), slot % m_slotsEach, number, value);
    }

    /// RP-036: left = cos(π/2·(v−1)/126), v at least 1. The font's own law spans −50 % to +50 % by a sine of
    /// the same shape, so the place is given as an offset in tenths of a percent.
    void setPan(int slot, int value) {
        const auto place = static_cast<float>((std::max(1, value) - 1) / 126.0 - 0.5);
        fluid_synth_set_gen(synthOf(slot), slot % m_slotsEach, GEN_PAN, place * 1000.0F);
    }

    std::shared_ptr<Crew> m_crew;
    int m_slotsEach;
    std::vector<Unit> m_units;
    int m_slots = 0, m_frames = 0;
};

} // namespace

Result<std::unique_ptr<Instrument>> loadFontInstrument(const std::filesystem::path& font, int slots, int rate,
                                                       std::shared_ptr<Crew> crew) {
    return FontInstrument::load(font, slots, rate, std::move(crew));
}

} // namespace cobbleway
