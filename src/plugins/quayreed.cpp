/// Quay reed: a small reed organ. Two ranks of a wave that is made anew, beside the audio thread, whenever
/// its brightness changes (LV2 worker); the pitch of A4 is kept as state.
#include "plugins/plugins.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstring>
#include <lv2/atom/atom.h>
#include <lv2/atom/util.h>
#include <lv2/midi/midi.h>
#include <lv2/state/state.h>
#include <lv2/urid/urid.h>
#include <lv2/worker/worker.h>
#include <memory>
#include <numbers>

namespace cobbleway::plugins {
namespace {

constexpr int waveLength = 1024, octaves = 10, voiceCount = 32;

/// One period, without what would alias, for each octave of keys: at least half the harmonics a key can have.
struct Waves {
    std::array<std::array<float, waveLength + 1>, octaves> octave{};
};

/// Harmonic n has brightness^(n−1) of the first; even ones, which a reed is poor in, half of that.
std::unique_ptr<Waves> makeWaves(float brightness, double rate) {
    auto waves = std::make_unique<Waves>();
    for (int o = 0; o < octaves; ++o) {
        const double highest = 8.1758 * std::pow(2.0, o + 1.5); // Hz, with room for a bend upwards
        const int most = std::clamp(static_cast<int>(rate / 2 / highest), 1, 64);
        auto& wave = waves->octave[static_cast<std::size_t>(o)];
        double strength = 1, sum = 0;
        for (int n = 1; n <= most && strength > 1e-4; ++n, strength *= brightness) {
            const double amplitude = n % 2 == 0 ? strength / 2 : strength;
            sum += amplitude;
            for (int i = 0; i <= waveLength; ++i)
                wave[static_cast<std::size_t>(i)] +=
                    static_cast<float>(amplitude * std::sin(2 * std::numbers::pi * n * i / waveLength));
        }
        for (float& sample : wave) sample = static_cast<float>(sample / std::sqrt(sum));
    }
    return waves;
}

struct Voice {
    int key = -1; ///< −1: free
    bool held = false, sustained = false;
    float velocity = 0, level = 0;
    std::array<double, 2> phase{};
};

struct Message {
    bool free = false; ///< throw `waves` away; otherwise make some
    float brightness = 0;
    Waves* waves = nullptr;
};

enum Port { Events, Left, Right, Brightness, Attack, Release, Detune, PortCount };

class Reed {
  public:
    Reed(double rate, const LV2_Feature* const* features) : m_rate(rate) {
        for (; *features; ++features) {
            if (!std::strcmp((*features)->URI, LV2_URID__map))
                m_map = static_cast<LV2_URID_Map*>((*features)->data);
            if (!std::strcmp((*features)->URI, LV2_WORKER__schedule))
                m_schedule = static_cast<LV2_Worker_Schedule*>((*features)->data);
        }
        if (!m_map) return;
        m_midiEvent = m_map->map(m_map->handle, LV2_MIDI__MidiEvent);
        m_number = m_map->map(m_map->handle, LV2_ATOM__Float);
        m_pitchKey = m_map->map(m_map->handle, COBBLEWAY_PLUGINS "a4");
        m_brightness = 0.6F;
        m_waves = makeWaves(m_brightness, rate);
    }
    [[nodiscard]] bool ready() const { return m_map != nullptr; }
    void connect(std::uint32_t port, void* data) {
        if (port < PortCount) m_ports[port] = data;
    }

    void run(std::uint32_t frames) {
        askForWaves();
        const auto* events = static_cast<const LV2_Atom_Sequence*>(m_ports[Events]);
        std::uint32_t at = 0;
        LV2_ATOM_SEQUENCE_FOREACH(events, event) {
            if (event->body.type != m_midiEvent) continue;
            const auto until =
                static_cast<std::uint32_t>(std::clamp<std::int64_t>(event->time.frames, at, frames));
            render(at, until);
            at = until;
            take(reinterpret_cast<const std::uint8_t*>(event + 1), event->body.size);
        }
        render(at, frames);
    }

    LV2_Worker_Status work(LV2_Worker_Respond_Function respond, LV2_Worker_Respond_Handle handle,
                           const void* data) {
        const auto* message = static_cast<const Message*>(data);
        if (message->free) {
            delete message->waves;
            return LV2_WORKER_SUCCESS;
        }
        Message answer{false, message->brightness, makeWaves(message->brightness, m_rate).release()};
        return respond(handle, sizeof answer, &answer);
    }
    void takeWaves(const void* data) {
        const auto* message = static_cast<const Message*>(data);
        const Message old{true, 0, m_waves.release()};
        m_waves.reset(message->waves);
        if (old.waves && m_schedule) m_schedule->schedule_work(m_schedule->handle, sizeof old, &old);
    }

    LV2_State_Status save(LV2_State_Store_Function store, LV2_State_Handle handle) const {
        return store(handle, m_pitchKey, &m_pitch, sizeof m_pitch, m_number,
                     LV2_STATE_IS_POD | LV2_STATE_IS_PORTABLE);
    }
    LV2_State_Status restore(LV2_State_Retrieve_Function retrieve, LV2_State_Handle handle) {
        std::size_t size = 0;
        std::uint32_t type = 0, flags = 0;
        const void* value = retrieve(handle, m_pitchKey, &size, &type, &flags);
        if (value && size == sizeof m_pitch && type == m_number)
            m_pitch = std::clamp(*static_cast<const float*>(value), 392.0F, 494.0F);
        return LV2_STATE_SUCCESS;
    }

  private:
    [[nodiscard]] float control(Port port) const { return *static_cast<const float*>(m_ports[port]); }

    void askForWaves() {
        const float wanted = std::clamp(control(Brightness), 0.0F, 0.95F);
        if (wanted == m_brightness || !m_schedule) return;
        const Message message{false, wanted, nullptr};
        if (m_schedule->schedule_work(m_schedule->handle, sizeof message, &message) == LV2_WORKER_SUCCESS)
            m_brightness = wanted;
    }

    void take(const std::uint8_t* bytes, std::uint32_t size) {
        if (size < 3) return;
        switch (bytes[0] & 0xF0) {
        case 0x90:
            if (bytes[2] > 0) {
                start(bytes[1], bytes[2]);
                break;
            }
            [[fallthrough]];
        case 0x80: stop(bytes[1]); break;
        case 0xB0: controller(bytes[1], bytes[2]); break;
        case 0xE0: m_bend = static_cast<float>((bytes[1] | bytes[2] << 7) - 8192) / 8192 * 2; break;
        default: break;
        }
    }
    void start(int key, int velocity) {
        // A free voice, else one that fades, else the first.
        auto at = std::find_if(m_voices.begin(), m_voices.end(), [](const Voice& v) { return v.key < 0; });
        if (at == m_voices.end())
            at = std::find_if(m_voices.begin(), m_voices.end(), [](const Voice& v) { return !v.held; });
        if (at == m_voices.end()) at = m_voices.begin();
        *at = {key, true, false, static_cast<float>(velocity) / 127, 0, {}};
    }
    void stop(int key) {
        for (Voice& voice : m_voices)
            if (voice.key == key && voice.held) {
                voice.held = m_pedal;
                voice.sustained = m_pedal;
            }
    }
    void controller(int number, int value) {
        if (number == LV2_MIDI_CTL_SUSTAIN) {
            m_pedal = value >= 64;
            if (!m_pedal)
                for (Voice& voice : m_voices)
                    if (voice.sustained) voice.held = voice.sustained = false;
        } else if (number == LV2_MIDI_CTL_ALL_NOTES_OFF) {
            for (Voice& voice : m_voices) voice.held = voice.sustained = false;
        } else if (number == LV2_MIDI_CTL_ALL_SOUNDS_OFF) {
            m_voices.fill({});
        } else if (number == LV2_MIDI_CTL_RESET_CONTROLLERS) {
            controller(LV2_MIDI_CTL_SUSTAIN, 0);
            m_bend = 0;
        }
    }

    void render(std::uint32_t from, std::uint32_t to) {
        auto* left = static_cast<float*>(m_ports[Left]);
        auto* right = static_cast<float*>(m_ports[Right]);
        std::fill(left + from, left + to, 0.0F);
        std::fill(right + from, right + to, 0.0F);
        const auto step = [&](float ms) { return static_cast<float>(1000 / (std::max(1.0F, ms) * m_rate)); };
        const float up = step(control(Attack)), down = step(control(Release));
        for (Voice& voice : m_voices)
            if (voice.key >= 0) render(voice, left, right, from, to, up, down);
    }
    void render(Voice& voice, float* left, float* right, std::uint32_t from, std::uint32_t to, float up,
                float down) {
        const auto& wave = m_waves->octave[static_cast<std::size_t>(std::min(voice.key / 12, octaves - 1))];
        std::array<double, 2> steps{};
        for (std::size_t rank = 0; rank < 2; ++rank) {
            const double cents = (rank == 0 ? -0.5 : 0.5) * control(Detune);
            steps[rank] = m_pitch * std::pow(2.0, (voice.key - 69 + m_bend + cents / 100) / 12) / m_rate;
        }
        for (std::uint32_t f = from; f < to; ++f) {
            voice.level = voice.held ? std::min(1.0F, voice.level + up) : voice.level - down;
            if (voice.level <= 0 && !voice.held) {
                voice = {};
                return;
            }
            float out[2];
            for (std::size_t rank = 0; rank < 2; ++rank) {
                const double at = voice.phase[rank] * waveLength;
                const auto i = static_cast<std::size_t>(at);
                const auto part = static_cast<float>(at - static_cast<double>(i));
                out[rank] = wave[i] + (wave[i + 1] - wave[i]) * part;
                voice.phase[rank] += steps[rank];
                if (voice.phase[rank] >= 1) voice.phase[rank] -= 1;
            }
            const float gain = 0.16F * voice.level * voice.velocity;
            left[f] += gain * (0.7F * out[0] + 0.3F * out[1]);
            right[f] += gain * (0.3F * out[0] + 0.7F * out[1]);
        }
    }

    double m_rate;
    LV2_URID_Map* m_map = nullptr;
    LV2_Worker_Schedule* m_schedule = nullptr;
    LV2_URID m_midiEvent = 0, m_number = 0, m_pitchKey = 0;
    std::array<void*, PortCount> m_ports{};
    std::unique_ptr<Waves> m_waves;
    float m_brightness = 0, m_pitch = 440, m_bend = 0;
    bool m_pedal = false;
    std::array<Voice, voiceCount> m_voices{};
};

Reed* reed(LV2_Handle handle) { return static_cast<Reed*>(handle); }

const void* extension(const char* uri) {
    static const LV2_Worker_Interface worker{
        [](LV2_Handle self, LV2_Worker_Respond_Function respond, LV2_Worker_Respond_Handle to, std::uint32_t,
           const void* data) { return reed(self)->work(respond, to, data); },
        [](LV2_Handle self, std::uint32_t, const void* data) {
            reed(self)->takeWaves(data);
            return LV2_WORKER_SUCCESS;
        },
        nullptr};
    static const LV2_State_Interface state{
        [](LV2_Handle self, LV2_State_Store_Function store, LV2_State_Handle to, std::uint32_t,
           const LV2_Feature* const*) { return reed(self)->save(store, to); },
        [](LV2_Handle self, LV2_State_Retrieve_Function retrieve, LV2_State_Handle from, std::uint32_t,
           const LV2_Feature* const*) { return reed(self)->restore(retrieve, from); }};
    if (!std::strcmp(uri, LV2_WORKER__interface)) return &worker;
    if (!std::strcmp(uri, LV2_STATE__interface)) return &state;
    return nullptr;
}

} // namespace

const LV2_Descriptor quayReed = {
    COBBLEWAY_PLUGINS "quayreed",
    [](const LV2_Descriptor*, double rate, const char*, const LV2_Feature* const* features) -> LV2_Handle {
        auto made = std::make_unique<Reed>(rate, features);
        return made->ready() ? made.release() : nullptr;
    },
    [](LV2_Handle self, std::uint32_t port, void* data) { reed(self)->connect(port, data); },
    nullptr,
    [](LV2_Handle self, std::uint32_t frames) { reed(self)->run(frames); },
    nullptr,
    [](LV2_Handle self) { delete reed(self); },
    extension,
};

} // namespace cobbleway::plugins
