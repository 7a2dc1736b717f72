/// Evener, a compressor, and Tilt, a tone control: stereo in, stereo out.
#include "plugins/plugins.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <memory>
#include <numbers>

namespace cobbleway::plugins {
namespace {

double gainOf(double db) { return std::pow(10.0, db / 20); }

/// Ports of both: two in, two out, then three controls.
struct Ports {
    std::array<float*, 7> at{};
    [[nodiscard]] double control(std::size_t i) const { return *at[4 + i]; }
};

/// Louder than the threshold is made softer by the ratio; both sides alike, so that the middle stays there.
class Evener {
  public:
    explicit Evener(double rate) : m_rate(rate) {}
    Ports ports;
    void run(std::uint32_t frames) {
        const double threshold = ports.control(0), ratio = std::max(1.0, ports.control(1));
        const double makeUp = gainOf(ports.control(2));
        const double fast = 1 - std::exp(-1 / (0.005 * m_rate)), slow = 1 - std::exp(-1 / (0.15 * m_rate));
        for (std::uint32_t f = 0; f < frames; ++f) {
            const double loud = std::max(std::abs(ports.at[0][f]), std::abs(ports.at[1][f]));
            m_envelope += (loud > m_envelope ? fast : slow) * (loud - m_envelope);
            const double over = 20 * std::log10(std::max(m_envelope, 1e-6)) - threshold;
            const double gain = over > 0 ? gainOf(over * (1 / ratio - 1)) * makeUp : makeUp;
            for (std::size_t side = 0; side < 2; ++side)
                ports.at[2 + side][f] = static_cast<float>(ports.at[side][f] * gain);
        }
    }

  private:
    double m_rate, m_envelope = 0;
};

/// Low and high tones apart at a frequency by a one-pole filter, each with a gain.
class Tilt {
  public:
    explicit Tilt(double rate) : m_rate(rate) {}
    Ports ports;
    void run(std::uint32_t frames) {
        const double low = gainOf(ports.control(0)), high = gainOf(ports.control(1));
        const double pole = 1 - std::exp(-2 * std::numbers::pi * ports.control(2) / m_rate);
        for (std::uint32_t f = 0; f < frames; ++f)
            for (std::size_t side = 0; side < 2; ++side) {
                const double in = ports.at[side][f];
                m_low[side] += pole * (in - m_low[side]) + 1e-20;
                ports.at[2 + side][f] = static_cast<float>(low * m_low[side] + high * (in - m_low[side]));
            }
    }

  private:
    double m_rate;
    std::array<double, 2> m_low{};
};

template <class Effect> constexpr LV2_Descriptor describe(const char* uri) {
    return {uri,
            [](const LV2_Descriptor*, double rate, const char*, const LV2_Feature* const*) -> LV2_Handle {
                return new Effect(rate);
            },
            [](LV2_Handle self, std::uint32_t port, void* data) {
                auto& ports = static_cast<Effect*>(self)->ports.at;
                if (port < ports.size()) ports[port] = static_cast<float*>(data);
            },
            nullptr,
            [](LV2_Handle self, std::uint32_t frames) { static_cast<Effect*>(self)->run(frames); },
            nullptr,
            [](LV2_Handle self) { delete static_cast<Effect*>(self); },
            nullptr};
}

} // namespace

const LV2_Descriptor evener = describe<Evener>(COBBLEWAY_PLUGINS "evener");
const LV2_Descriptor tilt = describe<Tilt>(COBBLEWAY_PLUGINS "tilt");

} // namespace cobbleway::plugins
