#include "sound/mixdesk.h"

#include <algorithm>
#include <cmath>

namespace cobbleway {

/// One mix: its samples of the present piece.
struct MixDesk::Output {
    std::array<float, maxFrames> left{}, right{};
    std::array<float, std::size_t{2} * maxFrames> interleaved{};
    std::vector<float> gains; ///< of each part, when rooms are shared
    float master = 1;
};

/// One part with its room, as all mixes take it.
struct MixDesk::PartRoom {
    explicit PartRoom(int rate) : room(rate) {}
    Room room;
    float panLeft = 1, panRight = 1, send = 0;
    bool sendFirst = false, used = false;
    int tail = 0; ///< frames for which the room still rings
    int tailLength = 0;
    bool sounds = false;                          ///< in the present piece
    std::array<float, maxFrames> left{}, right{}; ///< the part, and its room unless `sendFirst`
    std::array<float, maxFrames> wetLeft{}, wetRight{};
};

namespace {

std::vector<MixLevel> levelsOf(const Song& song, std::size_t slots, int rate) {
    Plan plan(slots, rate);
    for (PlanPart& part : plan.parts) part.mix.left = part.mix.right = part.mix.send = 0; // no such part
    applyMix(plan, song);
    std::vector<MixLevel> levels;
    for (const PlanPart& part : plan.parts) levels.push_back(part.mix.level());
    return levels;
}

bool isZero(const StereoBlock& block, int at, int frames) {
    const auto zero = [&](const float* samples) {
        return std::all_of(samples + at, samples + at + frames, [](float s) { return s == 0; });
    };
    return zero(block.left) && zero(block.right);
}

} // namespace

MixDesk::~MixDesk() = default;

MixDesk::MixDesk(const Plan& plan, const std::vector<MixOrder>& orders)
    : m_orders(orders), m_skip(plan.latency) {
    std::vector<std::vector<MixLevel>> levels;
    for (const MixOrder& order : orders) {
        levels.push_back(levelsOf(order.levels, plan.mixed, plan.rate));
        m_outputs.push_back(std::make_unique<Output>());
        m_outputs.back()->master = static_cast<float>(std::pow(10.0, order.levels.masterDb / 20));
    }
    std::size_t used = 0;
    for (std::size_t slot = 0; slot < plan.mixed; ++slot) {
        auto part = std::make_unique<PartRoom>(plan.rate);
        for (const auto& mix : levels) {
            const float most = std::max(mix[slot].left, mix[slot].right);
            if (most <= 0) continue;
            part->used = true;
            part->panLeft = mix[slot].left / most;
            part->panRight = mix[slot].right / most;
            part->send = mix[slot].send;
            part->sendFirst = mix[slot].sendFirst;
        }
        used += part->used;
        m_parts.push_back(std::move(part));
    }
    m_shares = !plan.effects && orders.size() > used && canShare(levels);
    if (m_shares) {
        for (std::size_t i = 0; i < orders.size(); ++i)
            for (const MixLevel& level : levels[i])
                m_outputs[i]->gains.push_back(std::max(level.left, level.right));
        for (const auto& part : m_parts) {
            part->room.setSeconds(static_cast<float>(orders.front().levels.roomSeconds));
            part->tailLength = static_cast<int>(part->room.tailSeconds() * static_cast<float>(plan.rate));
        }
        return;
    }
    m_parts.clear();
    for (std::size_t i = 0; i < orders.size(); ++i) {
        m_mixers.push_back(std::make_unique<Mixer>(plan.mixed, plan.rate));
        for (std::size_t slot = 0; slot < plan.mixed; ++slot)
            m_mixers.back()->setLevel(slot, levels[i][slot], true);
        m_mixers.back()->setMaster(m_outputs[i]->master, true);
        m_mixers.back()->setRoom(static_cast<float>(orders[i].levels.roomSeconds));
        if (plan.effectsForMix) m_effects.push_back(plan.effectsForMix(i + 1));
        if (!m_effects.empty()) m_mixers.back()->setEffects(m_effects.back().get());
    }
}

bool MixDesk::canShare(const std::vector<std::vector<MixLevel>>& levels) const {
    const double seconds = m_orders.front().levels.roomSeconds;
    for (std::size_t i = 0; i < levels.size(); ++i) {
        if (m_orders[i].levels.roomSeconds != seconds) return false;
        for (std::size_t slot = 0; slot < levels[i].size(); ++slot) {
            const MixLevel& level = levels[i][slot];
            const PartRoom& part = *m_parts[slot];
            const float most = std::max(level.left, level.right);
            if (most <= 0) continue;
            const bool same = std::abs(level.left / most - part.panLeft) < 1e-6F &&
                              std::abs(level.right / most - part.panRight) < 1e-6F &&
                              level.send == part.send && level.sendFirst == part.sendFirst;
            if (!same) return false;
        }
    }
    return true;
}

float MixDesk::process(std::span<const StereoBlock> blocks, int frames) {
    float peak = 0;
    for (int at = 0; at < frames; at += maxFrames) {
        const int count = std::min(maxFrames, frames - at);
        for (const auto& output : m_outputs) {
            std::fill_n(output->left.data(), count, 0.0F);
            std::fill_n(output->right.data(), count, 0.0F);
        }
        if (m_shares)
            mixShared(blocks, at, count);
        else
            mixSeparately(blocks, at, count);
        const float one = deliver(count);
        if (one < 0) return one;
        peak = std::max(peak, one);
    }
    return peak;
}

void MixDesk::mixSeparately(std::span<const StereoBlock> blocks, int at, int frames) {
    std::vector<StereoBlock> piece;
    for (const StereoBlock& block : blocks) piece.push_back({block.left + at, block.right + at});
    for (std::size_t i = 0; i < m_mixers.size(); ++i)
        m_mixers[i]->mix(piece, frames, m_outputs[i]->left.data(), m_outputs[i]->right.data());
}

namespace {

void add(const float* __restrict in, float gain, int frames, float* __restrict out) {
    for (int f = 0; f < frames; ++f) out[f] += in[f] * gain;
}

} // namespace

void MixDesk::mixShared(std::span<const StereoBlock> blocks, int at, int frames) {
    for (std::size_t slot = 0; slot < m_parts.size(); ++slot) {
        PartRoom& part = *m_parts[slot];
        if (!part.used) continue;
        const bool silent = isZero(blocks[slot], at, frames);
        if (!silent && part.send > 0) part.tail = part.tailLength;
        part.sounds = !silent || part.tail > 0;
        if (!part.sounds) continue;
        for (int f = 0; f < frames; ++f) {
            const auto i = static_cast<std::size_t>(f);
            part.left[i] = blocks[slot].left[at + f] * part.panLeft;
            part.right[i] = blocks[slot].right[at + f] * part.panRight;
        }
        std::fill_n(part.wetLeft.data(), frames, 0.0F);
        std::fill_n(part.wetRight.data(), frames, 0.0F);
        if (part.tail <= 0) continue;
        part.tail -= frames;
        const float* inLeft = part.sendFirst ? blocks[slot].left + at : part.left.data();
        const float* inRight = part.sendFirst ? blocks[slot].right + at : part.right.data();
        part.room.process(inLeft, inRight, part.wetLeft.data(), part.wetRight.data(), frames);
        if (part.sendFirst) continue;
        add(part.wetLeft.data(), part.send, frames, part.left.data());
        add(part.wetRight.data(), part.send, frames, part.right.data());
    }
    for (const auto& output : m_outputs)
        for (std::size_t slot = 0; slot < m_parts.size(); ++slot) {
            const PartRoom& part = *m_parts[slot];
            const float gain = output->gains[slot] * output->master;
            if (!part.used || !part.sounds || gain == 0) continue;
            add(part.left.data(), gain, frames, output->left.data());
            add(part.right.data(), gain, frames, output->right.data());
            if (!part.sendFirst) continue;
            add(part.wetLeft.data(), part.send * output->master, frames, output->left.data());
            add(part.wetRight.data(), part.send * output->master, frames, output->right.data());
        }
}

float MixDesk::deliver(int frames) {
    const int skipped = std::min(m_skip, frames);
    m_skip -= skipped;
    float peak = 0;
    for (std::size_t i = 0; i < m_outputs.size(); ++i) {
        Output& output = *m_outputs[i];
        for (std::size_t f = 0; f < static_cast<std::size_t>(frames); ++f) {
            output.interleaved[2 * f] = output.left[f];
            output.interleaved[2 * f + 1] = output.right[f];
            peak = std::max({peak, std::abs(output.left[f]), std::abs(output.right[f])});
        }
        const std::span<const float> samples(output.interleaved.data(), static_cast<std::size_t>(frames) * 2);
        if (!m_orders[i].take(samples.subspan(static_cast<std::size_t>(skipped) * 2))) return -1;
    }
    return peak;
}

} // namespace cobbleway
