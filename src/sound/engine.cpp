#include "sound/engine.h"

#include "midi/percussion.h"
#include "sound/loudest.h"
#include "sound/wide.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace cobbleway {

Lanes::Lanes(std::optional<int> share) : m_share(share) {
    m_mine.reserve(maxSlots);
    m_lanes.resize(maxSlots);
}

void Lanes::findMine() {
    m_mine.clear();
    for (std::size_t slot = 0; m_plan && slot < m_plan->parts.size(); ++slot)
        if (!m_share || m_plan->parts[slot].share == *m_share) m_mine.push_back(slot);
}

void Lanes::send(std::size_t slot, const TimedEvent& event) {
    PlanPart& part = m_plan->parts[slot];
    const int number = static_cast<int>(slot), kind = event.status & 0xF0;
    const bool ofKey = kind == 0x80 || kind == 0x90 || kind == 0xA0;
    if (ofKey && !part.keys[event.data1 & 0x7FU]) return;
    LaneState& state = m_lanes[slot].state;
    state.take(event);
    if (kind == 0xC0) {
        if (event.data1 >= part.sounds.size()) return;
        const InstrumentSound& sound = part.sounds[event.data1];
        if (sound.instrument) sound.instrument->choose(number, sound);
        return;
    }
    if (kind == 0x90 && event.data2 > 0) {
        if (state.sound < part.sounds.size() && part.sounds[state.sound].instrument)
            part.sounds[state.sound].instrument->play(number, event.status, event.data1, event.data2);
        return;
    }
    // All else goes to every instrument that the part ever uses: notes begun there must end there.
    const bool isPan = kind == 0xB0 && event.data1 == cc::pan;
    const int value = isPan ? std::clamp(event.data2 + m_lanes[slot].panShift, 0, 127) : event.data2;
    for (Instrument* instrument : part.instruments)
        instrument->play(number, event.status, event.data1, static_cast<std::uint8_t>(value));
}

void Lanes::sendPan(std::size_t slot) {
    const int shift = m_plan->parts[slot].panShift.load(std::memory_order_relaxed);
    Lane& lane = m_lanes[slot];
    if (lane.panShift == shift) return;
    lane.panShift = shift;
    const int now = lane.state.controllers[cc::pan];
    constexpr int middle = 64;
    const LaneState state = lane.state; // of the song's own values
    send(slot, {0, 0xB0, cc::pan, static_cast<std::uint8_t>(now < 0 ? middle : now)});
    lane.state = state;
}

void Lanes::choke(std::size_t slot, int group) {
    LaneState& state = m_lanes[slot].state;
    for (Instrument* instrument : m_plan->parts[slot].instruments)
        for (std::uint8_t key = 0; key < 128; ++key)
            if (exclusiveGroup(Key{key}) == group) {
                instrument->stop(static_cast<int>(slot), key);
                state.velocity[key] = 0;
            }
}

void Lanes::findChoke(std::size_t slot) {
    const auto& chokes = m_plan->parts[slot].chokes;
    const auto at = std::partition_point(chokes.begin(), chokes.end(), [this](const Choke& choke) {
        return static_cast<double>(choke.frame) < m_frame;
    });
    m_lanes[slot].choke = static_cast<std::size_t>(at - chokes.begin());
}

void Lanes::leave(const Plan& plan, std::size_t slot) {
    for (Instrument* instrument : plan.parts[slot].instruments) instrument->reset(static_cast<int>(slot));
    m_lanes[slot] = Lane{};
}

void Lanes::enter(std::size_t slot) {
    Lane& lane = m_lanes[slot];
    lane = Lane{};
    const Schedule& schedule = *m_plan->parts[slot].schedule;
    lane.at = schedule.firstAt(m_frame);
    lane.state = schedule.stateBefore(lane.at);
    findChoke(slot);
    sendPan(slot);
    sendState(slot);
}

void Lanes::sendState(std::size_t slot) {
    const LaneState state = m_lanes[slot].state;
    const auto control = [&](std::uint8_t number, int value) {
        send(slot, {0, 0xB0, number, static_cast<std::uint8_t>(value)});
    };
    send(slot, {0, 0xC0, state.sound, 0});
    for (std::size_t i = 0; i < state.rpnMsb.size(); ++i) {
        if (state.rpnMsb[i] < 0 && state.rpnLsb[i] < 0) continue;
        control(cc::rpnMsb, 0);
        control(cc::rpnLsb, static_cast<int>(i));
        if (state.rpnMsb[i] >= 0) control(cc::dataEntryMsb, state.rpnMsb[i]);
        if (state.rpnLsb[i] >= 0) control(cc::dataEntryLsb, state.rpnLsb[i]);
    }
    const auto again = [&](std::uint8_t number) {
        if (state.controllers[number] >= 0) control(number, state.controllers[number]);
    };
    for (std::uint8_t number = 0; number < cc::allSoundOff; ++number)
        if (number < cc::nrpnLsb || number > cc::rpnMsb) again(number);
    for (const std::uint8_t number : {cc::nrpnLsb, cc::nrpnMsb})
        if (state.nrpn) again(number);
    for (const std::uint8_t number : {cc::rpnLsb, cc::rpnMsb})
        if (!state.nrpn) again(number);
    for (std::uint8_t key = 0; key < state.keyTuning.size(); ++key)
        if (state.keyTuning[key] != 0)
            send(slot, {0, lanemessage::tuneKey, key, static_cast<std::uint8_t>(state.keyTuning[key] + 100)});
    const auto device = [&](std::uint8_t message, int value) {
        send(slot,
             {0, message, static_cast<std::uint8_t>(value >> 8), static_cast<std::uint8_t>(value & 0xFF)});
    };
    if (state.tuning != 0) device(lanemessage::tuneAll, state.tuning + 1000);
    if (state.volume != 0xFFFF) device(lanemessage::volume, state.volume);
    if (state.mono) control(cc::mono, 1);
    if (state.bend != 8192)
        send(slot, {0, 0xE0, static_cast<std::uint8_t>(state.bend & 0x7F),
                    static_cast<std::uint8_t>(state.bend >> 7)});
    if (state.pressure >= 0) send(slot, {0, 0xD0, static_cast<std::uint8_t>(state.pressure), 0});
    if (m_sounding && !m_plan->parts[slot].schedule->drums)
        for (std::size_t key = 0; key < 128; ++key)
            if (state.velocity[key] > 0)
                send(slot, {0, 0x90, static_cast<std::uint8_t>(key), state.velocity[key]});
    m_lanes[slot].state = state;
}

namespace {

/// What a lane holds back, and where its level is, goes over to the same lane of the next plan.
void passOn(PlanPart& from, PlanPart& to) {
    if (from.id != to.id || from.layer != to.layer) return;
    to.layerGainNow = from.layerGainNow;
    if (from.delay.left.size() == to.delay.left.size()) std::swap(from.delay, to.delay);
}

} // namespace

Plan* Lanes::swap(Plan* plan) {
    Plan* old = m_plan;
    const auto oldSlots = old ? old->parts.size() : 0;
    const auto same = [&](std::size_t slot) {
        return plan && slot < oldSlots && slot < plan->parts.size() &&
               old->parts[slot].schedule == plan->parts[slot].schedule &&
               old->parts[slot].keys == plan->parts[slot].keys &&
               old->parts[slot].sounds == plan->parts[slot].sounds;
    };
    for (const std::size_t slot : m_mine) {
        if (!same(slot)) leave(*old, slot);
        if (plan && slot < plan->parts.size()) passOn(old->parts[slot], plan->parts[slot]);
    }
    m_plan = plan;
    findMine();
    for (const std::size_t slot : m_mine) same(slot) ? findChoke(slot) : enter(slot);
    return old;
}

void Lanes::seek(double frame) {
    m_frame = std::max(0.0, frame);
    for (const std::size_t slot : m_mine) {
        leave(*m_plan, slot);
        enter(slot);
    }
}

void Lanes::setSounding(bool sounding) {
    m_sounding = sounding;
    if (sounding) return;
    for (const std::size_t slot : m_mine) {
        for (Instrument* instrument : m_plan->parts[slot].instruments)
            instrument->release(static_cast<int>(slot));
        m_lanes[slot].state.velocity.fill(0);
    }
}

std::int64_t Lanes::nextEvent() const {
    std::int64_t next = std::numeric_limits<std::int64_t>::max();
    for (const std::size_t slot : m_mine) {
        const auto& events = m_plan->parts[slot].schedule->events;
        if (m_lanes[slot].at < events.size())
            next = std::min<std::int64_t>(next, events[m_lanes[slot].at].frame);
        const auto& chokes = m_plan->parts[slot].chokes;
        if (m_lanes[slot].choke < chokes.size()) next = std::min(next, chokes[m_lanes[slot].choke].frame);
    }
    return next;
}

MusicPace Lanes::paceOf(double pace) const { return {m_plan->rate, pace > 0 ? pace : m_lastPace, pace > 0}; }

void Lanes::tellTime(const MusicTime& time, int offset) {
    for (const std::size_t slot : m_mine)
        for (Instrument* instrument : m_plan->parts[slot].instruments)
            instrument->setTime(static_cast<int>(slot), time, offset);
}

int Lanes::step(int frames, double pace, double stopAt, std::span<const StereoBlock> out) {
    int count = std::min(frames, maxFrames);
    if (pace > 0) m_lastPace = pace;
    const double from = m_frame;
    const TempoMap& tempo = *m_plan->song.tempo;
    if (m_plan->hasPlugins) tellTime(musicTimeAt(tempo, from, paceOf(pace)), 0);
    for (const std::size_t slot : m_mine) sendPan(slot);
    if (pace > 0) {
        for (const std::size_t slot : m_mine) {
            const auto& events = m_plan->parts[slot].schedule->events;
            std::size_t& at = m_lanes[slot].at;
            // Sound begins at whole blocks: at the one that is nearest to the event.
            const double until = m_frame + blockFrames / 2 * pace;
            const auto& chokes = m_plan->parts[slot].chokes;
            for (std::size_t& next = m_lanes[slot].choke;
                 next < chokes.size() && static_cast<double>(chokes[next].frame) < until; ++next) {
                for (; at < events.size() && events[at].frame < chokes[next].frame; ++at)
                    send(slot, events[at]);
                choke(slot, chokes[next].group);
            }
            while (at < events.size() && static_cast<double>(events[at].frame) < until)
                send(slot, events[at++]);
        }
        const auto next =
            static_cast<double>(std::min(nextEvent(), std::numeric_limits<std::int64_t>::max() / 2));
        const double until = std::min(next, stopAt);
        const int mostBlocks = count / blockFrames;
        const double blocks = std::floor((until - m_frame) / pace / blockFrames);
        count = blockFrames * static_cast<int>(std::clamp(blocks, 1.0, static_cast<double>(mostBlocks)));
        m_frame = std::min(m_frame + count * pace, std::max(stopAt, m_frame));
        if (m_plan->hasPlugins)
            eachTimeChange(tempo, from, count, paceOf(pace),
                           [&](const MusicTime& time, int offset) { tellTime(time, offset); });
    }
    for (const std::size_t slot : m_mine) {
        std::fill_n(out[slot].left, count, 0.0F);
        std::fill_n(out[slot].right, count, 0.0F);
    }
    for (const auto& instrument : m_plan->instruments)
        if (m_share)
            instrument->renderShare(*m_share, out, count);
        else
            instrument->render(out, count);
    return count;
}

int Lanes::render(int frames, double pace, double stopAt) {
    if (!m_plan) return frames;
    const double from = m_frame;
    const int count = step(frames, pace, stopAt, m_plan->blocks);
    if (m_plan->hasPlugins) {
        const auto tell = [&](const MusicTime& time, int offset) { tellEffects(*m_plan, time, offset); };
        tell(musicTimeAt(*m_plan->song.tempo, from, paceOf(pace)), 0);
        eachTimeChange(*m_plan->song.tempo, from, count, paceOf(pace), tell);
    }
    finishBlocks(*m_plan, m_plan->blocks, count);
    return count;
}

void Lanes::renderOnly(int frames, double pace, double stopAt, std::span<const StereoBlock> out) {
    if (!m_plan) return;
    std::vector<StereoBlock> from(out.begin(), out.end());
    for (int done = 0; done < frames;) {
        const int count = step(frames - done, pace, stopAt, from);
        for (StereoBlock& block : from) block = {block.left + count, block.right + count};
        done += count;
    }
}

namespace {

/// Adds one side of one part at a level that moves by `step` a frame.
COBBLEWAY_WIDE
void addSide(const float* __restrict in, float level, float step, int frames, float* __restrict out) {
    if (step == 0) {
        for (int f = 0; f < frames; ++f) out[f] += in[f] * level;
    } else {
        for (int f = 0; f < frames; ++f) out[f] += in[f] * (level + step * static_cast<float>(f));
    }
}

} // namespace

void finishBlocks(Plan& plan, std::span<const StereoBlock> blocks, int frames) {
    for (std::size_t slot = 0; slot < plan.parts.size(); ++slot)
        plan.parts[slot].delay.run(blocks[slot], frames);
    for (std::size_t slot = plan.mixed; slot < plan.parts.size(); ++slot) {
        PlanPart& layer = plan.parts[slot];
        if (layer.under < 0) continue; // nobody is in this slot
        const StereoBlock &from = blocks[slot], &to = blocks[static_cast<std::size_t>(layer.under)];
        const float goal = layer.layerGain.load(std::memory_order_relaxed);
        if (layer.layerGainNow < 0) layer.layerGainNow = goal;
        const float step = (goal - layer.layerGainNow) / static_cast<float>(frames);
        addSide(from.left, layer.layerGainNow + step, step, frames, to.left);
        addSide(from.right, layer.layerGainNow + step, step, frames, to.right);
        layer.layerGainNow = goal;
    }
    for (std::size_t slot = 0; slot < plan.mixed; ++slot)
        if (const auto& effects = plan.parts[slot].effects)
            effects->run(blocks[slot].left, blocks[slot].right, frames);
}

void Lanes::playAlong(int slot, std::uint8_t status, std::uint8_t data1, std::uint8_t data2) {
    if (!m_plan || slot < 0 || static_cast<std::size_t>(slot) >= m_plan->mixed) return;
    const auto playIn = [&](std::size_t lane) {
        const auto& sounds = m_plan->parts[lane].sounds;
        const std::size_t sound = m_lanes[lane].state.sound;
        if (sound < sounds.size() && sounds[sound].instrument)
            sounds[sound].instrument->play(static_cast<int>(lane), status, data1, data2);
    };
    playIn(static_cast<std::size_t>(slot));
    for (std::size_t lane = m_plan->mixed; lane < m_plan->parts.size(); ++lane)
        if (m_plan->parts[lane].under == slot) playIn(lane);
}

Mixer::Mixer(std::size_t slots, int rate) : m_levels(slots), m_room(rate), m_rate(rate) {}

void Mixer::setLevel(std::size_t slot, const MixLevel& to, bool atOnce) {
    if (slot >= m_levels.size()) return;
    Level& level = m_levels[slot];
    level.goal = to;
    if (!atOnce) return;
    level.gain = to.gain;
}

void Mixer::setMaster(float gain, bool atOnce) {
    m_masterGoal = gain;
    if (atOnce) m_master = gain;
}

void Mixer::mix(std::span<const StereoBlock> blocks, int frames, float* left, float* right) {
    std::fill_n(m_sendLeft.data(), frames, 0.0F);
    std::fill_n(m_sendRight.data(), frames, 0.0F);
    bool sent = false;
    const float step = 1.0F / static_cast<float>(frames);
    for (std::size_t slot = 0; slot < blocks.size() && slot < m_levels.size(); ++slot) {
        Level& level = m_levels[slot];
        const MixLevel& goal = level.goal;
        const bool off = level.gain == 0 && goal.gain == 0;
        if (!off && !isSilent(blocks[slot], 0, frames)) {
            const float rise = (goal.gain - level.gain) * step, send = goal.send;
            addSide(blocks[slot].left, level.gain, rise, frames, left);
            addSide(blocks[slot].right, level.gain, rise, frames, right);
            if (send > 0 && goal.sendFirst) {
                addSide(blocks[slot].left, send, 0, frames, m_sendLeft.data());
                addSide(blocks[slot].right, send, 0, frames, m_sendRight.data());
            } else if (send > 0) {
                addSide(blocks[slot].left, level.gain * send, rise * send, frames, m_sendLeft.data());
                addSide(blocks[slot].right, level.gain * send, rise * send, frames, m_sendRight.data());
            }
            sent = sent || send > 0;
        }
        level.gain = goal.gain;
    }
    if (sent) m_roomTail = static_cast<int>(m_room.tailSeconds() * static_cast<float>(m_rate));
    if (m_roomTail > 0) {
        m_roomTail -= frames;
        m_room.process(m_sendLeft.data(), m_sendRight.data(), left, right, frames);
    }
    finish(frames, left, right);
}

void Mixer::finish(int frames, float* left, float* right) {
    if (m_effects) m_effects->run(left, right, frames);
    if (m_master == 1 && m_masterGoal == 1) return;
    const float step = (m_masterGoal - m_master) / static_cast<float>(frames);
    for (int f = 0; f < frames; ++f) {
        const float gain = m_master + step * static_cast<float>(f + 1);
        left[f] *= gain;
        right[f] *= gain;
    }
    m_master = m_masterGoal;
}

} // namespace cobbleway
