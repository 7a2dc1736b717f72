/// A small language for writing music as code. Time is counted in quarters.
#pragma once
#include "midi/event.h"

#include <functional>
#include <string>
#include <string_view>
#include <vector>

namespace demo {

inline constexpr int ticksPerQuarter = 480;

struct Tone {
    double start = 0;  ///< quarters from the song's start
    double length = 1; ///< quarters
    int key = 60;
    int velocity = 80;
};
using Tones = std::vector<Tone>;

/// A tune as text: notes with a length after "/" in quarters, that holds until the next one given; "r" rests;
/// "|" is only for the eye. "d5/1 b4/.5 c5 d5/1". A "!" before a note accents it.
Tones tune(std::string_view text, double start, int velocity);

/// How long a tune's text is, in quarters.
double lengthOf(std::string_view text);

/// A chord: bass and tones as pitch classes.
struct Chord {
    int bass = 0;             ///< 0–11
    std::vector<int> classes; ///< root first, 0–11
};

/// Chords over time: "G D/F# Em C | Am:2 D:2"; each four quarters unless ":" says otherwise.
class Changes {
  public:
    Changes(std::string_view text, double start, double usual = 4);
    struct Stretch {
        double start = 0, length = 4;
        Chord chord;
    };
    [[nodiscard]] const std::vector<Stretch>& stretches() const { return m_stretches; }
    [[nodiscard]] const Chord& at(double quarter) const;
    [[nodiscard]] double start() const { return m_stretches.front().start; }
    [[nodiscard]] double end() const { return m_stretches.back().start + m_stretches.back().length; }

  private:
    std::vector<Stretch> m_stretches;
};

/// The key of a pitch class nearest below or at `top`.
int below(int pitchClass, int top);
/// The chord's tones within `lowest` to `highest`, each once in every octave.
std::vector<int> tonesWithin(const Chord& chord, int lowest, int highest);

/// A second voice: for each tone of a tune the next chord tone at least a third below.
Tones harmony(const Tones& melody, const Changes& changes, int velocity);
/// Held chords of `voices` tones that move as little as they can, around `middle`.
Tones pad(const Changes& changes, int middle, int voices, int velocity);
/// A rhythm on the chord: steps of `step` quarters; letters of the pattern: "B" bass, "F" fifth, "C" chord,
/// "1".."9" single chord tones upwards, "-" holds, "." rests. The pattern goes round.
Tones comp(const Changes& changes, std::string_view pattern, double step, int middle, int velocity);

/// Drum hits: a line a key, one letter a sixteenth: "x" hit, "X" accent, "o" soft. Goes round over the bars.
struct DrumLine {
    int key = 36;
    std::string_view pattern;
};
Tones drums(const std::vector<DrumLine>& lines, double start, double quarters, int velocity);

/// Lets a performance breathe: small shifts of time and velocity, the same from run to run.
void humanise(Tones& tones, double time, int velocity, unsigned seed);
/// A swell: velocities go from `from` to `to` percent over the tones.
void swell(Tones& tones, double from, double to);

/// Collects a song and writes it.
class Score {
  public:
    explicit Score(int type, int tracks);
    void tempo(double quarter, double bpm);
    void metre(int numerator, int denominator);
    void marker(double quarter, std::string_view name);
    void text(int track, double quarter, std::uint8_t type, std::string_view text);
    void sysex(std::initializer_list<std::uint8_t> bytes);
    /// Name of a channel by channel prefix and instrument name.
    void name(int track, int channel, std::string_view name);
    /// `channel` and `program` from 1.
    void program(int track, int channel, int program, int msb = -1, int lsb = -1);
    void controller(int track, int channel, double quarter, int number, int value);
    void bend(int track, int channel, double quarter, int value); ///< 0–16383, 8192 the middle
    void add(int track, int channel, const Tones& tones);
    /// Sorted, with an end one bar after the last event.
    cobbleway::MidiFile finish();

  private:
    cobbleway::MidiFile m_file;
};

cobbleway::Tick tickOf(double quarter);

cobbleway::MidiFile lanternQuay();
cobbleway::MidiFile tideMillReel();
cobbleway::MidiFile pilotsEveningSong();
/// As bytes, since it comes damaged: cut off in the middle of its track.
std::vector<std::uint8_t> slackWaterMarch();

} // namespace demo
