#include "sound/limiter.h"

#include <algorithm>
#include <cmath>

namespace cobbleway {

Limiter::Limiter(int rate) {
    constexpr double seconds = 0.4; // to 1/e; quicker ones are heard as pumping. Common practice, no source
    m_back = static_cast<float>(1 - std::exp(-step / (seconds * rate)));
}

/// The gain where two stretches meet is at most what either allows, so a straight way between such places
/// keeps within each.
void Limiter::turn() {
    Stretch& came = m_stretches[(m_heard + 2) % 3];
    came.allows = m_loudest > ceiling ? ceiling / m_loudest : 1;
    m_loudest = 0;
    m_at = 0;
    m_heard = (m_heard + 1) % 3;
    const float most = std::min(m_stretches[m_heard].allows, m_stretches[(m_heard + 1) % 3].allows);
    m_from = m_to;
    m_to = std::min(most, m_to + (1 - m_to) * m_back);
}

void Limiter::process(float* left, float* right, int frames) {
    for (int f = 0; f < frames; ++f) {
        const auto at = static_cast<std::size_t>(m_at);
        Stretch& comes = m_stretches[(m_heard + 2) % 3];
        const Stretch& heard = m_stretches[m_heard];
        comes.left[at] = left[f];
        comes.right[at] = right[f];
        m_loudest = std::max({m_loudest, std::abs(left[f]), std::abs(right[f])});
        const float gain = m_from + (m_to - m_from) * static_cast<float>(m_at + 1) / step;
        left[f] = heard.left[at] * gain;
        right[f] = heard.right[at] * gain;
        if (++m_at == step) turn();
    }
}

} // namespace cobbleway
