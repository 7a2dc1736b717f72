#include "sound/mixdesk.h"

#include "sound/loudest.h"

#include <algorithm>
#include <cmath>

namespace cobbleway {

namespace {

constexpr std::size_t pieceSamples = std::size_t{2} * maxFrames; ///< interleaved

/// So much of something.
struct Term {
    const float* samples = nullptr;
    float gain = 0;
};

} // namespace

/// One mix: its samples of the present piece, interleaved.
struct MixDesk::Output {
    std::array<float, pieceSamples> samples{};
    std::vector<float> gains;      ///< of each part, when rooms are shared; the master's in them
    std::vector<Term> terms;       ///< what it is the sum of
    std::vector<std::size_t> wets; ///< parts whose room it takes whole
    float master = 1;
};

/// One part with its room, as all mixes take it; interleaved.
struct MixDesk::PartRoom {
    explicit PartRoom(int rate) : room(rate) {}
    Room room;
    float send = 0;
    bool sendFirst = false, used = false;
    int tail = 0; ///< frames for which the room still rings
    int tailLength = 0;
    bool sounds = false;                       ///< in the present piece
    std::array<float, pieceSamples> samples{}; ///< the part, and its room unless `sendFirst`
    std::array<float, pieceSamples> wet{};     ///< its room, when `sendFirst`
};

namespace {

/// Of each part in a mix: none of those that never sound.
std::vector<MixLevel> levelsOf(const Song& song, const Plan& sounding) {
    Plan plan(sounding.mixed, sounding.rate);
    for (std::size_t slot = 0; slot < plan.parts.size(); ++slot) {
        plan.parts[slot].id = sounding.parts[slot].id;
        MixCell& mix = plan.parts[slot].mix;
        mix.gain = mix.send = 0; // where there is no such part
    }
    applyMix(plan, song);
    std::vector<MixLevel> levels;
    for (std::size_t slot = 0; slot < plan.parts.size(); ++slot) {
        const bool sounds = sounding.parts[slot].share != noShare;
        levels.push_back(sounds ? plan.parts[slot].mix.level() : MixLevel{0, 0, false});
    }
    return levels;
}

} // namespace

MixDesk::~MixDesk() = default;

MixDesk::MixDesk(const Plan& plan, const std::vector<MixOrder>& orders)
    : m_orders(orders), m_skip(plan.latency) {
    std::vector<std::vector<MixLevel>> levels;
    for (const MixOrder& order : orders) {
        levels.push_back(levelsOf(order.levels, plan));
        m_outputs.push_back(std::make_unique<Output>());
        m_outputs.back()->master = static_cast<float>(std::pow(10.0, order.levels.masterDb / 20));
    }
    std::size_t used = 0;
    for (std::size_t slot = 0; slot < plan.mixed; ++slot) {
        auto part = std::make_unique<PartRoom>(plan.rate);
        for (const auto& mix : levels) {
            if (mix[slot].gain <= 0) continue;
            part->used = true;
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
                m_outputs[i]->gains.push_back(level.gain * m_outputs[i]->master);
        findTerms();
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
            const bool same = level.send == part.send && level.sendFirst == part.sendFirst;
            if (level.gain > 0 && !same) return false;
        }
    }
    return true;
}

/// Of each mix: how much of the sum of all parts it has, and which parts it has more or less of.
void MixDesk::findTerms() {
    m_base.assign(pieceSamples, 0);
    m_baseGains.assign(m_parts.size(), 0);
    for (const auto& output : m_outputs)
        for (std::size_t slot = 0; slot < m_parts.size(); ++slot)
            m_baseGains[slot] = std::max(m_baseGains[slot], output->gains[slot]);
    for (const auto& output : m_outputs) {
        const auto shareOf = [&](std::size_t slot) { return output->gains[slot] / m_baseGains[slot]; };
        const auto differ = [&](float share) {
            std::vector<std::size_t> slots;
            for (std::size_t slot = 0; slot < m_parts.size(); ++slot)
                if (m_baseGains[slot] > 0 && std::abs(shareOf(slot) - share) > 1e-6F) slots.push_back(slot);
            return slots;
        };
        float best = 0; // of those shares that some part has: the one that leaves the fewest others
        std::size_t fewest = differ(0).size();
        for (std::size_t slot = 0; slot < m_parts.size(); ++slot) {
            if (m_baseGains[slot] <= 0) continue;
            const std::size_t others = differ(shareOf(slot)).size() + 1;
            if (others >= fewest) continue;
            fewest = others;
            best = shareOf(slot);
        }
        if (best > 0) output->terms.push_back({m_base.data(), best});
        for (const std::size_t slot : differ(best))
            output->terms.push_back(
                {m_parts[slot]->samples.data(), output->gains[slot] - best * m_baseGains[slot]});
        for (std::size_t slot = 0; slot < m_parts.size(); ++slot)
            if (m_parts[slot]->sendFirst && output->gains[slot] > 0) output->wets.push_back(slot);
    }
}

float MixDesk::process(std::span<const StereoBlock> blocks, int frames, bool findPeak) {
    float peak = 0;
    for (int at = 0; at < frames; at += maxFrames) {
        const int count = std::min(maxFrames, frames - at);
        if (m_shares)
            mixShared(blocks, at, count);
        else
            mixSeparately(blocks, at, count);
        const float blockPeak = deliver(count, findPeak);
        if (blockPeak < 0) return blockPeak;
        peak = std::max(peak, blockPeak);
    }
    return peak;
}

void MixDesk::mixSeparately(std::span<const StereoBlock> blocks, int at, int frames) {
    std::vector<StereoBlock> piece;
    for (const StereoBlock& block : blocks) piece.push_back({block.left + at, block.right + at});
    std::array<float, maxFrames> left, right;
    for (std::size_t i = 0; i < m_mixers.size(); ++i) {
        std::fill_n(left.data(), frames, 0.0F);
        std::fill_n(right.data(), frames, 0.0F);
        m_mixers[i]->mix(piece, frames, left.data(), right.data());
        auto& samples = m_outputs[i]->samples;
        for (std::size_t f = 0; f < static_cast<std::size_t>(frames); ++f) {
            samples[2 * f] = left[f];
            samples[2 * f + 1] = right[f];
        }
    }
}

namespace {

void add(const float* __restrict in, float gain, std::size_t count, float* __restrict out) {
    for (std::size_t i = 0; i < count; ++i) out[i] += in[i] * gain;
}

void set(const float* __restrict in, float gain, std::size_t count, float* __restrict out) {
    for (std::size_t i = 0; i < count; ++i) out[i] = in[i] * gain;
}

/// Two terms at once: most mixes have no more.
void setTwo(const Term& a, const Term& b, std::size_t count, float* __restrict out) {
    const float* __restrict first = a.samples, * __restrict second = b.samples;
    for (std::size_t i = 0; i < count; ++i) out[i] = first[i] * a.gain + second[i] * b.gain;
}

} // namespace

/// Brings a part's piece, with its room, into its samples.
void MixDesk::takePart(PartRoom& part, const StereoBlock& block, int at, int frames) {
    std::array<float, maxFrames> wetLeft, wetRight;
    const float *left = block.left + at, *right = block.right + at;
    std::fill_n(wetLeft.data(), frames, 0.0F);
    std::fill_n(wetRight.data(), frames, 0.0F);
    if (part.tail > 0) {
        part.tail -= frames;
        part.room.process(left, right, wetLeft.data(), wetRight.data(), frames);
    }
    const float here = part.sendFirst ? 0 : part.send;
    for (std::size_t f = 0; f < static_cast<std::size_t>(frames); ++f) {
        part.samples[2 * f] = left[f] + wetLeft[f] * here;
        part.samples[2 * f + 1] = right[f] + wetRight[f] * here;
    }
    if (!part.sendFirst) return;
    for (std::size_t f = 0; f < static_cast<std::size_t>(frames); ++f) {
        part.wet[2 * f] = wetLeft[f];
        part.wet[2 * f + 1] = wetRight[f];
    }
}

void MixDesk::mixShared(std::span<const StereoBlock> blocks, int at, int frames) {
    for (std::size_t slot = 0; slot < m_parts.size(); ++slot) {
        PartRoom& part = *m_parts[slot];
        if (!part.used) continue;
        const bool silent = isSilent(blocks[slot], at, frames);
        if (!silent && part.send > 0) part.tail = part.tailLength;
        const bool sounded = part.sounds;
        part.sounds = !silent || part.tail > 0;
        if (part.sounds)
            takePart(part, blocks[slot], at, frames);
        else if (sounded) {
            part.samples.fill(0);
            part.wet.fill(0);
        }
    }
    sumShared(frames);
}

void MixDesk::sumShared(int frames) {
    const auto count = static_cast<std::size_t>(frames) * 2;
    std::fill_n(m_base.data(), count, 0.0F);
    for (std::size_t slot = 0; slot < m_parts.size(); ++slot)
        if (m_parts[slot]->sounds)
            add(m_parts[slot]->samples.data(), m_baseGains[slot], count, m_base.data());
    for (const auto& output : m_outputs) {
        const auto& terms = output->terms;
        float* out = output->samples.data();
        if (terms.empty())
            std::fill_n(out, count, 0.0F);
        else if (terms.size() == 1)
            set(terms[0].samples, terms[0].gain, count, out);
        else
            setTwo(terms[0], terms[1], count, out);
        for (std::size_t i = 2; i < terms.size(); ++i) add(terms[i].samples, terms[i].gain, count, out);
        for (const std::size_t slot : output->wets)
            add(m_parts[slot]->wet.data(), m_parts[slot]->send * output->master, count, out);
    }
}

float MixDesk::deliver(int frames, bool findPeak) {
    const int skipped = std::min(m_skip, frames);
    m_skip -= skipped;
    float peak = 0;
    for (std::size_t i = 0; i < m_outputs.size(); ++i) {
        const std::span<const float> samples(m_outputs[i]->samples.data(),
                                             static_cast<std::size_t>(frames) * 2);
        if (findPeak) peak = std::max(peak, loudestOf(samples));
        if (!m_orders[i].take(samples.subspan(static_cast<std::size_t>(skipped) * 2))) return -1;
    }
    return peak;
}

} // namespace cobbleway
