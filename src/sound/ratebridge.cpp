#include "sound/ratebridge.h"

#include <algorithm>
#include <samplerate.h>

namespace cobbleway {

RateBridge::RateBridge(AudioCallback callback, int rate)
    : m_callback(std::move(callback)), m_ratio(static_cast<double>(rate) / liveRate) {
    int error = 0;
    m_state = src_callback_new(&RateBridge::give, SRC_SINC_FASTEST, 2, &error, this);
}

RateBridge::~RateBridge() {
    if (m_state) src_delete(m_state);
}

long RateBridge::give(void* bridge, float** block) {
    auto& self = *static_cast<RateBridge*>(bridge);
    self.m_callback(self.m_block.data(), liveFrames);
    *block = self.m_block.data();
    return liveFrames;
}

void RateBridge::fill(float* interleaved, int frames) {
    const long given = m_state ? src_callback_read(m_state, m_ratio, frames, interleaved) : 0;
    std::fill(interleaved + 2 * std::max(0L, given), interleaved + std::ptrdiff_t{2} * frames, 0.0F);
}

} // namespace cobbleway
