#include "files/loudness.h"

#include "files/shipped.h"
#include "song/model/levels.h"
#include "song/shape/edits.h"
#include "sound/render.h"

#include <algorithm>
#include <cmath>
#include <ebur128.h>

namespace cobbleway {

struct LoudnessMeter::State {
    ebur128_state* meter = nullptr;
    int rate = 0;
    std::int64_t frames = 0;
    float peak = 0;
    bool truePeak = false;
};

LoudnessMeter::LoudnessMeter(int rate, bool truePeak) : m_state(std::make_unique<State>()) {
    const int mode = EBUR128_MODE_I | EBUR128_MODE_HISTOGRAM | (truePeak ? EBUR128_MODE_TRUE_PEAK : 0);
    m_state->meter = ebur128_init(2, static_cast<unsigned long>(rate), mode);
    m_state->rate = rate;
    m_state->truePeak = truePeak;
}

LoudnessMeter::~LoudnessMeter() {
    if (m_state->meter) ebur128_destroy(&m_state->meter);
}

void LoudnessMeter::take(std::span<const float> samples) {
    for (const float sample : samples) m_state->peak = std::max(m_state->peak, std::abs(sample));
    m_state->frames += static_cast<std::int64_t>(samples.size() / 2);
    if (m_state->meter) ebur128_add_frames_float(m_state->meter, samples.data(), samples.size() / 2);
}

Measured LoudnessMeter::measured() const {
    const State& s = *m_state;
    double peak = static_cast<double>(s.peak), lufs = 0;
    for (unsigned side = 0; s.truePeak && s.meter && side < 2; ++side)
        if (double sidePeak = 0; ebur128_true_peak(s.meter, side, &sidePeak) == EBUR128_SUCCESS)
            peak = std::max(peak, sidePeak);
    Measured measured{static_cast<double>(s.frames) / s.rate, peak <= 1e-6 ? -120 : 20 * std::log10(peak),
                      -120};
    if (s.meter && ebur128_loudness_global(s.meter, &lufs) == EBUR128_SUCCESS && std::isfinite(lufs))
        measured.lufs = lufs;
    return measured;
}

double gainToLevel(const Measured& measured) {
    if (measured.lufs <= -120) return 0;
    return std::clamp(std::min(aimedLufs - measured.lufs, highestPeakDb - measured.peakDb), lowestMasterDb,
                      highestMasterDb);
}

Measured measureSong(const Song& song, const Catalogue& catalogue, std::stop_token stop,
                     std::function<void(double)> progress) {
    constexpr int rate = 48000;
    const Song plain = edits::setMasterLevel(song, 0);
    InstrumentBank bank(rate, {.pluginBundle = shippedPlugins()});
    const auto plan = makePlan(plain, catalogue, matchSong(plain, catalogue), bank);
    LoudnessMeter meter(rate, true);
    const MixOrder order{plain, [&](std::span<const float> samples) {
                             meter.take(samples);
                             return true;
                         }};
    renderMixes(*plan, {order}, {100, std::move(stop), std::move(progress)});
    return meter.measured();
}

} // namespace cobbleway
