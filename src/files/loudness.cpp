#include "files/loudness.h"

#include "files/pluginhost.h"
#include "files/samplecache.h"
#include "files/shipped.h"
#include "song/model/levels.h"
#include "song/shape/edits.h"
#include "sound/loudest.h"
#include "sound/render.h"

#include <algorithm>
#include <cmath>
#include <ebur128.h>
#include <optional>

namespace cobbleway {

namespace {

// ITU-R BS.1770-4, annex 2, table of the interpolating filter; the other two phases are these backwards.
constexpr float firstPhase[] = {0.0017089843750F,  0.0109863281250F,  -0.0196533203125F, 0.0332031250000F,
                                -0.0594482421875F, 0.1373291015625F,  0.9721679687500F,  -0.1022949218750F,
                                0.0476074218750F,  -0.0266113281250F, 0.0148925781250F,  -0.0083007812500F};
constexpr float secondPhase[] = {-0.0291748046875F, 0.0292968750000F,  -0.0517578125000F, 0.0891113281250F,
                                 -0.1665039062500F, 0.4650878906250F,  0.7797851562500F,  -0.2003173828125F,
                                 0.1015625000000F,  -0.0582275390625F, 0.0330810546875F,  -0.0189208984375F};
constexpr float mostBetween = 2.1F; ///< by how much a peak can be above the samples around it, at most

} // namespace

void TruePeakMeter::take(std::span<const float> samples) {
    for (std::size_t side = 0; side < 2; ++side) takeSide(samples, side);
}

void TruePeakMeter::takeSide(std::span<const float> samples, std::size_t side) {
    constexpr std::size_t piece = 256;
    auto& before = m_before[side];
    const std::size_t frames = samples.size() / 2;
    m_row.resize(before.size() + frames);
    std::copy(before.begin(), before.end(), m_row.begin());
    float* own = m_row.data() + before.size();
    for (std::size_t i = 0; i < frames; ++i) own[i] = samples[2 * i + side];
    for (std::size_t at = 0; at < frames; at += piece) {
        const std::size_t count = std::min(piece, frames - at);
        const float* row = &m_row[at];
        const float loudest = loudestOf({row, count + taps - 1});
        m_peak = std::max(m_peak, loudest);
        if (loudest * mostBetween <= m_peak) continue; // nothing between these can be higher
        std::array<float, piece> a{}, b{}, c{}, d{};
        for (std::size_t tap = 0; tap < taps; ++tap) {
            const float* from = row + (taps - 1 - tap);
            const float x = firstPhase[tap], y = secondPhase[tap], z = secondPhase[taps - 1 - tap],
                        w = firstPhase[taps - 1 - tap];
            for (std::size_t i = 0; i < count; ++i) {
                a[i] += from[i] * x;
                b[i] += from[i] * y;
                c[i] += from[i] * z;
                d[i] += from[i] * w;
            }
        }
        for (const auto& phase : {std::span(a), std::span(b), std::span(c), std::span(d)})
            m_peak = std::max(m_peak, loudestOf(phase.first(count)));
    }
    std::copy(m_row.end() - static_cast<std::ptrdiff_t>(before.size()), m_row.end(), before.begin());
}

struct LoudnessMeter::State {
    ebur128_state* meter = nullptr;
    int rate = 0;
    std::int64_t frames = 0;
    float peak = 0;
    std::optional<TruePeakMeter> truePeak;
};

LoudnessMeter::LoudnessMeter(int rate, bool truePeak) : m_state(std::make_unique<State>()) {
    m_state->meter =
        ebur128_init(2, static_cast<unsigned long>(rate), EBUR128_MODE_I | EBUR128_MODE_HISTOGRAM);
    if (truePeak) m_state->truePeak.emplace();
    m_state->rate = rate;
}

LoudnessMeter::~LoudnessMeter() {
    if (m_state->meter) ebur128_destroy(&m_state->meter);
}

void LoudnessMeter::take(std::span<const float> samples) {
    if (m_state->truePeak)
        m_state->truePeak->take(samples);
    else
        m_state->peak = std::max(m_state->peak, loudestOf(samples));
    m_state->frames += static_cast<std::int64_t>(samples.size() / 2);
    if (m_state->meter) ebur128_add_frames_float(m_state->meter, samples.data(), samples.size() / 2);
}

Measured LoudnessMeter::measured() const {
    const State& s = *m_state;
    const auto peak = static_cast<double>(s.truePeak ? s.truePeak->peak() : s.peak);
    double lufs = 0;
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
    InstrumentBank bank(
        rate, {.pluginBundle = shippedPlugins(), .samples = sampleCache(), .makePlugins = pluginProcesses()});
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
