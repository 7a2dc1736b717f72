#include "midi/tempomap.h"

#include <algorithm>
#include <cmath>

namespace cobbleway {
namespace {

/// Sorts by tick, keeps the last of several at one tick, and puts a default at 0 where none stands.
template <class Change> std::vector<Change> tidy(std::vector<Change> changes) {
    std::stable_sort(changes.begin(), changes.end(),
                     [](const Change& a, const Change& b) { return a.tick < b.tick; });
    std::vector<Change> kept;
    if (changes.empty() || changes.front().tick > 0) kept.push_back(Change{});
    for (const Change& change : changes) {
        if (!kept.empty() && kept.back().tick == change.tick)
            kept.back() = change;
        else
            kept.push_back(change);
    }
    return kept;
}

template <class Change> std::size_t indexAt(const std::vector<Change>& changes, Tick tick) {
    const auto after = std::upper_bound(changes.begin(), changes.end(), tick,
                                        [](Tick t, const Change& change) { return t < change.tick; });
    return after == changes.begin() ? 0 : static_cast<std::size_t>(after - changes.begin() - 1);
}

bool isPowerOfTwo(int value) { return value > 0 && value <= 64 && (value & (value - 1)) == 0; }

} // namespace

TempoMap::TempoMap(Division division, std::vector<TempoChange> tempos, std::vector<MetreChange> metres)
    : m_division(division) {
    std::erase_if(tempos, [](const TempoChange& t) { return t.microsecondsPerQuarter <= 0 || t.tick < 0; });
    std::erase_if(metres, [](const MetreChange& m) {
        return m.numerator <= 0 || !isPowerOfTwo(m.denominator) || m.tick < 0;
    });
    m_tempos = tidy(std::move(tempos));
    m_metres = tidy(std::move(metres));
    m_startSeconds.assign(m_tempos.size(), 0.0);
    for (std::size_t i = 1; i < m_tempos.size(); ++i)
        m_startSeconds[i] =
            m_startSeconds[i - 1] +
            static_cast<double>(m_tempos[i].tick - m_tempos[i - 1].tick) * secondsPerTick(i - 1);
    m_startBar.assign(m_metres.size(), 1);
    for (std::size_t i = 1; i < m_metres.size(); ++i) {
        const Tick bar = beatTicks(m_metres[i - 1]) * m_metres[i - 1].numerator;
        const Tick bars = (m_metres[i].tick - m_metres[i - 1].tick + bar - 1) / bar;
        m_startBar[i] = m_startBar[i - 1] + static_cast<int>(std::min<Tick>(bars, 1 << 24));
    }
}

Tick TempoMap::quarter() const {
    if (!m_division.isSmpte()) return m_division.ticksPerQuarter;
    return std::max<Tick>(1, std::llround(m_division.smpteTicksPerSecond() / 2));
}

Tick TempoMap::beatTicks(const MetreChange& metre) const {
    return std::max<Tick>(1, quarter() * 4 / metre.denominator);
}

double TempoMap::secondsPerTick(std::size_t tempo) const {
    if (m_division.isSmpte()) return 1.0 / m_division.smpteTicksPerSecond();
    return m_tempos[tempo].microsecondsPerQuarter * 1e-6 / m_division.ticksPerQuarter;
}

std::size_t TempoMap::tempoIndex(Tick tick) const { return indexAt(m_tempos, tick); }
std::size_t TempoMap::metreIndex(Tick tick) const { return indexAt(m_metres, tick); }

double TempoMap::seconds(Tick tick) const {
    const std::size_t i = tempoIndex(tick);
    return m_startSeconds[i] + static_cast<double>(tick - m_tempos[i].tick) * secondsPerTick(i);
}

double TempoMap::tickAtExact(double seconds) const {
    const auto after = std::upper_bound(m_startSeconds.begin(), m_startSeconds.end(), seconds);
    const auto i = after == m_startSeconds.begin()
                       ? std::size_t{0}
                       : static_cast<std::size_t>(after - m_startSeconds.begin() - 1);
    return static_cast<double>(m_tempos[i].tick) + (seconds - m_startSeconds[i]) / secondsPerTick(i);
}

Tick TempoMap::tickAt(double seconds) const {
    // The nudge makes tickAt(seconds(t)) == t in spite of rounding; it is far below one sample.
    return std::max<Tick>(0, static_cast<Tick>(std::floor(tickAtExact(seconds) + 1e-6)));
}

Position TempoMap::position(Tick tick) const {
    const std::size_t i = metreIndex(tick);
    const Tick beat = beatTicks(m_metres[i]);
    const Tick since = std::max<Tick>(0, tick - m_metres[i].tick);
    const Tick beats = since / beat;
    return {m_startBar[i] + static_cast<int>(std::min<Tick>(beats / m_metres[i].numerator, 1 << 30)),
            static_cast<int>(beats % m_metres[i].numerator) + 1, static_cast<int>(since % beat)};
}

Tick TempoMap::tickOf(Position position) const {
    const auto after = std::upper_bound(m_startBar.begin(), m_startBar.end(), std::max(1, position.bar));
    const auto i = static_cast<std::size_t>(after - m_startBar.begin() - 1);
    const Tick beat = beatTicks(m_metres[i]);
    const Tick bars = std::max(1, position.bar) - m_startBar[i];
    return m_metres[i].tick + (bars * m_metres[i].numerator + std::max(1, position.beat) - 1) * beat +
           std::max(0, position.tick);
}

double TempoMap::bpm(Tick tick) const { return 60e6 / m_tempos[tempoIndex(tick)].microsecondsPerQuarter; }
const MetreChange& TempoMap::metre(Tick tick) const { return m_metres[metreIndex(tick)]; }

double TempoMap::lowestBpm() const {
    int slowest = 0;
    for (const TempoChange& tempo : m_tempos) slowest = std::max(slowest, tempo.microsecondsPerQuarter);
    return 60e6 / slowest;
}

double TempoMap::highestBpm() const {
    int fastest = m_tempos.front().microsecondsPerQuarter;
    for (const TempoChange& tempo : m_tempos) fastest = std::min(fastest, tempo.microsecondsPerQuarter);
    return 60e6 / fastest;
}

bool TempoMap::operator==(const TempoMap& other) const {
    return m_division == other.m_division && m_tempos == other.m_tempos && m_metres == other.m_metres;
}

TempoMap tempoMapOf(const MidiFile& file, const std::vector<Tick>& trackStarts) {
    std::vector<TempoChange> tempos;
    std::vector<MetreChange> metres;
    for (std::size_t t = 0; t < file.tracks.size(); ++t) {
        const Tick shift = t < trackStarts.size() ? trackStarts[t] : 0;
        file.eachBesideNotes(t, [&](const Event& event, std::uint32_t) {
            if (!event.isMeta()) return;
            const auto data = file.bytes(event);
            if (event.data1 == meta::tempo) tempos.push_back({event.tick + shift, tempoOf(data)});
            if (event.data1 == meta::timeSignature && data.size() >= 2 && data[1] <= 6)
                metres.push_back({event.tick + shift, data[0], 1 << data[1]});
        });
    }
    return {file.division, std::move(tempos), std::move(metres)};
}

} // namespace cobbleway
