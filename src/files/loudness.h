/// How loud sound is, by libebur128.
#pragma once
#include "font/catalogue.h"
#include "song/model/song.h"

#include <array>
#include <functional>
#include <memory>
#include <span>
#include <stop_token>
#include <vector>

namespace cobbleway {

/// What was measured.
struct Measured {
    double seconds = 0;
    double peakDb = -120; ///< sample peak in dBFS; true peak where that was asked for
    double lufs = -120;   ///< integrated loudness (EBU R 128); −120 when too quiet to measure
    bool operator==(const Measured&) const = default;
};

/// Finds the true peak of interleaved stereo as it comes: four-times oversampled by the filter of ITU-R
/// BS.1770-4, annex 2 (its coefficients from memory; tests hold it against libebur128, which takes ten times
/// as long).
class TruePeakMeter {
  public:
    void take(std::span<const float> samples);
    [[nodiscard]] float peak() const { return m_peak; } ///< amplitude, of samples and between them

  private:
    static constexpr std::size_t taps = 12;
    void takeSide(std::span<const float> samples, std::size_t side);
    std::array<std::array<float, taps - 1>, 2> m_before{}; ///< the last samples of each side
    std::vector<float> m_row;
    float m_peak = 0;
};

/// Measures interleaved stereo as it comes.
class LoudnessMeter {
  public:
    /// `rate` in Hz; `truePeak`: whether peaks are true peaks, which take longer to find.
    explicit LoudnessMeter(int rate, bool truePeak = false);
    ~LoudnessMeter();
    LoudnessMeter(const LoudnessMeter&) = delete;
    LoudnessMeter& operator=(const LoudnessMeter&) = delete;
    void take(std::span<const float> samples);
    [[nodiscard]] Measured measured() const;

  private:
    struct State;
    std::unique_ptr<State> m_state;
};

/// The level that *Match loudness* aims at, and the peak that it stays below.
inline constexpr double aimedLufs = -18, highestPeakDb = -1;

/// The gain in dB that brings what was measured to the level aimed at, or as near as the peak allows.
double gainToLevel(const Measured& measured);

/// Renders a song, without its master level, and measures it with true peak. A stop gives what was measured
/// until then.
Measured measureSong(const Song& song, const Catalogue& catalogue, std::stop_token stop = {},
                     std::function<void(double)> progress = {});

} // namespace cobbleway
