#include "sound/room.h"

#include "sound/wide.h"

#include <algorithm>
#include <cmath>

namespace cobbleway {
namespace {

// Lengths in ms with no common measure, so that echoes never line up; a small hall.
constexpr std::array<double, 8> lengthsMs = {29.7, 33.1, 37.9, 41.3, 43.7, 47.9, 53.3, 59.1};
constexpr float damping = 0.35F; // of high tones, a one-pole low pass
constexpr float level = 0.5F;

} // namespace

Room::Room(int rate) : m_rate(rate) {
    for (std::size_t i = 0; i < lines; ++i)
        m_lines[i].ring.assign(static_cast<std::size_t>(lengthsMs[i] * rate / 1000), 0.0F);
    setSeconds(1.3F);
}

void Room::setSeconds(float seconds) {
    if (seconds == m_seconds) return;
    m_seconds = seconds;
    for (std::size_t i = 0; i < lines; ++i)
        m_gains[i] = static_cast<float>(std::pow(10.0, -3.0 * static_cast<double>(m_lines[i].ring.size()) /
                                                           m_rate / static_cast<double>(seconds)));
}

void Room::process(const float* inLeft, const float* inRight, float* outLeft, float* outRight, int frames) {
    for (auto left = static_cast<std::size_t>(frames); left > 0;) {
        std::size_t count = std::min(left, piece);
        for (const DelayLine& line : m_lines) count = std::min(count, line.ring.size() - line.at);
        step(inLeft, inRight, outLeft, outRight, count);
        for (DelayLine& line : m_lines)
            if ((line.at += count) == line.ring.size()) line.at = 0;
        inLeft += count;
        inRight += count;
        outLeft += count;
        outRight += count;
        left -= count;
    }
}

COBBLEWAY_WIDE
void Room::step(const float* __restrict inLeft, const float* __restrict inRight, float* __restrict outLeft,
                float* __restrict outRight, std::size_t frames) {
    // DelayLine by line, many frames at once; only the low passes go frame by frame, all lines together.
    std::array<std::array<float, piece>, lines> damped;
    for (std::size_t i = 0; i < lines; ++i) {
        const float* __restrict taps = &m_lines[i].ring[m_lines[i].at];
        const float gain = (1 - damping) * m_gains[i];
        for (std::size_t f = 0; f < frames; ++f) damped[i][f] = taps[f] * gain;
    }
    Row last = m_damped;
    for (std::size_t f = 0; f < frames; ++f)
#pragma GCC unroll 8
        for (std::size_t i = 0; i < lines; ++i) {
            last[i] = last[i] * damping + damped[i][f];
            damped[i][f] = last[i];
        }
    m_damped = last;
    std::array<float, piece> spread; // Householder reflection: loses no energy
    for (std::size_t f = 0; f < frames; ++f) {
        float sum = 0;
        for (std::size_t i = 0; i < lines; ++i) sum += damped[i][f];
        spread[f] = sum * (2.0F / lines);
    }
    for (std::size_t i = 0; i < lines; ++i) {
        float* __restrict ring = &m_lines[i].ring[m_lines[i].at];
        const float* __restrict in = i % 2 == 0 ? inLeft : inRight;
        for (std::size_t f = 0; f < frames; ++f) ring[f] = in[f] + damped[i][f] - spread[f];
    }
    const auto& d = damped;
    for (std::size_t f = 0; f < frames; ++f) {
        outLeft[f] += level * (d[0][f] - d[2][f] + d[4][f] - d[6][f] + 0.4F * (d[1][f] - d[5][f]));
        outRight[f] += level * (d[1][f] - d[3][f] + d[5][f] - d[7][f] + 0.4F * (d[2][f] - d[6][f]));
    }
}

} // namespace cobbleway
