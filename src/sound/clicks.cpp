#include "sound/clicks.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace cobbleway {
namespace {

/// A sine that dies away.
struct Partial {
    double hz, amplitude, decay; ///< decay in seconds, to 1/e
};

double ring(const Partial& partial, double higher, double seconds) {
    return partial.amplitude * std::exp(-seconds / partial.decay) *
           std::sin(2 * std::numbers::pi * partial.hz * higher * seconds);
}

/// A sample between −1 and 1 of a sound whose pitch is raised by a factor.
double sampleOf(ClickSound sound, double higher, double seconds) {
    double sum = 0;
    switch (sound) {
    case ClickSound::Tone: sum = ring({1046.5, 1, 0.012}, higher, seconds); break; // C6
    case ClickSound::Wood:
        for (const Partial& partial : {Partial{820, 0.62, 0.010}, Partial{1330, 0.38, 0.006}})
            sum += ring(partial, higher, seconds);
        break;
    case ClickSound::Stick: // many partials that no scale has together
        for (const Partial& partial : {Partial{2310, 0.4, 0.004}, Partial{3470, 0.3, 0.003},
                                       Partial{5190, 0.2, 0.002}, Partial{7310, 0.1, 0.002}})
            sum += ring(partial, higher, seconds);
        break;
    }
    return sum * std::min(1.0, seconds / 0.0005);
}

Tick beatTicks(const TempoMap& tempo, const MetreChange& metre) {
    return std::max<Tick>(1, tempo.quarter() * 4 / metre.denominator);
}

} // namespace

int pickUpBeats(const TempoMap& tempo) {
    const MetreChange &first = tempo.metre(0), &second = tempo.metre(tempo.barStart(2));
    const bool shorter = first.denominator == second.denominator && first.numerator < second.numerator;
    return shorter ? second.numerator - first.numerator : 0;
}

std::vector<Click> clicksOf(const TempoMap& tempo, Tick from, Tick to, double pace) {
    std::vector<Click> clicks;
    const double start = tempo.seconds(from);
    const bool pickUp = pickUpBeats(tempo) > 0;
    Position at = tempo.position(from);
    at.tick = 0;
    for (Tick tick = tempo.tickOf(at); tick < to && clicks.size() < mostClicks;) {
        const Position place = tempo.position(tick);
        const bool bar = place.beat == 1 && !(pickUp && place.bar == 1);
        if (tick >= from)
            clicks.push_back({(tempo.seconds(tick) - start) / pace, bar ? Beat::Bar : Beat::Inner});
        const Tick nextBar = tempo.barStart(place.bar + 1); // a metre may change within a bar
        const Tick next = tick + beatTicks(tempo, tempo.metre(tick));
        tick = next < nextBar || nextBar <= tick ? next : nextBar;
    }
    return clicks;
}

std::vector<Click> divided(std::span<const Click> clicks, int parts) {
    std::vector<Click> all;
    for (std::size_t i = 0; i < clicks.size(); ++i) {
        all.push_back(clicks[i]);
        for (int part = 1; part < parts && i + 1 < clicks.size(); ++part)
            all.push_back({clicks[i].seconds + (clicks[i + 1].seconds - clicks[i].seconds) * part / parts,
                           Beat::Between});
    }
    return all;
}

CountIn countInBefore(const TempoMap& tempo, Tick place, int bars, double pace) {
    CountIn count;
    const Position at = tempo.position(place);
    const int missing = at.bar == 1 ? pickUpBeats(tempo) : 0;
    const MetreChange& metre = tempo.metre(place);
    const int inBar = metre.numerator + missing;
    const Tick beat = beatTicks(tempo, metre);
    const double tick = tempo.seconds(place + 1) - tempo.seconds(place); // in the tempo that holds there
    const double seconds = tick * static_cast<double>(beat) / pace;
    const double beats =
        bars * inBar + missing + (at.beat - 1) + static_cast<double>(at.tick) / static_cast<double>(beat);
    for (int i = 0; i < beats - 1e-9; ++i)
        count.clicks.push_back({i * seconds, i % inBar == 0 ? Beat::Bar : Beat::Inner});
    count.seconds = beats * seconds;
    return count;
}

float clickPeakOf(const ClickShape& shape) {
    return clickPeak * static_cast<float>(std::pow(10.0, shape.levelDb / 20));
}

float clickSample(const ClickShape& shape, Beat beat, double seconds) {
    if (seconds < 0 || seconds >= clickSeconds) return 0;
    const bool accent = beat == Beat::Bar && shape.accent;
    const double higher = accent ? 1.5 : 1; // a fifth
    const double softer = accent ? 1 : (beat == Beat::Between ? 0.4 : 0.8);
    return clickPeakOf(shape) * static_cast<float>(softer * sampleOf(shape.sound, higher, seconds));
}

void addClicks(std::span<const Click> clicks, const ClickShape& shape, std::int64_t firstFrame, int rate,
               std::span<float> samples) {
    const auto frames = static_cast<std::int64_t>(samples.size() / 2);
    const auto rings = static_cast<std::int64_t>(clickSeconds * rate);
    for (const Click& click : clicks) {
        const std::int64_t at = std::llround(click.seconds * rate) - firstFrame;
        for (std::int64_t i = std::max<std::int64_t>(0, -at); i < rings && at + i < frames; ++i) {
            const float sample = clickSample(shape, click.beat, static_cast<double>(i) / rate);
            samples[static_cast<std::size_t>(2 * (at + i))] += sample;
            samples[static_cast<std::size_t>(2 * (at + i) + 1)] += sample;
        }
    }
}

void ClickVoices::start(int in, Beat beat) {
    auto voice = std::find_if(m_voices.begin(), m_voices.end(), [](const Voice& v) { return !v.on; });
    if (voice == m_voices.end())
        voice = std::max_element(m_voices.begin(), m_voices.end(),
                                 [](const Voice& a, const Voice& b) { return a.age < b.age; });
    *voice = {true, -in, beat};
}

void ClickVoices::add(const ClickShape& shape, int rate, int frames, float* left, float* right) {
    const int rings = static_cast<int>(clickSeconds * rate);
    for (Voice& voice : m_voices) {
        if (!voice.on) continue;
        for (int f = std::max(0, -voice.age); f < frames && voice.age + f < rings; ++f) {
            const float sample = clickSample(shape, voice.beat, static_cast<double>(voice.age + f) / rate);
            left[f] += sample;
            right[f] += sample;
        }
        voice.age += frames;
        voice.on = voice.age < rings;
    }
}

} // namespace cobbleway
