/// A click on each beat: where, and how it sounds.
#pragma once
#include "midi/tempomap.h"

#include <array>
#include <cstdint>
#include <span>
#include <vector>

namespace cobbleway {

/// What a click marks.
enum class Beat {
    Bar,    ///< the first beat of a bar
    Inner,  ///< another beat
    Between ///< a part of a beat
};

/// A click at a place in sound.
struct Click {
    double seconds = 0;
    Beat beat = Beat::Inner;
    bool operator==(const Click&) const = default;
};

enum class ClickSound { Tone, Wood, Stick };

/// How clicks sound.
struct ClickShape {
    ClickSound sound = ClickSound::Tone;
    double levelDb = 0; ///< −24 to +6
    int parts = 1;      ///< clicks a beat, 1–4
    bool accent = true; ///< the first beat of a bar is louder and higher
    bool operator==(const ClickShape&) const = default;
};

/// The beats of a stretch of a song, by its metre: in 6/8 an eighth is a beat, as the metre says it. The
/// beats of a pick-up (see pickUpBeats()) begin no bar. `pace` as a factor; the first place is second 0. At
/// most `mostClicks`.
std::vector<Click> clicksOf(const TempoMap& tempo, Tick from, Tick to, double pace);
inline constexpr std::size_t mostClicks = 1000000;

/// How many beats the first bar lacks to be as the second: where the metre says that it is shorter, it is a
/// pick-up. 0 where it is not.
int pickUpBeats(const TempoMap& tempo);

/// With `parts` clicks a beat: those between stand evenly up to the next.
std::vector<Click> divided(std::span<const Click> clicks, int parts);

/// So many bars to count before a place, in the metre and tempo that hold there, and the beats of its bar
/// that come before it: what is counted goes on without a gap. Before a pick-up whole bars are counted, and
/// what the pick-up lacks. The first click is at second 0. Gives how long they last in seconds, too.
struct CountIn {
    std::vector<Click> clicks;
    double seconds = 0;
};
CountIn countInBefore(const TempoMap& tempo, Tick place, int bars, double pace);

/// The level of the loudest sample of a click, as an amplitude, at level 0.
inline constexpr float clickPeak = 0.25F;
/// The amplitude of the loudest sample of any click of a shape.
float clickPeakOf(const ClickShape& shape);

/// One sample of a click, at a time from its start in seconds; 0 from `clickSeconds` on.
float clickSample(const ClickShape& shape, Beat beat, double seconds);
inline constexpr double clickSeconds = 0.06;

/// Adds clicks to interleaved stereo that begins at a frame; `rate` in Hz.
void addClicks(std::span<const Click> clicks, const ClickShape& shape, std::int64_t firstFrame, int rate,
               std::span<float> samples);

/// Clicks that sound while a song plays. Allocates nothing.
class ClickVoices {
  public:
    /// Begins a click in so many frames.
    void start(int in, Beat beat);
    /// Adds what sounds in the next `frames` to both sides.
    void add(const ClickShape& shape, int rate, int frames, float* left, float* right);
    void stop() { m_voices = {}; }

  private:
    struct Voice {
        bool on = false;
        int age = 0; ///< frames; below 0: begins then
        Beat beat = Beat::Inner;
    };
    std::array<Voice, 8> m_voices{};
};

} // namespace cobbleway
