/// Where the music is, as plug-ins are told it.
#pragma once
#include "midi/tempomap.h"

#include <algorithm>
#include <cmath>
#include <cstdint>

namespace cobbleway {

/// What a time:Position of LV2 says. Beats are those of the metre: eighths in 6/8.
struct MusicTime {
    std::int64_t frame = 0; ///< from the song's start, at the pace at which it plays
    std::int64_t bar = 0;   ///< 0-based
    float barBeat = 0;      ///< beats since the bar's start
    float beatsPerBar = 4;
    float beatUnit = 4; ///< the part of a whole note that is a beat: 4 is a quarter
    float beatsPerMinute = 120;
    float speed = 0; ///< 1: it plays; 0: it stands
};

/// How the frames of a song pass.
struct MusicPace {
    int rate = 48000;   ///< frames a second of the song at its own tempo
    double factor = 1;  ///< of its own tempo; above 0
    bool plays = false; ///< else it stands
};

/// The time at a frame of the song (at its own tempo).
MusicTime musicTimeAt(const TempoMap& tempo, double frame, const MusicPace& pace);

/// The tick of the first change of tempo or metre that begins after a frame; −1 when there is none.
Tick nextTimeChange(const TempoMap& tempo, double frame, int rate);
/// The same time, told at a change itself, where rounding cannot say that it is still to come.
MusicTime musicTimeOfChange(const TempoMap& tempo, Tick tick, const MusicPace& pace);

/// Calls `take(time, offset)` with the time after `offset` frames for each change of tempo or metre within
/// `frames` that are played from a frame of the song on.
template <class Take>
void eachTimeChange(const TempoMap& tempo, double frame, int frames, const MusicPace& pace, Take take) {
    const double end = frame + frames * pace.factor;
    for (double at = frame; pace.plays;) {
        const Tick tick = nextTimeChange(tempo, at, pace.rate);
        at = tick < 0 ? end : tempo.seconds(tick) * pace.rate;
        if (at >= end) return;
        const int offset = static_cast<int>((at - frame) / pace.factor);
        if (offset >= frames) return;
        take(musicTimeOfChange(tempo, tick, pace), offset);
    }
}

/// Finds what a listener who counts on from what he was told last has to be told.
class TimeTeller {
  public:
    /// Whether `time` is something else than what was told last, counted on.
    [[nodiscard]] bool isNews(const MusicTime& time) const;
    /// He is told it, for `offset` frames from here.
    void tell(const MusicTime& time, int offset);
    void goOn(int frames); ///< so many have been played

  private:
    bool m_wasTold = false;
    MusicTime m_told;
    std::int64_t m_expected = 0; ///< the frame that he counts on
};

} // namespace cobbleway
