#include "sound/render.h"

#include "song/levels.h"
#include "sound/engine.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace cobbleway {
namespace {

constexpr float silence = 1e-4F; // −80 dBFS
constexpr double silentSeconds = 0.3, longestTailSeconds = 12;

void setLevels(Mixer& mixer, const Song& song, std::size_t slots, int rate) {
    Plan levels(slots, rate);
    applyMix(levels, song);
    for (std::size_t slot = 0; slot < slots; ++slot) {
        const MixCell& cell = levels.parts[slot].mix;
        mixer.setLevel(slot, cell.left, cell.right, cell.send, true);
    }
}

/// Mixes one order's share of a block and hands it on; gives its peak, or a negative number to stop.
float deliver(Mixer& mixer, const MixOrder& order, const Plan& plan, int frames) {
    // Only as much as is used is cleared: calls are many and mostly short.
    std::array<float, maxFrames> left, right;
    std::array<float, std::size_t{2} * maxFrames> interleaved;
    std::fill_n(left.data(), frames, 0.0F);
    std::fill_n(right.data(), frames, 0.0F);
    mixer.mix(plan.blocks, frames, left.data(), right.data());
    float peak = 0;
    for (std::size_t f = 0; f < static_cast<std::size_t>(frames); ++f) {
        interleaved[2 * f] = left[f];
        interleaved[2 * f + 1] = right[f];
        peak = std::max({peak, std::abs(left[f]), std::abs(right[f])});
    }
    return order.take({interleaved.data(), static_cast<std::size_t>(frames) * 2}) ? peak : -1;
}

} // namespace

RenderEnd renderMixes(Plan& plan, const std::vector<MixOrder>& orders, const RenderOptions& options) {
    Lanes lanes;
    lanes.swap(&plan);
    lanes.seek(0);
    std::vector<Mixer> mixers;
    for (const MixOrder& order : orders) {
        mixers.emplace_back(plan.parts.size(), plan.rate);
        setLevels(mixers.back(), order.levels, plan.parts.size(), plan.rate);
    }
    const double pace = std::clamp(options.pace, 25.0, 200.0) / 100;
    const auto end = static_cast<double>(plan.endFrame);
    double silent = 0, tail = 0;
    int sinceProgress = 0;
    bool released = false;
    RenderEnd result = RenderEnd::Done;
    while (lanes.frame() < end ||
           (silent < silentSeconds * plan.rate && tail < longestTailSeconds * plan.rate)) {
        const bool inTail = lanes.frame() >= end;
        if (inTail && !released) lanes.setSounding(false);
        released = inTail;
        const int frames = lanes.render(maxFrames, inTail ? 0 : pace, end);
        float peak = 0;
        bool stopped = options.stop.stop_requested();
        for (std::size_t i = 0; i < orders.size() && !stopped; ++i) {
            const float one = deliver(mixers[i], orders[i], plan, frames);
            stopped = one < 0;
            peak = std::max(peak, one);
        }
        if (stopped) {
            result = RenderEnd::Stopped;
            break;
        }
        silent = inTail && peak < silence ? silent + frames : 0;
        tail += inTail ? frames : 0;
        if (options.progress && (sinceProgress += frames) >= plan.rate) {
            sinceProgress = 0;
            options.progress(end > 0 ? std::min(1.0, lanes.frame() / end) : 1);
        }
    }
    lanes.swap(nullptr);
    return result;
}

std::vector<float> renderToMemory(const Song& song, const Catalogue& catalogue, int rate,
                                  const RenderOptions& options) {
    InstrumentBank bank(rate);
    const auto plan = makePlan(song, catalogue, matchSong(song, catalogue), bank);
    std::vector<float> samples;
    const MixOrder order{song, [&](std::span<const float> block) {
                             samples.insert(samples.end(), block.begin(), block.end());
                             return true;
                         }};
    renderMixes(*plan, {order}, options);
    return samples;
}

} // namespace cobbleway
