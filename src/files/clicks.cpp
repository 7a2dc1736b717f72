#include "files/clicks.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace cobbleway {
namespace {

constexpr double length = 0.06; // seconds

float sampleOf(const Click& click, double seconds) {
    const double pitch = click.accent ? 1568 : 1046.5; // G6 and C6
    const double fade = std::exp(-seconds / 0.012) * std::min(1.0, seconds / 0.0005);
    return clickPeak * static_cast<float>(fade * std::sin(2 * std::numbers::pi * pitch * seconds));
}

Tick beatTicks(const TempoMap& tempo, const MetreChange& metre) {
    return std::max<Tick>(1, tempo.quarter() * 4 / metre.denominator);
}

} // namespace

std::vector<Click> clicksOf(const TempoMap& tempo, Tick from, Tick to, double pace) {
    std::vector<Click> clicks;
    const double start = tempo.seconds(from);
    Position at = tempo.position(from);
    at.tick = 0;
    for (Tick tick = tempo.tickOf(at); tick < to;) {
        if (tick >= from)
            clicks.push_back({(tempo.seconds(tick) - start) / pace, tempo.position(tick).beat == 1});
        const Tick bar = tempo.barStart(tempo.position(tick).bar + 1); // a metre may change within a bar
        const Tick next = tick + beatTicks(tempo, tempo.metre(tick));
        tick = next < bar || bar <= tick ? next : bar;
    }
    return clicks;
}

CountIn countInBefore(const TempoMap& tempo, Tick place, int bars, double pace) {
    CountIn count;
    const MetreChange& metre = tempo.metre(place);
    const Tick beat = beatTicks(tempo, metre);
    const double tick = tempo.seconds(place + 1) - tempo.seconds(place); // in the tempo that holds there
    const double seconds = tick * static_cast<double>(beat) / pace;
    for (int i = 0; i < bars * metre.numerator; ++i)
        count.clicks.push_back({i * seconds, i % metre.numerator == 0});
    count.seconds = bars * metre.numerator * seconds;
    return count;
}

void addClicks(std::span<const Click> clicks, std::int64_t firstFrame, int rate, std::span<float> samples) {
    const auto frames = static_cast<std::int64_t>(samples.size() / 2);
    const auto ring = static_cast<std::int64_t>(length * rate);
    for (const Click& click : clicks) {
        const std::int64_t at = std::llround(click.seconds * rate) - firstFrame;
        for (std::int64_t i = std::max<std::int64_t>(0, -at); i < ring && at + i < frames; ++i) {
            const float sample = sampleOf(click, static_cast<double>(i) / rate);
            samples[static_cast<std::size_t>(2 * (at + i))] += sample;
            samples[static_cast<std::size_t>(2 * (at + i) + 1)] += sample;
        }
    }
}

} // namespace cobbleway
