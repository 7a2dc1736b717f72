#include "drums.h"

#include <cmath>
#include <numbers>

namespace fontmaker {
namespace {

constexpr double pi2 = 2 * std::numbers::pi;
using Kind = Band::Kind;

/// A skin: a falling tone with a click.
Sample skin(const char* name, double hz, double drop, double seconds, double click, double speed = 28) {
    return makeShot(name, seconds * 1.5, 60, [=, phase = 0.0, n = Noise{}](double t) mutable {
        phase += pi2 * hz * (1 + drop * std::exp(-t * speed)) / shotRate;
        return std::sin(phase) * std::exp(-t * 5 / seconds) + click * n() * std::exp(-t * 180);
    });
}

/// Noise through a filter, dying away.
Sample hiss(const char* name, Kind kind, double hz, double q, double seconds, double attack = 0) {
    return makeShot(name, seconds * 1.4, 60,
                    [=, n = Noise{}, b = Band(kind, hz, q, shotRate)](double t) mutable {
                        const double rise = attack > 0 ? std::min(1.0, t / attack) : 1;
                        return b(n()) * rise * std::exp(-std::max(0.0, t - attack) * 5 / seconds);
                    });
}

/// Metal: many partials without a common measure, high-passed, and hiss.
Sample metal(const char* name, double hz, double cut, double seconds, double hissShare, double length) {
    return makeShot(name, length, 60,
                    [=, n = Noise{}, b = Band(Kind::High, cut, 0.8, shotRate)](double t) mutable {
                        double sum = 0;
                        for (const double ratio : {1.0, 1.342, 1.2312, 1.6532, 1.9523, 2.1523, 2.737, 3.113})
                            sum += std::sin(pi2 * hz * ratio * t) > 0 ? 1 : -1;
                        return b(sum / 8 + hissShare * n()) * std::exp(-t * 5 / seconds);
                    });
}

Sample ring(const char* name, std::initializer_list<std::array<double, 3>> modes, double seconds,
            double click) {
    return makeShot(name, seconds, 60, [list = std::vector(modes), click, n = Noise{}](double t) mutable {
        double sum = click * n() * std::exp(-t * 300);
        for (const auto& [hz, level, decay] : list)
            sum += level * std::sin(pi2 * hz * t) * std::exp(-t * 6.9 / decay);
        return sum;
    });
}

Sample snare(const char* name, double tone, double noiseHz, double seconds, double wires) {
    return makeShot(
        name, seconds * 1.5, 60,
        [=, n = Noise{}, b = Band(Kind::High, noiseHz, 0.7, shotRate), phase = 0.0](double t) mutable {
            phase += pi2 * tone * (1 + 0.5 * std::exp(-t * 60)) / shotRate;
            return std::sin(phase) * 0.8 * std::exp(-t * 22) + wires * b(n()) * std::exp(-t * 5 / seconds);
        });
}

Sample clap() {
    return makeShot("Clap", 0.35, 60,
                    [n = Noise{}, b = Band(Kind::Band, 1300, 1.2, shotRate)](double t) mutable {
                        double envelope = std::exp(-std::max(0.0, t - 0.03) * 18) * (t >= 0.03 ? 1 : 0);
                        for (const double start : {0.0, 0.01, 0.02})
                            envelope += t >= start && t < start + 0.01 ? std::exp(-(t - start) * 250) : 0;
                        return b(n()) * envelope;
                    });
}

Sample scraped(const char* name, double seconds, double rate) {
    return makeShot(
        name, seconds, 60, [=, n = Noise{}, b = Band(Kind::Band, 3200, 2, shotRate)](double t) mutable {
            return b(n()) * std::pow(0.5 + 0.5 * std::sin(pi2 * rate * t), 4) * (0.4 + t / seconds);
        });
}

Sample gliding(const char* name, double from, double to, double seconds) {
    return makeShot(name, seconds, 60, [=, phase = 0.0](double t) mutable {
        phase += pi2 * (from + (to - from) * t / seconds) / shotRate;
        return std::sin(phase) * std::sin(std::numbers::pi * std::min(1.0, t / seconds));
    });
}

Sample whistle(const char* name, double seconds) {
    return makeShot(name, seconds, 60, [=, n = Noise{}](double t) mutable {
        return std::sin(pi2 * (2300 + 60 * std::sin(pi2 * 34 * t)) * t) * (1 + 0.3 * n()) *
               std::min(1.0, t * 60);
    });
}

} // namespace

std::map<int, Sample> drumSamples(bool brushes) {
    std::map<int, Sample> kit;
    const auto add = [&](int key, Sample sample) { kit.emplace(key, std::move(sample)); };
    if (brushes) {
        add(35, skin("Soft kick", 52, 0.8, 0.35, 0.1));
        add(36, skin("Soft kick 2", 58, 0.8, 0.32, 0.15));
        add(38, hiss("Brush tap", Kind::Band, 2200, 0.6, 0.16));
        add(39, hiss("Brush slap", Kind::Band, 1600, 0.7, 0.22));
        add(40, hiss("Brush swirl", Kind::Band, 2600, 0.6, 0.5, 0.2));
    } else {
        add(35, skin("Kick 2", 50, 1.4, 0.4, 0.3));
        add(36, skin("Kick 1", 56, 2.2, 0.34, 0.5));
        add(38, snare("Snare", 190, 1400, 0.22, 0.9));
        add(39, clap());
        add(40, snare("Snare 2", 230, 2200, 0.18, 1.1));
    }
    add(37, ring("Side stick", {{1700, 1, 0.05}, {2600, 0.6, 0.04}, {480, 0.5, 0.05}}, 0.12, 0.5));
    const double tomHz[] = {82, 98, 117, 139, 165, 196};
    const int tomKeys[] = {41, 43, 45, 47, 48, 50};
    for (int i = 0; i < 6; ++i) add(tomKeys[i], skin("Tom", tomHz[i], 0.5, 0.45, brushes ? 0.1 : 0.25, 18));
    add(42, metal("Closed hat", 420, 7000, brushes ? 0.09 : 0.07, 0.6, 0.14));
    add(44, metal("Pedal hat", 400, 6500, 0.1, 0.5, 0.16));
    add(46, metal("Open hat", 420, 6800, 0.7, 0.6, 0.8));
    add(49, metal("Crash 1", 310, 4200, 1.6, 1.0, 1.7));
    add(57, metal("Crash 2", 345, 4600, 1.4, 1.0, 1.5));
    add(55, metal("Splash", 400, 5200, 0.7, 1.0, 0.8));
    add(52, metal("China", 260, 3000, 1.2, 1.2, 1.3));
    add(51, metal("Ride 1", 480, 6000, 1.2, 0.35, 1.3));
    add(59, metal("Ride 2", 510, 6200, 1.1, 0.35, 1.2));
    add(53, ring("Ride bell", {{1180, 1, 1.0}, {2350, 0.6, 0.8}, {3470, 0.4, 0.6}}, 1.0, 0.2));
    add(54, metal("Tambourine", 900, 7500, 0.22, 0.9, 0.3));
    add(56, ring("Cowbell", {{560, 1, 0.35}, {845, 0.9, 0.3}, {1700, 0.3, 0.2}}, 0.4, 0.1));
    add(58, scraped("Vibraslap", 0.8, 30));
    add(60, skin("Bongo high", 420, 0.2, 0.16, 0.2));
    add(61, skin("Bongo low", 310, 0.2, 0.2, 0.2));
    add(62, skin("Conga mute", 260, 0.1, 0.08, 0.4));
    add(63, skin("Conga open", 250, 0.1, 0.3, 0.15));
    add(64, skin("Conga low", 180, 0.1, 0.36, 0.15));
    add(65, skin("Timbale high", 360, 0.2, 0.35, 0.5));
    add(66, skin("Timbale low", 270, 0.2, 0.4, 0.5));
    add(67, ring("Agogo high", {{1040, 1, 0.4}, {2630, 0.5, 0.3}}, 0.4, 0.1));
    add(68, ring("Agogo low", {{780, 1, 0.4}, {1970, 0.5, 0.3}}, 0.4, 0.1));
    add(69, hiss("Cabasa", Kind::High, 6000, 0.8, 0.12, 0.01));
    add(70, hiss("Maracas", Kind::High, 5000, 0.8, 0.07, 0.006));
    add(71, whistle("Whistle short", 0.2));
    add(72, whistle("Whistle long", 0.6));
    add(73, scraped("Guiro short", 0.12, 70));
    add(74, scraped("Guiro long", 0.45, 55));
    add(75, ring("Claves", {{2500, 1, 0.1}, {5100, 0.2, 0.05}}, 0.15, 0.1));
    add(76, ring("Wood block hi", {{1250, 1, 0.1}, {2900, 0.4, 0.06}}, 0.15, 0.15));
    add(77, ring("Wood block lo", {{880, 1, 0.12}, {2100, 0.4, 0.06}}, 0.18, 0.15));
    add(78, gliding("Cuica mute", 700, 520, 0.15));
    add(79, gliding("Cuica open", 420, 760, 0.3));
    add(80, ring("Triangle mute", {{4100, 1, 0.15}, {6700, 0.6, 0.12}}, 0.2, 0.05));
    add(81, ring("Triangle open", {{4100, 1, 1.4}, {6700, 0.6, 1.1}, {9300, 0.3, 0.8}}, 1.2, 0.05));
    return kit;
}

int exclusiveClassOf(int key) {
    switch (key) {
    case 42:
    case 44:
    case 46: return 1;
    case 71:
    case 72: return 2;
    case 73:
    case 74: return 3;
    case 78:
    case 79: return 4;
    case 80:
    case 81: return 5;
    default: return 0;
    }
}

} // namespace fontmaker
