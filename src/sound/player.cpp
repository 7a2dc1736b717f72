#include "sound/player.h"

#include "sound/denormals.h"
#include "sound/loudest.h"

#include <algorithm>
#include <chrono>
#include <cmath>
#include <limits>
#include <thread>

namespace cobbleway {
namespace {

/// Over so many frames a sound that is replaced fades: 21 ms.
constexpr int fadeFrames = 1024;

bool uses(const Plan& plan, const Instrument* instrument) {
    return std::any_of(plan.instruments.begin(), plan.instruments.end(),
                       [&](const auto& i) { return i.get() == instrument; });
}

} // namespace

Player::Player()
    : m_desk([this](float* out, int frames) { process(out, frames); }),
      m_mixer(std::make_unique<Mixer>(maxSlots, liveRate)) {
    m_lanes.setSounding(false);
    m_liveSlots.fill(-1);
}

Player::~Player() {
    while (!m_desk.close(1)) {} // the audio thread is not in process() after this
    m_lanes.swap(nullptr);
    m_fade = {};
}

Result<Done> Player::open(const std::string& outputId) {
    beginOpening(outputId);
    auto opened = m_desk.waitUntilOpen();
    tellAhead();
    return opened;
}

void Player::beginOpening(const std::string& outputId, bool awaited) {
    m_outputId = outputId;
    m_desk.want(outputId, held(), awaited);
}

HeldBlocks Player::held() const {
    return m_wantedHeld.value_or(m_playingAlong ? HeldBlocks::PlayingAlong : HeldBlocks::Listening);
}

OutputNews Player::tend() {
    passOn();
    const OutputNews news = m_desk.look();
    if (news != OutputNews::None) tellAhead();
    if (AudioOutput* now = output()) now->rest(isResting());
    return news;
}

void Player::use(std::unique_ptr<AudioOutput> output) {
    m_desk.use(std::move(output));
    m_outputId.clear();
    tellAhead();
}

void Player::tellAhead() {
    for (const auto& plan : m_alive)
        for (const auto& instrument : plan->instruments)
            instrument->setAhead(ahead() + static_cast<double>(plan->latency) / plan->rate);
}

void Player::setPlayingAlong(bool playing) {
    const HeldBlocks before = held();
    m_playingAlong = playing;
    expectLive();
    if (held() != before && !m_outputId.empty()) beginOpening(m_outputId, true);
}

void Player::setHeld(std::optional<HeldBlocks> wanted) {
    const HeldBlocks before = held();
    m_wantedHeld = wanted;
    if (held() != before && !m_outputId.empty()) beginOpening(m_outputId, true);
}

void Player::send(const Command& command) {
    m_waiting.push_back(command);
    passOn();
}

/// The queue is full while an output is stopped or far behind: what is left waits for tend(). Where no output
/// empties it, we do.
void Player::passOn() {
    while (!m_waiting.empty()) {
        if (m_commands.push(m_waiting.front())) {
            m_waiting.pop_front();
            continue;
        }
        if (!m_desk.isQuiet()) return;
        while (const auto old = m_commands.pop()) obey(*old);
    }
}

void Player::setPlan(std::shared_ptr<Plan> plan) {
    collect();
    m_alive.push_back(std::move(plan));
    tellAhead();
    expectLive();
    send({.what = What::Plan, .plan = m_alive.back().get()});
}

void Player::setLivePart(PartId part) {
    m_livePart = part;
    expectLive();
}

/// What is played along with may be any note.
void Player::expectLive() {
    if (m_playingAlong)
        for (const PlanPart* lane : lanesOf(m_livePart))
            for (const InstrumentSound& sound : lane->sounds)
                if (sound.instrument) sound.instrument->expectAny(sound);
}

/// A part with its layers in the newest plan.
std::vector<const PlanPart*> Player::lanesOf(PartId part) const {
    std::vector<const PlanPart*> lanes;
    if (!m_alive.empty() && part != 0)
        for (const PlanPart& lane : m_alive.back()->parts)
            if (lane.id == part) lanes.push_back(&lane);
    return lanes;
}

void Player::collect() {
    while (const auto plan = m_returned.pop())
        std::erase_if(m_alive, [&](const std::shared_ptr<Plan>& held) { return held.get() == *plan; });
}

void Player::play() {
    m_playing = true;
    send({.what = What::Play});
}
void Player::play(const CountIn& count) {
    if (count.clicks.empty()) return play();
    Count counted{static_cast<int>(count.clicks.size()), static_cast<int>(count.clicks.size()), 0, 0};
    for (int i = 1; i < counted.clicks && counted.inBar == counted.clicks; ++i)
        if (count.clicks[static_cast<std::size_t>(i)].beat == Beat::Bar) counted.inBar = i;
    counted.apart = (counted.clicks > 1 ? count.clicks[1].seconds : count.seconds) * liveRate;
    counted.frames = count.seconds * liveRate;
    m_playing = true;
    send({.what = What::Play, .count = counted});
}
void Player::setClick(bool on, const ClickShape& shape) {
    send({.what = What::Click, .slot = on, .click = shape});
}
void Player::stop() {
    m_playing = false;
    send({.what = What::Stop});
}
void Player::seek(double seconds) { send({.what = What::Seek, .a = seconds * liveRate}); }
void Player::setLoop(double start, double end) {
    m_rounds = 0;
    send({.what = What::Loop, .a = start * liveRate, .b = end * liveRate});
}
void Player::setPace(double percent) {
    send({.what = What::Pace, .a = std::clamp(percent, 25.0, 200.0) / 100});
}
void Player::audition(PartId part, Key key, Velocity velocity) {
    PlayedNotes note;
    note.add(key.value, velocity.value);
    if (velocity.value > 0)
        for (const PlanPart* lane : lanesOf(part))
            for (const InstrumentSound& sound : lane->sounds)
                if (sound.instrument) sound.instrument->prepare(sound, note);
    send({.what = What::Note, .slot = part, .key = key, .velocity = velocity});
}

double Player::partPeak(PartId part) {
    const int slot = m_alive.empty() ? -1 : m_alive.back()->slotOf(part);
    return slot < 0 ? 0 : m_alive.back()->parts[static_cast<std::size_t>(slot)].mix.peak.exchange(0);
}

void Player::takeLive(std::span<const std::uint8_t> message) {
    if (message.size() < 2 || message[0] < 0x80 || message[0] > 0xEF) return;
    m_liveMessages.push({message[0], static_cast<std::uint8_t>(message[1] & 0x7F),
                         static_cast<std::uint8_t>(message.size() > 2 ? message[2] & 0x7F : 0)});
}

int Player::slotOf(PartId part) const { return m_lanes.plan() ? m_lanes.plan()->slotOf(part) : -1; }

void Player::playLive(const Live& message) {
    const int kind = message.status & 0xF0;
    int slot = slotOf(m_livePart.load(std::memory_order_relaxed));
    const bool choosesSound =
        kind == 0xC0 || (kind == 0xB0 && (message.data1 == cc::bankMsb || message.data1 == cc::bankLsb));
    if (choosesSound) return; // the part's sound stays
    int& held = m_liveSlots[message.data1 & 0x7FU];
    if (kind == 0x90 && message.data2 > 0) {
        held = slot;
    } else if ((kind == 0x80 || kind == 0x90) && held >= 0) {
        slot = std::exchange(held, -1); // ends where it began, though another part may be selected by now
    }
    m_lanes.playAlong(slot, static_cast<std::uint8_t>(kind), message.data1, message.data2);
}

void Player::giveBack(Plan* plan) {
    if (plan) m_returned.push(plan);
}

void Player::takePlan(Plan* plan) {
    for (std::size_t slot = 0; plan && slot < plan->mixed; ++slot) {
        // Parts that begin to exist start at their level; others glide to it.
        const bool fresh = !m_lanes.plan() || slot >= m_lanes.plan()->mixed ||
                           m_lanes.plan()->parts[slot].id != plan->parts[slot].id;
        m_mixer->setLevel(slot, plan->parts[slot].mix.level(), fresh);
    }
    m_mixer->setEffects(plan ? plan->effects.get() : nullptr);
    endFade();
    m_fade = {m_lanes.swap(plan), fadeFrames};
    const bool fades = m_fade.plan && plan &&
                       std::any_of(m_fade.plan->instruments.begin(), m_fade.plan->instruments.end(),
                                   [&](const auto& i) { return !uses(*plan, i.get()); });
    if (!fades) endFade();
}

void Player::endFade() {
    giveBack(m_fade.plan);
    m_fade = {};
}

/// What was released in the plan before rings out in instruments that the present one does not have.
void Player::addFading(int frames) {
    Plan& old = *m_fade.plan;
    const Plan& now = *m_lanes.plan();
    for (const StereoBlock& block : old.blocks) {
        std::fill_n(block.left, frames, 0.0F);
        std::fill_n(block.right, frames, 0.0F);
    }
    for (const auto& instrument : old.instruments)
        if (!uses(now, instrument.get())) instrument->render(old.blocks, frames);
    for (std::size_t slot = 0; slot < old.blocks.size(); ++slot) {
        const int under = old.parts[slot].under;
        const auto to = under >= 0 ? static_cast<std::size_t>(under) : slot;
        if (to >= now.mixed) continue;
        for (int f = 0; f < frames; ++f) {
            const float gain = static_cast<float>(std::max(0, m_fade.left - f)) / fadeFrames;
            now.blocks[to].left[f] += old.blocks[slot].left[f] * gain;
            now.blocks[to].right[f] += old.blocks[slot].right[f] * gain;
        }
    }
    m_fade.left -= frames;
    if (m_fade.left <= 0) endFade();
}

void Player::obey(const Command& command) {
    switch (command.what) {
    case What::Plan: takePlan(command.plan); break;
    case What::Play:
        m_count = command.count;
        m_counted = 0;
        m_running = false;
        m_lanes.setSounding(false);
        if (m_count.clicks == 0) begin();
        break;
    case What::Stop:
        m_running = false;
        m_count = {};
        m_clickVoices.stop();
        m_lanes.setSounding(false);
        break;
    case What::Seek: m_lanes.seek(command.a); break;
    case What::Loop:
        m_loopStart = command.a;
        m_loopEnd = command.b;
        break;
    case What::Pace: m_pace = command.a; break;
    case What::Click:
        m_clicks = command.slot != 0;
        m_clickShape = command.click;
        break;
    case What::Note:
        m_lanes.playAlong(slotOf(command.slot), 0x90, command.key.value, command.velocity.value);
        break;
    }
    m_frame = m_lanes.frame();
}

void Player::begin() {
    m_lanes.setSounding(true);
    const bool atEnd = m_lanes.plan() && m_lanes.frame() >= static_cast<double>(m_lanes.plan()->endFrame);
    m_lanes.seek(atEnd ? 0 : m_lanes.frame());
    m_running = true;
}

/// Begins the counted clicks of the next frames, at most so many; gives how many. The song's first frame is
/// whole blocks away, so the clicks are as much later.
int Player::startCounted(int most) {
    const double whole = countedFrames();
    const int frames = std::min(most, static_cast<int>(whole - m_counted));
    for (int i = 0; i < m_count.clicks; ++i) {
        const double at = whole - m_count.frames + i * m_count.apart - m_counted;
        if (at >= 0 && at < frames)
            m_clickVoices.start(static_cast<int>(at), i % m_count.inBar == 0 ? Beat::Bar : Beat::Inner);
        for (int part = 1; part < m_clickShape.parts; ++part) {
            const double between = at + part * m_count.apart / m_clickShape.parts;
            if (between >= 0 && between < frames && between + m_counted < whole)
                m_clickVoices.start(static_cast<int>(between), Beat::Between);
        }
    }
    return frames;
}

double Player::countedFrames() const { return std::ceil(m_count.frames / blockFrames) * blockFrames; }

/// Begins the clicks of the song's frames that have just been rendered.
void Player::clickBetween(double from, double to) {
    const Plan& plan = *m_lanes.plan();
    const double late = plan.latency * m_pace; // as all that sounds
    const auto& beats = *plan.beats;
    const auto frameOf = [&](double seconds) { return seconds * plan.rate + late; };
    auto beat = std::partition_point(beats.begin(), beats.end(),
                                     [&](const Click& click) { return frameOf(click.seconds) < from; });
    const auto tell = [&](double frame, Beat what) {
        if (frame >= from && frame < to) m_clickVoices.start(static_cast<int>((frame - from) / m_pace), what);
    };
    if (beat != beats.begin()) --beat; // parts of it may be in the stretch
    for (; beat != beats.end() && frameOf(beat->seconds) < to; ++beat) {
        tell(frameOf(beat->seconds), beat->beat);
        if (beat + 1 == beats.end()) break;
        const double apart = (beat + 1)->seconds - beat->seconds;
        for (int part = 1; part < m_clickShape.parts; ++part)
            tell(frameOf(beat->seconds + apart * part / m_clickShape.parts), Beat::Between);
    }
}

void Player::addGain(int frames) {
    const float goal = m_gainGoal.load(std::memory_order_relaxed);
    constexpr float nearer = 1.0F / 2048; // 43 ms
    for (int f = 0; f < frames; ++f) {
        m_gain += (goal - m_gain) * nearer;
        m_left[static_cast<std::size_t>(f)] *= m_gain;
        m_right[static_cast<std::size_t>(f)] *= m_gain;
    }
    if (std::abs(goal - m_gain) < 1e-6F) m_gain = goal;
}

void Player::updateLevels() {
    const Plan& plan = *m_lanes.plan();
    for (std::size_t slot = 0; slot < plan.mixed; ++slot)
        m_mixer->setLevel(slot, plan.parts[slot].mix.level(), false);
    m_mixer->setMaster(plan.master.load(std::memory_order_relaxed), false);
    m_mixer->setRoom(plan.roomSeconds.load(std::memory_order_relaxed));
}

int Player::render(int wanted) {
    Plan* plan = m_lanes.plan();
    int most = std::min(maxFrames, (wanted + blockFrames - 1) / blockFrames * blockFrames);
    std::fill_n(m_left.begin(), most, 0.0F);
    std::fill_n(m_right.begin(), most, 0.0F);
    if (!plan) return blockFrames;
    updateLevels();
    const bool counts = m_count.clicks > 0; // tails ring on, the song stands still
    if (counts) most = startCounted(most);
    const auto end = lastFrame(*plan, m_pace);
    const bool looping = m_loopEnd > 0 && m_lanes.frame() < m_loopEnd;
    const double stopAt = looping ? std::min(m_loopEnd, end) : end;
    const double from = m_lanes.frame();
    const int frames = m_lanes.render(most, m_running ? m_pace : 0, stopAt);
    if (m_fade.plan) addFading(frames);
    for (std::size_t slot = 0; slot < plan->mixed; ++slot) {
        float peak = 0;
        for (int f = 0; f < frames; ++f)
            peak =
                std::max({peak, std::abs(plan->blocks[slot].left[f]), std::abs(plan->blocks[slot].right[f])});
        MixCell& cell = plan->parts[slot].mix;
        peak *= cell.gain.load(std::memory_order_relaxed);
        if (peak > cell.peak.load(std::memory_order_relaxed))
            cell.peak.store(peak, std::memory_order_relaxed);
    }
    m_mixer->mix(plan->mixedBlocks(), frames, m_left.data(), m_right.data());
    addGain(frames);
    if (m_clicks && m_running) clickBetween(from, m_lanes.frame());
    m_clickVoices.add(m_clickShape, liveRate, frames, m_left.data(), m_right.data());
    m_limiter.process(m_left.data(), m_right.data(), frames);
    if (m_running && m_lanes.frame() >= stopAt) {
        if (looping) {
            if (m_loopStart != m_loopEnd) m_lanes.seek(m_loopStart);
            ++m_rounds;
        } else {
            m_running = false;
            m_playing = false;
            m_lanes.setSounding(false);
        }
    }
    if (counts && (m_counted += frames) >= countedFrames()) {
        m_count = {};
        begin();
    }
    m_frame = std::min(m_lanes.frame(), static_cast<double>(plan->endFrame));
    return frames;
}

bool Player::isSilentNow() const {
    constexpr float silence = 1e-6F; // −120 dBFS
    const auto peakOf = [this](const auto& side) {
        return loudestOf({side.data(), static_cast<std::size_t>(m_ready)});
    };
    return std::max(peakOf(m_left), peakOf(m_right)) < silence;
}

/// Whether nothing would be heard until somebody asks for something.
bool Player::mayRest() const {
    return m_silentFrames >= restAfter && !m_running && m_count.clicks == 0 && !m_fade.plan &&
           m_gain == m_gainGoal.load(std::memory_order_relaxed);
}

/// Levels that were moved while it rested are where they belong.
void Player::wake() {
    m_silentFrames = 0;
    Plan* plan = m_lanes.plan();
    if (!plan || !m_resting.load(std::memory_order_relaxed)) return;
    for (std::size_t slot = 0; slot < plan->mixed; ++slot)
        m_mixer->setLevel(slot, plan->parts[slot].mix.level(), true);
    m_mixer->setMaster(plan->master.load(std::memory_order_relaxed), true);
}

void Player::process(float* out, int frames) {
    const NoDenormals fast;
    bool told = false;
    for (; const auto command = m_commands.pop(); told = true) obey(*command);
    for (; const auto message = m_liveMessages.pop(); told = true) playLive(*message);
    if (told) wake();
    m_resting.store(mayRest(), std::memory_order_relaxed);
    if (m_resting.load(std::memory_order_relaxed)) {
        std::fill_n(out, 2 * static_cast<std::ptrdiff_t>(frames), 0.0F);
        return;
    }
    for (int f = 0; f < frames; ++f) {
        if (m_used == m_ready) {
            m_ready = render(frames - f);
            m_used = 0;
            m_silentFrames = isSilentNow() ? std::min(m_silentFrames + m_ready, restAfter) : 0;
            for (std::size_t side = 0; side < 2; ++side) {
                const auto& samples = side == 0 ? m_left : m_right;
                const float peak = loudestOf({samples.data(), static_cast<std::size_t>(m_ready)});
                if (peak > m_peaks[side].load(std::memory_order_relaxed))
                    m_peaks[side].store(peak, std::memory_order_relaxed);
            }
        }
        const auto at = static_cast<std::size_t>(m_used++);
        out[2 * f] = std::clamp(m_left[at], -1.0F, 1.0F);
        out[2 * f + 1] = std::clamp(m_right[at], -1.0F, 1.0F);
    }
}

} // namespace cobbleway
