#include "sound/room.h"

#include <cmath>

namespace cobbleway {
namespace {

// Lengths in ms with no common measure, so that echoes never line up; a small hall of 1.3 s.
constexpr std::array<double, 8> lengthsMs = {29.7, 33.1, 37.9, 41.3, 43.7, 47.9, 53.3, 59.1};
constexpr double decaySeconds = 1.3; // to −60 dB
constexpr float damping = 0.35F;     // of high tones, a one-pole low pass
constexpr float level = 0.5F;
constexpr float tiny = 1e-18F; // keeps the filters out of denormal numbers

} // namespace

Room::Room(int rate) {
    for (std::size_t i = 0; i < lineCount; ++i) {
        m_lines[i].samples.assign(static_cast<std::size_t>(lengthsMs[i] * rate / 1000), 0.0F);
        m_lines[i].gain = static_cast<float>(std::pow(10.0, -3.0 * lengthsMs[i] / 1000 / decaySeconds));
    }
}

void Room::process(const float* inLeft, const float* inRight, float* outLeft, float* outRight, int frames) {
    for (int f = 0; f < frames; ++f) {
        std::array<float, lineCount> taps;
        float sum = 0;
        for (std::size_t i = 0; i < lineCount; ++i) {
            DelayLine& line = m_lines[i];
            line.damped += (1 - damping) * (line.samples[line.at] * line.gain - line.damped) + tiny;
            taps[i] = line.damped;
            sum += taps[i];
        }
        const float spread = sum * (2.0F / lineCount); // Householder reflection: loses no energy
        for (std::size_t i = 0; i < lineCount; ++i) {
            DelayLine& line = m_lines[i];
            line.samples[line.at] = (i % 2 == 0 ? inLeft[f] : inRight[f]) + taps[i] - spread;
            if (++line.at == line.samples.size()) line.at = 0;
        }
        outLeft[f] += level * (taps[0] - taps[2] + taps[4] - taps[6] + 0.4F * (taps[1] - taps[5]));
        outRight[f] += level * (taps[1] - taps[3] + taps[5] - taps[7] + 0.4F * (taps[2] - taps[6]));
    }
}

} // namespace cobbleway
