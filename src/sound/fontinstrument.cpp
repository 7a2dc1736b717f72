#include "sound/fontinstrument.h"

#include "sound/fluidhandles.h"
#include "sound/fontchannel.h"
#include "sound/synthfont.h"
#include "sound/threadshare.h"

#include <algorithm>
#include <array>
#include <atomic>
#include <fluidsynth.h>
#include <functional>
#include <mutex>
#include <numeric>
#include <semaphore>
#include <set>
#include <thread>
#include <vector>

namespace cobbleway {
namespace {

constexpr int slotsAlone = 64;  // one synthesiser offers at most 128 separate outputs
constexpr int slotsInCrew = 16; // so that there are pieces to share
/// From so many sounds on it pays to wake a crew.
constexpr int voicesForCrew = 64;

void silenceLog() {
    static const bool done = [] {
        for (const int level : {FLUID_PANIC, FLUID_ERR, FLUID_WARN, FLUID_INFO, FLUID_DBG})
            fluid_set_log_function(
                level, [](int, const char*, void*) {}, nullptr);
        return true;
    }();
    (void)done;
}

FluidSettings makeSettings(int slots, int rate, int sounds) {
    FluidSettings settings(new_fluid_settings());
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
    FluidSettings settings;
    FluidSynth synth;
    int font = -1;                ///< the synthesiser's number for it
    SynthFont* samples = nullptr; ///< null for a font that is loaded whole; the synthesiser's own
    int slots = 0;                ///< for how many it has room
    std::vector<float*> outputs;  ///< left and right of each slot in turn; null where nobody takes it
};

/// Brings whole sounds on a thread of its own, as they are wanted.
class LateReader final : public SynthFont::Reader {
  public:
    LateReader(std::size_t presets, std::function<void(std::size_t preset, std::stop_token)> bring)
        : m_wanted(presets), m_bring(std::move(bring)),
          m_thread([this](const std::stop_token& stop) { run(stop); }) {}
    ~LateReader() {
        m_thread.request_stop();
        m_wake.release();
    }
    LateReader(const LateReader&) = delete;
    LateReader& operator=(const LateReader&) = delete;
    /// Once a preset; neither locks nor allocates.
    void want(std::size_t preset) override {
        if (m_wanted[preset].exchange(Wanted) == Unwanted) m_wake.release();
    }

  private:
    enum State : std::uint8_t { Unwanted, Wanted, Brought };
    void run(const std::stop_token& stop) {
        for (m_wake.acquire(); !stop.stop_requested(); m_wake.acquire())
            for (std::size_t preset = 0; preset < m_wanted.size() && !stop.stop_requested(); ++preset) {
                State wanted = Wanted;
                if (m_wanted[preset].compare_exchange_strong(wanted, Brought)) m_bring(preset, stop);
            }
    }
    std::vector<std::atomic<State>> m_wanted;
    std::function<void(std::size_t, std::stop_token)> m_bring;
    std::counting_semaphore<> m_wake{0};
    std::jthread m_thread; // last: it ends first
};

class FontInstrument final : public Instrument {
  public:
    FontInstrument(std::filesystem::path font, int slots, int rate, std::shared_ptr<FontSamples> samples,
                   const FontUse& use)
        : m_font(std::move(font)), m_rate(rate), m_samples(std::move(samples)), m_crew(use.crew),
          m_slotsEach(m_crew ? slotsInCrew : slotsAlone), m_sharesEach(m_crew ? 1 : renderShares),
          m_slots(std::max(1, slots)),
          m_units(static_cast<std::size_t>(((m_slots - 1) / m_slotsEach + 1) * m_sharesEach)) {
        if (m_samples && use.live)
            m_late = std::make_unique<LateReader>(
                m_samples->voices().presets.size(),
                [this](std::size_t preset, const std::stop_token& stop) { bring(preset, stop); });
    }

    static Result<std::unique_ptr<Instrument>> load(const std::filesystem::path& path, int slots, int rate,
                                                    const FontUse& use) {
        silenceLog();
        auto samples = FontSamples::of(path, use.cache);
        auto instrument = std::make_unique<FontInstrument>(
            path, slots, rate, samples ? std::move(samples.value()) : nullptr, use);
        if (!instrument->setShares(use.shareOfSlot))
            return Error{{"error.font-load"}, path.string(), {"now.other-font"}};
        if (use.whole) instrument->bringAll();
        return std::unique_ptr<Instrument>(std::move(instrument));
    }

    void prepare(const InstrumentSound& sound, const PlayedNotes& notes) override {
        const FontVoices::Preset* preset = m_samples ? presetOf(sound) : nullptr;
        if (!preset) return;
        std::set<std::uint16_t> needed;
        for (const FontVoices::Voice& voice : preset->voices)
            if (notes.anyWithin(voice.keys.lowest, voice.keys.highest, voice.velocities.lowest,
                                voice.velocities.highest))
                needed.insert(voice.sample);
        bringTogether({needed.begin(), needed.end()});
    }

    void expectAny(const InstrumentSound& sound) override {
        if (const FontVoices::Preset* preset = m_late ? presetOf(sound) : nullptr)
            m_late->want(static_cast<std::size_t>(preset - m_samples->voices().presets.data()));
    }

    bool setShares(std::span<const std::uint8_t> shareOfSlot) override {
        std::vector<Place> places;
        std::vector<int> counts(m_units.size(), 0);
        for (int slot = 0; slot < m_slots; ++slot) {
            const auto at = static_cast<std::size_t>(slot);
            if (at < shareOfSlot.size() && shareOfSlot[at] == noShare) {
                places.push_back({});
                continue;
            }
            const int share = at < shareOfSlot.size() ? shareOfSlot[at] % m_sharesEach : 0;
            const int unit = slot / m_slotsEach * m_sharesEach + share;
            places.push_back({unit, counts[static_cast<std::size_t>(unit)]++});
        }
        if (places == m_places) return true;
        const bool dealt = std::any_of(places.begin(), places.end(),
                                       [&](const Place& place) { return place.unit % m_sharesEach > 0; });
        const std::lock_guard hold(m_loading);
        const bool fewer = dealt || (m_crew && m_slots > slotsInCrew);
        for (std::size_t i = 0; i < m_units.size(); ++i)
            if (counts[i] > m_units[i].slots && !loadUnit(m_units[i], counts[i], fewer)) return false;
        m_places = std::move(places);
        m_channels.resize(m_places.size());
        for (int slot = 0; slot < m_slots; ++slot)
            if (hasPlace(slot)) channelOf(slot).attach(unitOf(slot).synth.get(), placeOf(slot).channel);
        return true;
    }

    void play(int slot, std::uint8_t status, std::uint8_t data1, std::uint8_t data2) override {
        if (!hasPlace(slot)) return;
        channelOf(slot).play(status, data1, data2);
    }

    void choose(int slot, const InstrumentSound& sound) override {
        if (!hasPlace(slot)) return;
        const Unit& unit = unitOf(slot);
        fluid_synth_program_select(unit.synth.get(), placeOf(slot).channel, unit.font, sound.bank,
                                   sound.program);
    }

    void stop(int slot, int key) override {
        if (hasPlace(slot)) channelOf(slot).stop(key);
    }

    void release(int slot) override {
        if (hasPlace(slot)) channelOf(slot).release();
    }

    void reset(int slot) override {
        if (hasPlace(slot)) channelOf(slot).reset();
    }

    void render(std::span<const StereoBlock> out, int frames) override {
        m_frames = frames;
        const int units = static_cast<int>(m_units.size());
        direct(0, 1, out);
        if (m_crew && !m_crew->alone() && units > 1 && sounds() >= voicesForCrew)
            m_crew->run(
                units,
                [](void* self, int unit) {
                    auto* font = static_cast<FontInstrument*>(self);
                    font->renderUnit(unit, font->m_frames);
                },
                this);
        else
            for (int unit = 0; unit < units; ++unit) renderUnit(unit, frames);
    }

    void renderShare(int share, std::span<const StereoBlock> out, int frames) override {
        direct(share, m_sharesEach, out);
        for (int unit = share; unit < static_cast<int>(m_units.size()); unit += m_sharesEach)
            renderUnit(unit, frames);
    }

  private:
    /// Where a slot is; one that never sounds is nowhere.
    struct Place {
        int unit = -1, channel = 0;
        bool operator==(const Place&) const = default;
    };

    bool loadUnit(Unit& unit, int slots, bool fewerVoices) {
        Unit made{makeSettings(slots, m_rate, fewerVoices ? fontVoices / 2 : fontVoices),
                  nullptr,
                  FLUID_FAILED,
                  nullptr,
                  slots,
                  std::vector<float*>(static_cast<std::size_t>(slots) * 2)};
        made.synth.reset(new_fluid_synth(made.settings.get()));
        if (made.synth && m_samples) {
            made.samples = SynthFont::addTo(made.synth.get(), m_samples, m_late.get());
            if (made.samples) made.font = made.samples->id();
        } else if (made.synth) {
            made.font = fluid_synth_sfload(made.synth.get(), m_font.c_str(), 1);
        }
        if (made.font == FLUID_FAILED) return false;
        unit.synth.reset(); // it needs its settings to end
        unit = std::move(made);
        return true;
    }

    [[nodiscard]] const FontVoices::Preset* presetOf(const InstrumentSound& sound) const {
        return m_samples->voices().find(sound.bank, sound.program);
    }

    void prepareSample(unsigned sample) {
        for (const Unit& unit : m_units)
            if (unit.samples) unit.samples->prepare(sample);
    }

    void bringTogether(const std::vector<std::uint16_t>& list) {
        forEachOn({}, list.size(), [&](std::size_t i) { (void)m_samples->data(list[i]); });
        const std::lock_guard hold(m_loading);
        for (const std::uint16_t sample : list) prepareSample(sample);
    }

    void bringAll() {
        std::vector<std::uint16_t> all(m_samples ? m_samples->voices().samples.size() : 0);
        std::iota(all.begin(), all.end(), std::uint16_t{0});
        bringTogether(all);
    }

    /// All of a sound, one sample after another.
    void bring(std::size_t preset, const std::stop_token& stop) {
        for (const FontVoices::Voice& voice : m_samples->voices().presets[preset].voices) {
            if (stop.stop_requested()) return;
            (void)m_samples->data(voice.sample);
            const std::lock_guard hold(m_loading);
            prepareSample(voice.sample);
        }
    }

    /// Says where the slots of some units put their sound: each `step`th from the first.
    void direct(int first, int step, std::span<const StereoBlock> out) {
        for (auto unit = static_cast<std::size_t>(first); unit < m_units.size();
             unit += static_cast<std::size_t>(step))
            std::fill(m_units[unit].outputs.begin(), m_units[unit].outputs.end(), nullptr);
        for (std::size_t slot = 0; slot < std::min(out.size(), m_places.size()); ++slot) {
            const auto [unit, channel] = m_places[slot];
            if (unit < 0 || unit % step != first) continue;
            auto& outputs = m_units[static_cast<std::size_t>(unit)].outputs;
            outputs[static_cast<std::size_t>(channel) * 2] = out[slot].left;
            outputs[static_cast<std::size_t>(channel) * 2 + 1] = out[slot].right;
        }
    }

    void renderUnit(int index, int frames) {
        Unit& unit = m_units[static_cast<std::size_t>(index)];
        if (unit.synth)
            fluid_synth_process(unit.synth.get(), frames, 0, nullptr, static_cast<int>(unit.outputs.size()),
                                unit.outputs.data());
    }

    [[nodiscard]] int sounds() const {
        int sum = 0;
        for (const Unit& unit : m_units)
            if (unit.synth) sum += fluid_synth_get_active_voice_count(unit.synth.get());
        return sum;
    }

    [[nodiscard]] bool hasPlace(int slot) const {
        return slot >= 0 && slot < m_slots && placeOf(slot).unit >= 0;
    }
    [[nodiscard]] const Place& placeOf(int slot) const { return m_places[static_cast<std::size_t>(slot)]; }
    [[nodiscard]] const Unit& unitOf(int slot) const {
        return m_units[static_cast<std::size_t>(placeOf(slot).unit)];
    }
    [[nodiscard]] FontChannel& channelOf(int slot) { return m_channels[static_cast<std::size_t>(slot)]; }

    std::filesystem::path m_font;
    int m_rate;
    std::shared_ptr<FontSamples> m_samples; ///< null for a font that is loaded whole
    std::shared_ptr<Crew> m_crew;
    int m_slotsEach, m_sharesEach, m_slots;
    std::vector<Unit> m_units; ///< m_sharesEach for each m_slotsEach slots; those without slots are not made
    std::vector<Place> m_places; ///< by slot
    std::vector<FontChannel> m_channels;
    int m_frames = 0;
    std::mutex m_loading;               ///< of the units
    std::unique_ptr<LateReader> m_late; // last: it uses all of this. Null where notes wait
};

} // namespace

Result<std::unique_ptr<Instrument>> loadFontInstrument(const std::filesystem::path& font, int slots, int rate,
                                                       const FontUse& use) {
    return FontInstrument::load(font, slots, rate, use);
}

} // namespace cobbleway
