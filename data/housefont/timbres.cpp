#include "timbres.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace fontmaker {
namespace {

constexpr double pi2 = 2 * std::numbers::pi;
using Partials = std::vector<Partial>;

/// How many harmonics of a key lie below `top` Hz, between 2 and 40.
int harmonics(double key, double top = 9000) { return std::clamp(static_cast<int>(top / keyHz(key)), 2, 40); }

/// Harmonics n = 1, 2, … with a level each.
template <class Level> Partials harmonic(double key, Level level, double attack = 0, double top = 9000) {
    Partials list;
    for (int n = 1; n <= harmonics(key, top); ++n)
        list.push_back({static_cast<double>(n), level(n), attack * std::sqrt(n), 0, 0});
    return list;
}

/// A struck or plucked string: high partials die first; `place` is where along the string it is struck.
Partials strung(double key, double place, double slope, double decay, double stretch = 0) {
    Partials list;
    for (int n = 1; n <= harmonics(key); ++n) {
        const double comb = std::abs(std::sin(std::numbers::pi * n * place)) + 0.05;
        list.push_back({n * std::sqrt(1 + stretch * n * n), comb / std::pow(n, slope), 0,
                        decay / (1 + 0.35 * (n - 1)), 0});
    }
    if (!list.empty()) list.front().ratio = 1; // the fundamental stays in tune
    return list;
}

/// A resonance: a bump of `gain` around `hz`.
double formant(double f, double hz, double width, double gain) {
    return gain * std::exp(-(f - hz) * (f - hz) / (2 * width * width));
}

Partials voiced(double key, std::initializer_list<std::array<double, 3>> formants, double floor,
                double attack) {
    return harmonic(
        key,
        [&, hz = keyHz(key)](int n) {
            double level = floor / n;
            for (const auto& [at, width, gain] : formants)
                level += formant(n * hz, at, width, gain) / std::sqrt(n);
            return level;
        },
        attack);
}

/// Several players a little out of tune with each other.
Partials chorus(const Partials& one, double hz) {
    Partials list;
    for (const Partial& p : one) {
        const double spread = 0.0022 * p.ratio * hz; // about 4 cents
        for (const double side : {-1.0, 0.15, 1.0}) {
            Partial player = p;
            player.level *= side == 0.15 ? 1.0 : 0.7;
            player.detune = side * spread;
            list.push_back(player);
        }
    }
    return list;
}

ToneSpec spec(std::function<Partials(double)> partials, double evolve = 0.15, double loop = 0.04,
              double noise = 0, double noiseHz = 2000, double fade = 0.05) {
    return {std::move(partials), evolve, loop, noise, noiseHz, fade};
}

/// Struck bars and bells: {ratio, level, decay}.
ToneSpec bars(std::vector<std::array<double, 3>> modes, double evolve, double knock = 0.08) {
    return spec(
        [modes = std::move(modes)](double) {
            Partials list;
            for (const auto& [ratio, level, decay] : modes) list.push_back({ratio, level, 0, decay, 0});
            return list;
        },
        evolve, 0.06, knock, 3500, 0.012);
}

ToneSpec organ(std::vector<std::pair<double, double>> stops, double attack = 0.01) {
    return spec(
        [stops = std::move(stops), attack](double) {
            Partials list;
            for (const auto& [ratio, level] : stops) list.push_back({ratio, level, attack, 0, 0});
            return list;
        },
        0.08, 0.06);
}

ToneSpec string(double place, double slope, double decay, double stretch = 0, double noise = 0.1,
                double noiseHz = 2500) {
    return spec(
        [=](double key) {
            return strung(key, place, slope, decay * std::pow(0.5, (key - 60) / 24), stretch);
        },
        0.35, 0.05, noise, noiseHz, 0.015);
}

ToneSpec players(double slope, double attack, double body) {
    return spec(
        [=](double key) {
            const double hz = keyHz(key);
            const auto one = harmonic(
                key,
                [&](int n) {
                    return (1 / std::pow(n, slope)) *
                           (1 + formant(n * hz, 500, 250, body) + formant(n * hz, 2800, 900, body * 0.6));
                },
                attack, 7000);
            return chorus(one, hz);
        },
        0.2, 0.9);
}

ToneSpec brass(double top, double slope, double attack, double noise) {
    return spec(
        [=](double key) {
            const double hz = keyHz(key);
            return harmonic(
                key, [&](int n) { return (0.5 + formant(n * hz, top, top * 0.7, 1.2)) / std::pow(n, slope); },
                attack);
        },
        0.22, 0.05, noise, 1500, 0.04);
}

ToneSpec pipe(std::vector<double> levels, double noise, double noiseHz, double attack = 0.04) {
    return spec(
        [=](double key) {
            return harmonic(
                key,
                [&](int n) {
                    return n <= static_cast<int>(levels.size()) ? levels[static_cast<std::size_t>(n - 1)]
                                                                : 0.0;
                },
                attack);
        },
        0.2, 0.06, noise, noiseHz, 0.09);
}

ToneSpec toneOf(Timbre timbre) {
    switch (timbre) {
    case Timbre::Piano: return string(0.12, 0.75, 6.0, 0.0004, 0.12, 1200);
    case Timbre::EPiano:
        return bars({{1, 1, 9}, {2, 0.25, 4}, {3, 0.08, 2.5}, {7, 0.22, 0.7}, {14, 0.06, 0.3}}, 0.4, 0.05);
    case Timbre::EPianoBright:
        return bars({{1, 1, 9},
                     {2, 0.5, 4},
                     {3, 0.35, 3},
                     {4, 0.2, 2},
                     {5, 0.22, 1.4},
                     {9, 0.16, 0.6},
                     {11, 0.1, 0.5}},
                    0.4, 0.05);
    case Timbre::Harpsichord: return string(0.09, 0.25, 3.5, 0, 0.2, 3500);
    case Timbre::Clavi: return string(0.17, 0.4, 2.2, 0, 0.2, 2500);
    case Timbre::Celesta: return bars({{1, 1, 4}, {2, 0.18, 2}, {4, 0.2, 0.8}, {8.2, 0.06, 0.3}}, 0.35);
    case Timbre::Glocken:
        return bars({{1, 1, 5}, {2.76, 0.35, 2.0}, {5.4, 0.25, 0.9}, {8.9, 0.1, 0.4}}, 0.4, 0.12);
    case Timbre::MusicBox:
        return bars({{1, 1, 3}, {3.0, 0.3, 1.4}, {6.27, 0.25, 0.6}, {10, 0.05, 0.3}}, 0.35, 0.1);
    case Timbre::Vibes: return bars({{1, 1, 7}, {4, 0.28, 2.0}, {10, 0.08, 0.5}}, 0.35);
    case Timbre::Marimba: return bars({{1, 1, 1.6}, {3.93, 0.25, 0.5}, {9.6, 0.08, 0.2}}, 0.3, 0.15);
    case Timbre::Xylo:
        return bars({{1, 1, 0.9}, {3, 0.45, 0.5}, {6.1, 0.2, 0.25}, {9, 0.1, 0.15}}, 0.25, 0.25);
    case Timbre::Tubular:
        return bars({{1, 0.8, 7},
                     {2, 0.9, 6},
                     {3.01, 0.7, 4},
                     {4.17, 0.4, 3},
                     {5.43, 0.35, 2},
                     {6.8, 0.2, 1.2},
                     {0.5, 0.2, 8}},
                    0.4, 0.15);
    case Timbre::Dulcimer: return string(0.14, 0.5, 3.0, 0.0002, 0.3, 3000);
    case Timbre::Drawbar:
        return organ({{0.5, 0.5}, {1, 1}, {1.5, 0.45}, {2, 0.7}, {3, 0.3}, {4, 0.4}, {6, 0.12}, {8, 0.2}});
    case Timbre::PercOrgan:
        return spec(
            [](double) {
                return Partials{{0.5, 0.5, 0.01}, {1, 1, 0.01},   {2, 0.4, 0.01},
                                {3, 0.9, 0, 0.6}, {4, 0.2, 0.01}, {6, 0.3, 0, 0.4}};
            },
            0.25, 0.06, 0.06, 2500, 0.01);
    case Timbre::RockOrgan:
        return organ({{0.5, 0.8},
                      {1, 1},
                      {1.5, 0.7},
                      {2, 0.9},
                      {3, 0.6},
                      {4, 0.6},
                      {5, 0.4},
                      {6, 0.4},
                      {8, 0.5},
                      {10, 0.2},
                      {12, 0.2}});
    case Timbre::Church:
        return organ(
            {{0.5, 0.6}, {1, 1}, {2, 0.8}, {3, 0.35}, {4, 0.55}, {6, 0.25}, {8, 0.35}, {12, 0.12}, {16, 0.1}},
            0.08);
    case Timbre::Reed:
        return spec(
            [](double key) {
                return harmonic(
                    key, [](int n) { return (n % 2 ? 1.0 : 0.6) / std::pow(n, 0.8); }, 0.05);
            },
            0.15, 0.06, 0.02);
    case Timbre::Accordion:
        return spec(
            [](double key) {
                return chorus(
                    harmonic(
                        key, [](int n) { return (n % 2 ? 1.0 : 0.75) / std::pow(n, 0.75); }, 0.035, 7000),
                    keyHz(key));
            },
            0.12, 0.7);
    case Timbre::Harmonica:
        return spec(
            [](double key) {
                return harmonic(
                    key,
                    [hz = keyHz(key)](int n) {
                        return (0.4 + formant(n * hz, 1800, 900, 1)) / std::pow(n, 0.6);
                    },
                    0.05);
            },
            0.15, 0.06, 0.06, 2500);
    case Timbre::Nylon: return string(0.22, 1.0, 2.8, 0.00005, 0.12, 900);
    case Timbre::Steel: return string(0.15, 0.6, 3.6, 0.0001, 0.16, 2600);
    case Timbre::Jazz: return string(0.28, 1.3, 3.2, 0, 0.06, 800);
    case Timbre::Muted: return string(0.2, 1.0, 0.5, 0, 0.25, 1200);
    case Timbre::Drive:
        return spec(
            [](double key) {
                return harmonic(
                    key, [](int n) { return (n % 2 ? 1.0 : 0.7) / std::pow(n, 0.55); }, 0.004, 6500);
            },
            0.2, 0.06, 0.1, 1800, 0.03);
    case Timbre::Harmonics: return bars({{1, 1, 5}, {2, 0.3, 3}, {3, 0.15, 1.5}}, 0.3, 0.1);
    case Timbre::UprightBass: return string(0.3, 1.25, 2.6, 0, 0.16, 500);
    case Timbre::FingerBass: return string(0.25, 1.0, 3.5, 0, 0.08, 700);
    case Timbre::PickBass: return string(0.14, 0.7, 3.0, 0, 0.16, 1800);
    case Timbre::SlapBass: return string(0.11, 0.45, 2.2, 0, 0.4, 2600);
    case Timbre::SynthBass:
        return spec(
            [](double key) {
                auto list = harmonic(
                    key, [](int n) { return 1.0 / n; }, 0, 5000);
                for (auto& p : list) p.decay = 4 / std::sqrt(p.ratio);
                return list;
            },
            0.3, 0.05);
    case Timbre::Violin:
        return spec(
            [](double key) {
                return harmonic(
                    key,
                    [hz = keyHz(key)](int n) {
                        return (0.6 + formant(n * hz, 480, 160, .7) + formant(n * hz, 1200, 300, .5) +
                                formant(n * hz, 2900, 700, 1)) /
                               std::pow(n, 1.0);
                    },
                    0.06);
            },
            0.2, 0.06, 0.05, 3500, 0.08);
    case Timbre::Cello:
        return spec(
            [](double key) {
                return harmonic(
                    key,
                    [hz = keyHz(key)](int n) {
                        return (0.6 + formant(n * hz, 230, 90, .8) + formant(n * hz, 600, 200, .6) +
                                formant(n * hz, 1600, 500, .5)) /
                               std::pow(n, 1.0);
                    },
                    0.07);
            },
            0.2, 0.06, 0.05, 1800, 0.08);
    case Timbre::Ensemble: return players(1.05, 0.09, 0.6);
    case Timbre::SynthStrings: return players(0.9, 0.12, 0.0);
    case Timbre::Pizzicato: return string(0.3, 1.1, 0.5, 0, 0.2, 900);
    case Timbre::Harp: return string(0.35, 1.1, 3.0, 0, 0.08, 1200);
    case Timbre::Timpani:
        return bars({{1, 1, 2.2}, {1.5, 0.6, 1.6}, {1.99, 0.45, 1.2}, {2.44, 0.3, 0.9}, {2.9, 0.2, 0.7}}, 0.4,
                    0.25);
    case Timbre::Aahs:
        return spec(
            [](double key) {
                return chorus(voiced(key, {{800, 140, 1.0}, {1150, 160, 0.6}, {2900, 300, 0.2}}, 0.25, 0.1),
                              keyHz(key));
            },
            0.25, 0.9);
    case Timbre::Oohs:
        return spec(
            [](double key) {
                return chorus(voiced(key, {{350, 110, 1.0}, {700, 120, 0.35}, {2600, 250, 0.05}}, 0.2, 0.1),
                              keyHz(key));
            },
            0.25, 0.9);
    case Timbre::Hit:
        return spec(
            [](double key) {
                auto list = players(0.7, 0.005, 0.5).partials(key);
                for (auto& p : list) p.decay = 0.9;
                return list;
            },
            0.4, 0.3, 0.3, 1500, 0.05);
    case Timbre::Trumpet: return brass(1500, 0.55, 0.035, 0.06);
    case Timbre::Trombone: return brass(750, 0.7, 0.045, 0.05);
    case Timbre::Tuba: return brass(320, 1.1, 0.05, 0.05);
    case Timbre::MutedTrumpet: return brass(2600, 0.4, 0.03, 0.06);
    case Timbre::Horn: return brass(450, 1.1, 0.06, 0.04);
    case Timbre::Section:
        return spec(
            [](double key) {
                const double hz = keyHz(key);
                return chorus(
                    harmonic(
                        key,
                        [&](int n) { return (0.5 + formant(n * hz, 1200, 800, 1.1)) / std::pow(n, 0.65); },
                        0.035, 7000),
                    hz);
            },
            0.2, 0.8, 0.04);
    case Timbre::SynthBrass:
        return spec(
            [](double key) {
                return chorus(harmonic(
                                  key, [](int n) { return 1 / std::pow(n, 0.85); }, 0.05, 7000),
                              keyHz(key));
            },
            0.25, 0.8);
    case Timbre::Sax:
        return spec(
            [](double key) {
                return harmonic(
                    key,
                    [hz = keyHz(key)](int n) {
                        return (0.5 + formant(n * hz, 600, 250, .8) + formant(n * hz, 1500, 500, .7)) /
                               std::pow(n, 0.75);
                    },
                    0.04);
            },
            0.2, 0.06, 0.08, 1800, 0.07);
    case Timbre::Oboe:
        return spec(
            [](double key) {
                return harmonic(
                    key,
                    [hz = keyHz(key)](int n) {
                        return (0.3 + formant(n * hz, 1100, 350, 1.2) + formant(n * hz, 2700, 500, .5)) /
                               std::pow(n, 0.5);
                    },
                    0.035);
            },
            0.18, 0.06, 0.03, 2500);
    case Timbre::Bassoon:
        return spec(
            [](double key) {
                return harmonic(
                    key,
                    [hz = keyHz(key)](int n) {
                        return (0.25 + formant(n * hz, 480, 160, 1.2) + formant(n * hz, 1150, 300, .4)) /
                               std::pow(n, 0.5);
                    },
                    0.04);
            },
            0.18, 0.06, 0.04, 900);
    case Timbre::Clarinet:
        return spec(
            [](double key) {
                return harmonic(
                    key, [](int n) { return (n % 2 ? 1.0 : 0.07 + 0.012 * n) / std::pow(n, 0.85); }, 0.04);
            },
            0.18, 0.06, 0.03, 1800);
    case Timbre::Flute: return pipe({1, 0.45, 0.16, 0.08, 0.03}, 0.22, 2600, 0.06);
    case Timbre::Recorder: return pipe({1, 0.12, 0.22, 0.04, 0.05}, 0.14, 3200, 0.03);
    case Timbre::PanFlute: return pipe({1, 0.06, 0.2, 0.03, 0.06}, 0.6, 2200, 0.03);
    case Timbre::Whistle: return pipe({1, 0.03}, 0.12, 3000, 0.05);
    case Timbre::Square:
        return spec([](double key) { return harmonic(key, [](int n) { return n % 2 ? 1.0 / n : 0.0; }); },
                    0.02, 0.04);
    case Timbre::Saw:
        return spec([](double key) { return harmonic(key, [](int n) { return 1.0 / n; }); }, 0.02, 0.04);
    case Timbre::Glass:
        return bars({{1, 1, 8}, {2, 0.3, 5}, {3.02, 0.3, 3}, {5.1, 0.25, 2}, {7.2, 0.12, 1}}, 0.4, 0.02);
    case Timbre::Bowed:
        return spec(
            [](double key) {
                return chorus({{1, 1, 0.3}, {2.01, 0.5, 0.4}, {3.0, 0.3, 0.5}, {5.02, 0.15, 0.6}},
                              keyHz(key));
            },
            0.3, 0.9);
    case Timbre::Metal:
        return spec(
            [](double key) {
                return chorus({{1, 1, 0}, {1.5, 0.4, 0}, {2.76, 0.4, 0}, {4.1, 0.3, 0}, {5.4, 0.2, 0}},
                              keyHz(key));
            },
            0.2, 0.9);
    case Timbre::Sitar: return string(0.06, 0.2, 4, 0.0003, 0.2, 3000);
    case Timbre::Banjo: return string(0.1, 0.35, 1.2, 0, 0.3, 2800);
    case Timbre::Koto: return string(0.12, 0.6, 2.2, 0, 0.3, 2000);
    case Timbre::Kalimba: return bars({{1, 1, 1.8}, {5.6, 0.25, 0.3}, {9.2, 0.1, 0.15}}, 0.3, 0.25);
    case Timbre::BagPipe:
        return spec(
            [](double key) {
                return harmonic(key, [hz = keyHz(key)](int n) {
                    return (0.5 + formant(n * hz, 1400, 700, 1)) / std::pow(n, 0.35);
                });
            },
            0.1, 0.06);
    case Timbre::Agogo: return bars({{1, 1, 0.7}, {2.53, 0.7, 0.5}, {3.9, 0.4, 0.3}}, 0.25, 0.1);
    case Timbre::SteelDrum:
        return bars({{1, 1, 1.6}, {2, 0.7, 1.1}, {3, 0.25, 0.6}, {4.1, 0.3, 0.5}}, 0.35, 0.1);
    case Timbre::WoodBlock: return bars({{1, 1, 0.12}, {2.6, 0.4, 0.06}}, 0.15, 0.3);
    default: return {};
    }
}

/// Sounds that play once, over the whole keyboard from one root.
std::vector<Sample> shotOf(Timbre timbre) {
    Noise noise;
    const auto once = [](Sample s) { return std::vector<Sample>{std::move(s)}; };
    const auto drum = [&](const char* name, double hz, double drop, double decay, double click) {
        double phase = 0;
        return makeShot(name, decay * 1.6, 60, [=, n = noise](double t) mutable {
            phase += pi2 * hz * (1 + drop * std::exp(-t * 28)) / shotRate;
            return std::sin(phase) * std::exp(-t * 5 / decay) + click * n() * std::exp(-t * 220);
        });
    };
    switch (timbre) {
    case Timbre::Taiko: return once(drum("Taiko", 62, 0.9, 0.9, 0.5));
    case Timbre::Tom: return once(drum("Melodic tom", 130, 0.5, 0.6, 0.3));
    case Timbre::SynthTom: return once(drum("Synth tom", 150, 1.6, 0.5, 0.05));
    case Timbre::ReverseCymbal:
        return once(makeShot("Reverse cymbal", 1.4, 60,
                             [n = noise, b = Band(Band::Kind::High, 5000, 0.7, shotRate)](double t) mutable {
                                 return b(n()) * std::exp((t - 1.4) * 4);
                             }));
    case Timbre::FretNoise:
        return once(makeShot("Fret noise", 0.35, 60,
                             [n = noise, b = Band(Band::Kind::Band, 2600, 3, shotRate)](double t) mutable {
                                 return b(n()) * std::sin(std::numbers::pi * std::min(1.0, t / 0.35)) *
                                        (1 + 0.5 * std::sin(pi2 * 90 * t));
                             }));
    case Timbre::Breath:
        return once(makeShot("Breath", 0.6, 60,
                             [n = noise, b = Band(Band::Kind::Band, 1500, 0.8, shotRate)](double t) mutable {
                                 return b(n()) * std::sin(std::numbers::pi * std::min(1.0, t / 0.6));
                             }));
    case Timbre::Sea:
        return once(makeShot(
            "Sea", 2.6, 60, [n = noise, b = Band(Band::Kind::Low, 1400, 0.7, shotRate)](double t) mutable {
                return b(n()) * (0.35 + 0.65 * std::pow(std::sin(std::numbers::pi * t / 2.6), 2));
            }));
    case Timbre::Bird:
        return once(makeShot("Bird", 0.7, 60, [phase = 0.0](double t) mutable {
            phase += pi2 * (2600 + 900 * std::sin(pi2 * 11 * t)) / shotRate;
            return std::sin(phase) * std::pow(std::sin(pi2 * 3 * t), 2);
        }));
    case Timbre::Phone:
        return once(makeShot("Telephone", 0.6, 60, [](double t) {
            return (std::sin(pi2 * 1300 * t) + std::sin(pi2 * 1740 * t)) *
                   (std::sin(pi2 * 20 * t) > 0 ? 1 : 0.2);
        }));
    case Timbre::Copter:
        return once(makeShot("Helicopter", 1.0, 60,
                             [n = noise, b = Band(Band::Kind::Low, 500, 0.9, shotRate)](double t) mutable {
                                 return b(n()) * std::pow(0.5 + 0.5 * std::sin(pi2 * 11 * t), 3);
                             }));
    case Timbre::Applause:
        return once(makeShot("Applause", 1.8, 60,
                             [n = noise, m = noise, b = Band(Band::Kind::Band, 1800, 0.7, shotRate),
                              clap = 0.0](double) mutable {
                                 clap = std::max(clap * 0.995, m() > 0.997 ? 1.0 : 0.0);
                                 return b(n()) * (0.3 + clap);
                             }));
    case Timbre::Shot:
        return once(makeShot("Shot", 1.0, 60,
                             [n = noise, b = Band(Band::Kind::Low, 2400, 0.7, shotRate)](double t) mutable {
                                 return b(n()) * (std::exp(-t * 30) + 0.3 * std::exp(-t * 5));
                             }));
    default: return {};
    }
}

const char* nameOf(Timbre timbre) {
    static constexpr std::array<const char*, static_cast<std::size_t>(Timbre::Count)> names = {
        "Piano",     "EPiano",    "EPianoBright",  "Harpsichord", "Clavi",     "Celesta",     "Glocken",
        "MusicBox",  "Vibes",     "Marimba",       "Xylo",        "Tubular",   "Dulcimer",    "Drawbar",
        "PercOrgan", "RockOrgan", "Church",        "Reed",        "Accordion", "Harmonica",   "Nylon",
        "Steel",     "Jazz",      "Muted",         "Drive",       "Harmonics", "UprightBass", "FingerBass",
        "PickBass",  "SlapBass",  "SynthBass",     "Violin",      "Cello",     "Ensemble",    "SynthStrings",
        "Pizzicato", "Harp",      "Timpani",       "Aahs",        "Oohs",      "Hit",         "Trumpet",
        "Trombone",  "Tuba",      "MutedTrumpet",  "Horn",        "Section",   "SynthBrass",  "Sax",
        "Oboe",      "Bassoon",   "Clarinet",      "Flute",       "Recorder",  "PanFlute",    "Whistle",
        "Square",    "Saw",       "Glass",         "Bowed",       "Metal",     "Sitar",       "Banjo",
        "Koto",      "Kalimba",   "BagPipe",       "Agogo",       "SteelDrum", "WoodBlock",   "Taiko",
        "Tom",       "SynthTom",  "ReverseCymbal", "FretNoise",   "Breath",    "Sea",         "Bird",
        "Phone",     "Copter",    "Applause",      "Shot"};
    return names[static_cast<std::size_t>(timbre)];
}

} // namespace

std::vector<Sample> samplesOf(Timbre timbre) {
    if (timbre >= Timbre::Taiko) return shotOf(timbre);
    const ToneSpec tone = toneOf(timbre);
    std::vector<int> roots = {38, 54, 67, 82};
    if (tone.loop > 0.5) roots = {40, 58, 74}; // long loops: fewer of them
    if (timbre == Timbre::Piano) roots = {28, 40, 50, 60, 70, 80, 92};
    std::vector<Sample> samples;
    for (const int root : roots) samples.push_back(makeTone(nameOf(timbre), tone, root));
    return samples;
}

} // namespace fontmaker
