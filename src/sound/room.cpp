#include "sound/room.h"

#include <bit>
#include <cmath>

namespace cobbleway {
namespace {

// Lengths in ms with no common measure, so that echoes never line up; a small hall.
constexpr std::array<double, 8> lengthsMs = {29.7, 33.1, 37.9, 41.3, 43.7, 47.9, 53.3, 59.1};
constexpr float damping = 0.35F; // of high tones, a one-pole low pass
constexpr float level = 0.5F;
constexpr float tiny = 1e-18F; // keeps the filters out of denormal numbers

} // namespace

Room::Room(int rate) : m_rate(rate) {
    for (std::size_t i = 0; i < lines; ++i)
        m_lengths[i] = static_cast<std::size_t>(lengthsMs[i] * rate / 1000);
    m_rows.assign(std::bit_ceil(m_lengths.back() + 1), Row{});
    m_mask = m_rows.size() - 1;
    setSeconds(1.3F);
}

void Room::setSeconds(float seconds) {
    if (seconds == m_seconds) return;
    m_seconds = seconds;
    for (std::size_t i = 0; i < lines; ++i)
        m_gains[i] = static_cast<float>(
            std::pow(10.0, -3.0 * static_cast<double>(m_lengths[i]) / m_rate / static_cast<double>(seconds)));
}

#if defined(__x86_64__) && defined(__GNUC__) && !defined(__clang__) && !defined(COBBLEWAY_SANITIZED)
// The eight lines are one register where the processor has such; the results are the same.
__attribute__((target_clones("avx2", "default")))
#endif
void Room::process(const float* inLeft, const float* inRight, float* outLeft, float* outRight, int frames) {
    // All eight lines at once: the loops over them become a few vector instructions.
    Row damped = m_damped;
    const Row gains = m_gains;
    Row* const rows = m_rows.data();
    const std::size_t mask = m_mask;
    std::size_t at = m_at;
    for (int f = 0; f < frames; ++f) {
        Row taps;
        for (std::size_t i = 0; i < lines; ++i) taps[i] = rows[(at - m_lengths[i]) & mask][i];
        for (std::size_t i = 0; i < lines; ++i)
            damped[i] += (1 - damping) * (taps[i] * gains[i] - damped[i]) + tiny;
        float sum = 0;
        for (std::size_t i = 0; i < lines; ++i) sum += damped[i];
        const float spread = sum * (2.0F / lines); // Householder reflection: loses no energy
        Row& row = rows[at & mask];
        for (std::size_t i = 0; i < lines; i += 2) {
            row[i] = inLeft[f] + damped[i] - spread;
            row[i + 1] = inRight[f] + damped[i + 1] - spread;
        }
        ++at;
        outLeft[f] +=
            level * (damped[0] - damped[2] + damped[4] - damped[6] + 0.4F * (damped[1] - damped[5]));
        outRight[f] +=
            level * (damped[1] - damped[3] + damped[5] - damped[7] + 0.4F * (damped[2] - damped[6]));
    }
    m_damped = damped;
    m_at = at;
}

} // namespace cobbleway
