/// Tick ↔ second ↔ bar.beat.tick.
#pragma once
#include "midi/event.h"

#include <vector>

namespace cobbleway {

/// A place as people say it: bar and beat from 1, tick within the beat from 0.
struct Position {
    int bar = 1;
    int beat = 1;
    int tick = 0;
    auto operator<=>(const Position&) const = default;
};

struct TempoChange {
    Tick tick = 0;
    int microsecondsPerQuarter = 500000; ///< 1–16777215
    bool operator==(const TempoChange&) const = default;
};

struct MetreChange {
    Tick tick = 0;
    int numerator = 4;   ///< 1–255
    int denominator = 4; ///< a power of two, 1–64
    bool operator==(const MetreChange&) const = default;
};

/// The song's time. Before the first tempo 120 quarters a minute hold, before the first metre 4/4 (SMF 1.0).
/// A metre change within a bar begins a new bar there. Tempo does not matter under an SMPTE division.
class TempoMap {
  public:
    TempoMap() : TempoMap(Division{}, {}, {}) {}
    /// Changes may come in any order; of several at one tick the last given holds. Impossible values
    /// (tempo 0, metre 0) are left out.
    TempoMap(Division division, std::vector<TempoChange> tempos, std::vector<MetreChange> metres);

    [[nodiscard]] double seconds(Tick tick) const;   ///< seconds from the start; linear between changes
    [[nodiscard]] Tick tickAt(double seconds) const; ///< the last tick that begins at or before `seconds`
    [[nodiscard]] double tickAtExact(double seconds) const; ///< the same with the fraction of a tick kept
    [[nodiscard]] Position position(Tick tick) const;
    [[nodiscard]] Tick tickOf(Position position) const; ///< parts of the position below 1 count as 1
    [[nodiscard]] Tick barStart(int bar) const { return tickOf({bar, 1, 0}); } ///< bar from 1
    [[nodiscard]] double bpm(Tick tick) const; ///< quarters a minute in force at a tick
    [[nodiscard]] const MetreChange& metre(Tick tick) const;

    [[nodiscard]] const Division& division() const { return m_division; }
    [[nodiscard]] const std::vector<TempoChange>& tempos() const { return m_tempos; } ///< first at tick 0
    [[nodiscard]] const std::vector<MetreChange>& metres() const { return m_metres; } ///< first at tick 0
    [[nodiscard]] double lowestBpm() const;
    [[nodiscard]] double highestBpm() const;
    /// Ticks a quarter; under SMPTE the ticks of half a second, which then stand for a quarter.
    [[nodiscard]] Tick quarter() const;
    bool operator==(const TempoMap& other) const;

  private:
    [[nodiscard]] double secondsPerTick(std::size_t tempo) const;
    [[nodiscard]] std::size_t tempoIndex(Tick tick) const;
    [[nodiscard]] std::size_t metreIndex(Tick tick) const;
    [[nodiscard]] Tick beatTicks(const MetreChange& metre) const;

    Division m_division;
    std::vector<TempoChange> m_tempos;
    std::vector<MetreChange> m_metres;
    std::vector<double> m_startSeconds; ///< for each tempo
    std::vector<int> m_startBar;        ///< for each metre, from 1
};

/// The tempo map in a file's meta events, from all tracks; `trackStarts` shifts each track (type 2).
TempoMap tempoMapOf(const MidiFile& file, const std::vector<Tick>& trackStarts = {});

} // namespace cobbleway
