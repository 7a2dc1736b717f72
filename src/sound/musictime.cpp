#include "sound/musictime.h"

namespace cobbleway {
namespace {

/// At `exact` ticks; `whole` is in the bar and tempo that hold.
MusicTime timeAt(const TempoMap& tempo, Tick whole, double exact, const MusicPace& pace) {
    const MetreChange& metre = tempo.metre(whole);
    const int bar = tempo.position(whole).bar;
    const auto beat = static_cast<double>(std::max<Tick>(1, tempo.quarter() * 4 / metre.denominator));
    const double quarters =
        tempo.division().isSmpte() ? 120 : tempo.bpm(whole); // two a second: see TempoMap::quarter()
    MusicTime time;
    time.bar = bar - 1;
    time.barBeat =
        static_cast<float>(std::max(0.0, (exact - static_cast<double>(tempo.barStart(bar))) / beat));
    time.beatsPerBar = static_cast<float>(metre.numerator);
    time.beatUnit = static_cast<float>(metre.denominator);
    time.beatsPerMinute = static_cast<float>(quarters * pace.factor * metre.denominator / 4);
    time.speed = pace.plays ? 1.0F : 0.0F;
    return time;
}

} // namespace

MusicTime musicTimeAt(const TempoMap& tempo, double frame, const MusicPace& pace) {
    // What begins within this frame holds already.
    const Tick whole = tempo.tickAt((frame + 0.5) / pace.rate);
    MusicTime time = timeAt(tempo, whole, tempo.tickAtExact(frame / pace.rate), pace);
    time.frame = std::llround(frame / pace.factor);
    return time;
}

MusicTime musicTimeOfChange(const TempoMap& tempo, Tick tick, const MusicPace& pace) {
    MusicTime time = timeAt(tempo, tick, static_cast<double>(tick), pace);
    time.frame = std::llround(tempo.seconds(tick) * pace.rate / pace.factor);
    return time;
}

Tick nextTimeChange(const TempoMap& tempo, double frame, int rate) {
    Tick next = -1;
    const auto look = [&](const auto& changes) {
        const auto after = std::partition_point(changes.begin(), changes.end(), [&](const auto& change) {
            return tempo.seconds(change.tick) * rate <= frame + 0.5;
        });
        if (after != changes.end() && (next < 0 || after->tick < next)) next = after->tick;
    };
    look(tempo.tempos());
    look(tempo.metres());
    return next;
}

bool TimeTeller::isNews(const MusicTime& time) const {
    constexpr std::int64_t rounding = 2; // frames, at paces that are no whole number
    return !m_wasTold || time.beatsPerBar != m_told.beatsPerBar || time.beatUnit != m_told.beatUnit ||
           time.beatsPerMinute != m_told.beatsPerMinute || time.speed != m_told.speed ||
           std::abs(time.frame - m_expected) > rounding;
}

void TimeTeller::tell(const MusicTime& time, int offset) {
    m_wasTold = true;
    m_told = time;
    m_expected = time.frame - (time.speed > 0 ? offset : 0);
}

void TimeTeller::goOn(int frames) {
    if (m_told.speed > 0) m_expected += frames;
}

} // namespace cobbleway
