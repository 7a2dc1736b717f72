#include "sound/fontchannel.h"

#include "midi/event.h"
#include "song/model/levels.h"
#include "sound/lanestate.h"

#include <algorithm>
#include <cmath>
#include <fluidsynth.h>

namespace cobbleway {
namespace {

constexpr int centre = 64;
constexpr int mostVoices = 512; // of a synthesiser
constexpr int firstSound = 71;
constexpr double softPedal = 0.8; // of the velocity: 4 dB by the General MIDI law. Common practice, no source

/// What a sound controller shifts, and by how much a step from 64. Common practice, no source: the standards
/// name the controllers and leave the amounts open.
struct SoundShift {
    int generator;
    double step;
};
constexpr std::array<SoundShift, 8> soundShifts = {{
    {GEN_FILTERQ, 3},        // 71 resonance, 0.1 dB
    {GEN_VOLENVRELEASE, 75}, // 72 release, timecents
    {GEN_VOLENVATTACK, 120}, // 73 attack, timecents
    {GEN_FILTERFC, 75},      // 74 brightness, cents
    {GEN_VOLENVDECAY, 75},   // 75 decay, timecents
    {GEN_VIBLFOFREQ, 20},    // 76 vibrato rate, cents
    {GEN_VIBLFOTOPITCH, 1},  // 77 vibrato depth, cents
    {GEN_VIBLFODELAY, 75},   // 78 vibrato delay, timecents
}};

} // namespace

int FontChannel::glideMilliseconds(int time) {
    return time <= 0 ? 0 : static_cast<int>(std::lround(10 * std::pow(200.0, time / 127.0)));
}

std::uint8_t FontChannel::softened(int velocity) {
    return static_cast<std::uint8_t>(std::max(1L, std::lround(velocity * softPedal)));
}

void FontChannel::attach(_fluid_synth_t* synth, int channel) {
    *this = {};
    m_synth = synth;
    m_channel = channel;
    reset();
}

void FontChannel::play(std::uint8_t status, std::uint8_t data1, std::uint8_t data2) {
    switch (status & 0xF0) {
    case 0x80: endNote(data1); break;
    case 0x90: data2 > 0 ? startNote(data1, data2) : endNote(data1); break;
    case 0xA0: fluid_synth_key_pressure(m_synth, m_channel, data1, data2); break;
    case 0xB0: control(data1, data2); break;
    case 0xD0: fluid_synth_channel_pressure(m_synth, m_channel, data1); break;
    case 0xE0:
        m_bend = data1 | (data2 << 7);
        setBend();
        break;
    case 0xF0: takeDevice(status, data1, data2); break;
    default: break;
    }
}

void FontChannel::takeDevice(std::uint8_t message, std::uint8_t data1, std::uint8_t data2) {
    const int both = data1 << 8 | data2;
    switch (message) {
    case lanemessage::tuneKey: m_keyTuning[data1 % 12] = static_cast<std::int8_t>(data2 - 100); break;
    case lanemessage::tuneAll: m_deviceTuning = both - 1000; return setTuning();
    case lanemessage::volume: m_deviceVolume = both; return setVolume();
    default: break;
    }
}

void FontChannel::startNote(int key, int velocity) {
    if (m_soft) velocity = softened(velocity);
    if (m_mono) {
        if (m_heldCount > 0) fluid_synth_noteoff(m_synth, m_channel, m_held[m_heldCount - 1].key);
        if (m_heldCount == m_held.size())
            std::rotate(m_held.begin(), m_held.begin() + 1, m_held.end()), --m_heldCount;
        m_held[m_heldCount++] = {static_cast<std::uint8_t>(key), static_cast<std::uint8_t>(velocity)};
        if (m_glides && m_lastKey >= 0) fluid_synth_cc(m_synth, m_channel, cc::portamentoControl, m_lastKey);
    }
    fluid_synth_noteon(m_synth, m_channel, key, velocity);
    tuneNote(key);
    m_lastKey = key;
}

void FontChannel::endNote(int key) {
    if (!m_mono || m_heldCount == 0) {
        fluid_synth_noteoff(m_synth, m_channel, key);
        return;
    }
    const bool sounds = m_held[m_heldCount - 1].key == key;
    const auto end = std::remove_if(m_held.begin(), m_held.begin() + static_cast<std::ptrdiff_t>(m_heldCount),
                                    [key](const Held& held) { return held.key == key; });
    m_heldCount = static_cast<std::size_t>(end - m_held.begin());
    if (!sounds) return;
    fluid_synth_noteoff(m_synth, m_channel, key);
    if (m_heldCount == 0) return; // else the key that is still held sounds again
    const Held back = m_held[m_heldCount - 1];
    if (m_glides) fluid_synth_cc(m_synth, m_channel, cc::portamentoControl, key);
    fluid_synth_noteon(m_synth, m_channel, back.key, back.velocity);
    tuneNote(back.key);
    m_lastKey = back.key;
}

void FontChannel::endAll() {
    m_heldCount = 0;
    fluid_synth_all_notes_off(m_synth, m_channel);
}

template <class Take> void FontChannel::eachVoiceOn(int key, Take take) const {
    std::array<fluid_voice_t*, mostVoices> voices{};
    fluid_synth_get_voicelist(m_synth, voices.data(), mostVoices, -1);
    for (fluid_voice_t* voice : voices) {
        if (!voice) break;
        if (fluid_voice_get_channel(voice) == m_channel && fluid_voice_get_key(voice) == key) take(voice);
    }
}

/// As libfluidsynth does within a channel: the voices are released quickly.
void FontChannel::stop(int key) {
    constexpr float quickly = -200; // timecents, as libfluidsynth has it
    eachVoiceOn(key, [this](fluid_voice_t* voice) {
        fluid_voice_gen_set(voice, GEN_VOLENVRELEASE, quickly);
        fluid_voice_update_param(voice, GEN_VOLENVRELEASE);
        fluid_synth_stop(m_synth, fluid_voice_get_id(voice));
    });
}

void FontChannel::release() {
    fluid_synth_cc(m_synth, m_channel, cc::sustain, 0);
    endAll();
}

void FontChannel::reset() {
    fluid_synth_t* const synth = m_synth;
    const int channel = m_channel;
    *this = {};
    m_synth = synth;
    m_channel = channel;
    m_sound.fill(centre);
    fluid_synth_cc(synth, channel, cc::resetAll, 0);
    endAll();
    setBend();
    fluid_synth_cc(synth, channel, cc::volume, defaultVolume);
    setGlide();
    setPan(m_pan);
}

void FontChannel::control(int number, int value) {
    switch (number) {
    case cc::bankMsb:
    case cc::bankLsb:
    case cc::localControl: return;
    case cc::pan: return setPan(value);
    case cc::soft: m_soft = value >= 64; return;
    case cc::portamentoTime: m_glideTime = value; return setGlide();
    case cc::portamento: m_glides = value >= 64; return;
    case cc::portamentoControl: fluid_synth_cc(m_synth, m_channel, number, value); return;
    case cc::rpnMsb:
    case cc::nrpnMsb: m_parameterMsb = value; break;
    case cc::rpnLsb:
    case cc::nrpnLsb: m_parameterLsb = value; break;
    case cc::dataEntryMsb: return setParameter(value, false);
    case cc::dataEntryLsb: return setParameter(value, true);
    case cc::dataIncrement: return stepParameter(1);
    case cc::dataDecrement: return stepParameter(-1);
    case cc::resetAll: fluid_synth_cc(m_synth, m_channel, number, value); return setAgain();
    case cc::allNotesOff:
        m_heldCount = 0;
        fluid_synth_cc(m_synth, m_channel, number, value);
        return;
    case cc::omniOff:
    case cc::omniOn: return endAll();
    case cc::mono:
    case cc::poly:
        endAll();
        m_mono = number == cc::mono;
        return;
    default:
        if (number >= firstSound && number < firstSound + static_cast<int>(m_sound.size()))
            return setSound(number, value);
        if (number == cc::allSoundOff) m_heldCount = 0;
        fluid_synth_cc(m_synth, m_channel, number, value);
        return;
    }
    // A parameter was chosen.
    const bool registered = number == cc::rpnMsb || number == cc::rpnLsb;
    m_parameter = (registered ? 0 : nonRegistered) | m_parameterMsb << 7 | m_parameterLsb;
}

void FontChannel::setParameter(int value, bool fine) {
    const int parameter = m_parameter;
    switch (parameter) {
    case 0:
        m_range = fine ? m_range / 100 * 100 + std::min(value, 99) : value * 100 + m_range % 100;
        return setBend();
    case 1: m_fine = fine ? (m_fine & 0x3F80) | value : value << 7 | (m_fine & 0x7F); return setTuning();
    case 2:
        if (!fine) m_coarse = value;
        return setTuning();
    default:
        if (fine || (parameter & ~0x7F) != (nonRegistered | 1 << 7)) return;
        if (const int controller = soundControllerOf(parameter & 0x7F); controller >= 0)
            setSound(controller, value);
    }
}

void FontChannel::stepParameter(int by) {
    switch (m_parameter) {
    case 0: m_range = std::clamp(m_range + by, 0, 12799); return setBend();
    case 1: m_fine = std::clamp(m_fine + by, 0, 16383); return setTuning();
    case 2: m_coarse = std::clamp(m_coarse + by, 0, 127); return setTuning();
    default: return;
    }
}

/// libfluidsynth counts the range in 128ths of 127 semitones (SoundFont 2.04), so it is set one wider than
/// asked, and the bends are scaled.
void FontChannel::setBend() {
    const int wide = std::clamp((m_range + 99) / 100 + 1, 1, 127);
    const double share = m_range / 100.0 * 128.0 / (127.0 * wide);
    const long bend = 8192 + std::lround((m_bend - 8192) * share);
    fluid_synth_pitch_wheel_sens(m_synth, m_channel, wide);
    fluid_synth_pitch_bend(m_synth, m_channel, static_cast<int>(std::clamp(bend, 0L, 16383L)));
}

void FontChannel::setTuning() {
    set(GEN_COARSETUNE, m_coarse - centre);
    // libfluidsynth cuts to whole cents
    set(GEN_FINETUNE, std::round((m_fine - 8192) / 8192.0 * 100 + m_deviceTuning / 10.0));
}

/// By the law of a channel's volume: 40·log10 (GM developer guidelines), here in centibels.
void FontChannel::setVolume() {
    constexpr double silence = 1440;
    const double share = m_deviceVolume / 65535.0;
    set(GEN_ATTENUATION, share > 0 ? std::min(silence, -400 * std::log10(share)) : silence);
}

/// Tunes the voices that a note has just begun: libfluidsynth makes tunings of its own with room from the
/// heap.
void FontChannel::tuneNote(int key) {
    const int cents = m_keyTuning[static_cast<std::size_t>(key) % 12];
    if (cents == 0) return;
    unsigned newest = 0; // others on the key are from before, and tuned
    eachVoiceOn(key, [&](fluid_voice_t* voice) { newest = std::max(newest, fluid_voice_get_id(voice)); });
    eachVoiceOn(key, [&](fluid_voice_t* voice) {
        if (fluid_voice_get_id(voice) != newest) return;
        fluid_voice_gen_incr(voice, GEN_FINETUNE, static_cast<float>(cents));
        fluid_voice_update_param(voice, GEN_FINETUNE);
    });
    (void)fluid_synth_get_active_voice_count(
        m_synth); // what voices are told waits for the next call of the synth
}

/// RP-036: left = cos(π/2·(v−1)/126), v at least 1. The font's own law spans −50 % to +50 % by a sine of the
/// same shape, so the place is given as an offset in tenths of a percent.
void FontChannel::setPan(int value) {
    m_pan = value;
    set(GEN_PAN, ((std::max(1, value) - 1) / 126.0 - 0.5) * 1000);
}

void FontChannel::setSound(int controller, int value) {
    const auto at = static_cast<std::size_t>(controller - firstSound);
    m_sound[at] = static_cast<std::uint8_t>(value);
    set(soundShifts[at].generator, (value - centre) * soundShifts[at].step);
}

/// libfluidsynth takes the time in milliseconds, in two halves.
void FontChannel::setGlide() {
    const int time = glideMilliseconds(m_glideTime);
    fluid_synth_cc(m_synth, m_channel, cc::portamentoTime, time >> 7);
    fluid_synth_cc(m_synth, m_channel, cc::portamentoTime + 32, time & 0x7F);
}

void FontChannel::setAgain() {
    m_bend = 8192;
    m_soft = m_glides = false;
    m_parameter = noParameter;
    setPan(m_pan);
    setTuning();
    setVolume();
    for (std::size_t i = 0; i < m_sound.size(); ++i)
        if (m_sound[i] != centre) setSound(firstSound + static_cast<int>(i), m_sound[i]);
    setGlide();
    setBend();
}

void FontChannel::set(int generator, double value) {
    fluid_synth_set_gen(m_synth, m_channel, generator, static_cast<float>(value));
}

} // namespace cobbleway
