/// A click on each beat, as samples.
#pragma once
#include "midi/tempomap.h"

#include <span>
#include <vector>

namespace cobbleway {

/// A beat at a place in sound.
struct Click {
    double seconds = 0;
    bool accent = false; ///< the first beat of a bar
    bool operator==(const Click&) const = default;
};

/// The beats of a stretch of a song, by its metre: in 6/8 an eighth is a beat, as the metre says it.
/// `pace` as a factor; the first place is second 0.
std::vector<Click> clicksOf(const TempoMap& tempo, Tick from, Tick to, double pace);

/// So many bars to count before a place, in the metre and tempo that hold there; the first click is at second
/// 0. Gives how long they last in seconds, too.
struct CountIn {
    std::vector<Click> clicks;
    double seconds = 0;
};
CountIn countInBefore(const TempoMap& tempo, Tick place, int bars, double pace);

/// The level of the loudest sample of a click.
inline constexpr float clickPeak = 0.25F;

/// Adds clicks to interleaved stereo that begins at a frame; `rate` in Hz.
void addClicks(std::span<const Click> clicks, std::int64_t firstFrame, int rate, std::span<float> samples);

} // namespace cobbleway
