#include "waves.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace fontmaker {
namespace {

constexpr double twoPi = 2 * std::numbers::pi;
constexpr double baseRate = 22000; // Hz; the true rate is the multiple of the period near it

void normalise(std::vector<float>& wave) {
    float peak = 0;
    for (const float v : wave) peak = std::max(peak, std::abs(v));
    if (peak > 0)
        for (float& v : wave) v *= 0.8F / peak;
}

/// Adds one partial that is periodic in the loop, so that the loop has no seam.
void addPartial(std::vector<float>& wave, const Partial& partial, double cycles, std::size_t loop,
                std::size_t evolve, int rate, int index) {
    const double step = twoPi * cycles / static_cast<double>(loop);
    // Phases by a quadratic rule keep the peak of many partials low (Schroeder); anchored at the loop's
    // start.
    const double phase = std::numbers::pi * index * index / 24.0 - step * static_cast<double>(evolve % loop);
    double held = 1;
    for (std::size_t t = 0; t < wave.size(); ++t) {
        const double seconds = static_cast<double>(std::min(t, evolve)) / rate;
        if (t <= evolve) {
            held = partial.attack > 0 ? 1 - std::exp(-4 * seconds / partial.attack) : 1;
            if (partial.decay > 0) held *= std::pow(10.0, -3 * seconds / partial.decay);
        }
        wave[t] += static_cast<float>(partial.level * held * std::sin(step * static_cast<double>(t) + phase));
    }
}

} // namespace

double keyHz(double key) { return 440 * std::pow(2.0, (key - 69) / 12); }

Sample makeTone(const std::string& name, const ToneSpec& spec, int root) {
    const double hz = keyHz(root);
    const auto period = static_cast<std::size_t>(std::max(12.0, std::round(baseRate / hz)));
    Sample sample;
    sample.name = name + " " + std::to_string(root);
    sample.root = root;
    sample.rate = static_cast<int>(std::lround(hz * static_cast<double>(period)));
    const double cycles = std::max(1.0, std::ceil(spec.loop * hz));
    const std::size_t loop = static_cast<std::size_t>(cycles) * period;
    const auto evolve = static_cast<std::size_t>(spec.evolve * sample.rate);
    sample.wave.assign(evolve + loop + 8, 0); // a few samples past the loop for the interpolation
    int index = 0;
    for (const Partial& partial : spec.partials(root)) {
        const double whole = std::round(partial.ratio * cycles + partial.detune * cycles / hz);
        ++index;
        if (whole < 1 || whole * 2.1 > static_cast<double>(loop) || partial.level <= 0) continue;
        addPartial(sample.wave, partial, whole, loop, evolve, sample.rate, index);
    }
    normalise(sample.wave);
    if (spec.noise > 0) {
        Noise noise;
        Band band(Band::Kind::Band, std::min(spec.noiseHz, sample.rate * 0.4), 1.2, sample.rate);
        for (std::size_t t = 0; t < evolve; ++t) {
            const double seconds = static_cast<double>(t) / sample.rate;
            const double fade = std::exp(-seconds / spec.noiseFade) *
                                (1 - static_cast<double>(t) / static_cast<double>(evolve));
            sample.wave[t] += static_cast<float>(spec.noise * band(noise()) * fade);
        }
        normalise(sample.wave);
    }
    sample.loopStart = evolve;
    sample.loopEnd = evolve + loop;
    return sample;
}

Sample makeShot(const std::string& name, double seconds, int root,
                const std::function<double(double)>& wave) {
    Sample sample;
    sample.name = name;
    sample.root = root;
    sample.rate = shotRate;
    const auto frames = static_cast<std::size_t>(seconds * shotRate);
    for (std::size_t t = 0; t < frames; ++t) {
        const double left = static_cast<double>(frames - t) / static_cast<double>(frames);
        sample.wave.push_back(
            static_cast<float>(wave(static_cast<double>(t) / shotRate) * std::min(1.0, left * 8)));
    }
    normalise(sample.wave);
    return sample;
}

// Coefficients: R. Bristow-Johnson's audio EQ cookbook.
Band::Band(Kind kind, double hz, double q, int rate) {
    const double w = twoPi * std::min(hz, rate * 0.45) / rate, c = std::cos(w), alpha = std::sin(w) / (2 * q);
    const double a0 = 1 + alpha;
    m_a1 = -2 * c / a0;
    m_a2 = (1 - alpha) / a0;
    switch (kind) {
    case Kind::Low:
        m_b0 = m_b2 = (1 - c) / 2 / a0;
        m_b1 = (1 - c) / a0;
        break;
    case Kind::High:
        m_b0 = m_b2 = (1 + c) / 2 / a0;
        m_b1 = -(1 + c) / a0;
        break;
    case Kind::Band:
    default:
        m_b0 = alpha / a0;
        m_b1 = 0;
        m_b2 = -alpha / a0;
        break;
    }
}

double Band::operator()(double in) {
    const double out = m_b0 * in + m_b1 * m_x1 + m_b2 * m_x2 - m_a1 * m_y1 - m_a2 * m_y2;
    m_x2 = m_x1;
    m_x1 = in;
    m_y2 = m_y1;
    m_y1 = out;
    return out;
}

} // namespace fontmaker
