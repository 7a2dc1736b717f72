/// Waves of the house font: additive tones, struck and plucked strings, bells, filtered noise.
#pragma once
#include "sf2writer.h"

#include <functional>

namespace fontmaker {

double keyHz(double key); ///< equal temperament, A4 = 440 Hz (ISO 16)

/// One sine of a tone. After the sample's evolving part it holds the level it has reached, for the loop.
struct Partial {
    double ratio = 1; ///< of the key's frequency
    double level = 1;
    double attack = 0; ///< seconds to full level
    double decay = 0;  ///< falls by 60 dB in so many seconds; 0 for never
    double detune = 0; ///< Hz away from the ratio
};

/// How a tone is made for a key.
struct ToneSpec {
    std::function<std::vector<Partial>(double key)> partials;
    double evolve = 0.15;    ///< seconds before the loop
    double loop = 0.05;      ///< seconds of the loop, at least; rounded to whole periods
    double noise = 0;        ///< level of breath or hammer noise in the evolving part
    double noiseHz = 2000;   ///< its middle
    double noiseFade = 0.06; ///< seconds
};

/// A looped sample at a root key, exactly in tune; peak 0.8.
Sample makeTone(const std::string& name, const ToneSpec& spec, int root);

/// A sample that plays once, from a function of time in seconds; faded out at its end.
Sample makeShot(const std::string& name, double seconds, int root, const std::function<double(double)>& wave);

/// White noise, the same from run to run.
class Noise {
  public:
    double operator()() {
        m_state = m_state * 1664525U + 1013904223U;
        return static_cast<double>(static_cast<std::int32_t>(m_state)) / 2147483648.0;
    }

  private:
    std::uint32_t m_state = 20010911;
};

/// A resonant filter (two poles), tuned once.
class Band {
  public:
    enum class Kind { Low, Band, High };
    Band(Kind kind, double hz, double q, int rate);
    double operator()(double in);

  private:
    double m_b0, m_b1, m_b2, m_a1, m_a2;
    double m_x1 = 0, m_x2 = 0, m_y1 = 0, m_y2 = 0;
};

inline constexpr int shotRate = 32000; ///< Hz of samples that play once

} // namespace fontmaker
