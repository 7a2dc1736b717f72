#include "sound/soundmodule.h"

#include "font/soundfont.h"
#include "midi/event.h"

#include <algorithm>

namespace cobbleway {

SoundModule::SoundModule(std::unique_ptr<Instrument> voices) : m_voices(std::move(voices)) { reset(); }

void SoundModule::reset() {
    m_bank.fill(0);
    for (int channel = 0; channel < 16; ++channel) {
        m_voices->reset(channel);
        m_voices->choose(channel, {nullptr, channel == drumChannel.value ? kitBank : 0, 0, 0});
    }
}

void SoundModule::receive(std::span<const std::uint8_t> message) {
    static constexpr std::array<std::uint8_t, 6> gmReset = {0xF0, 0x7E, 0x7F, 0x09, 0x01, 0xF7}; // RP-003
    if (message.empty()) return;
    if (message[0] == 0xF0) {
        if (std::equal(message.begin(), message.end(), gmReset.begin(), gmReset.end())) reset();
        return;
    }
    if (message[0] < 0x80 || message[0] > 0xEF || message.size() < 2) return;
    const int channel = message[0] & 0x0F;
    const std::uint8_t data1 = message[1] & 0x7F, data2 = message.size() > 2 ? message[2] & 0x7F : 0;
    const int kind = message[0] & 0xF0;
    if (kind == 0xC0) {
        const int bank = channel == drumChannel.value ? kitBank : m_bank[static_cast<std::size_t>(channel)];
        m_voices->choose(channel, {nullptr, 0, data1, 0}); // the plain form, should the bank lack it
        m_voices->choose(channel, {nullptr, bank, data1, 0});
    } else if (kind == 0xB0 && data1 == cc::bankMsb) {
        m_bank[static_cast<std::size_t>(channel)] = data2;
    } else if (kind == 0xB0 && (data1 == cc::allNotesOff || data1 == cc::allSoundOff)) {
        m_voices->release(channel);
    } else {
        m_voices->play(channel, message[0], data1, data2);
    }
}

ModuleInstrument::ModuleInstrument(std::unique_ptr<Instrument> sounds, int slots)
    : m_module(std::move(sounds)), m_channels(static_cast<std::size_t>(slots), -1),
      m_samples(std::size_t{32} * maxFrames) {
    m_slots.fill(-1);
    for (std::size_t i = 0; i < m_blocks.size(); ++i)
        m_blocks[i] = {&m_samples[2 * i * maxFrames], &m_samples[(2 * i + 1) * maxFrames]};
}

int ModuleInstrument::channelOf(int slot) const {
    return slot < 0 || static_cast<std::size_t>(slot) >= m_channels.size()
               ? -1
               : m_channels[static_cast<std::size_t>(slot)];
}

void ModuleInstrument::send(int channel, int kind, int data1, int data2) {
    const auto byte = [](int value) { return static_cast<std::uint8_t>(value); };
    m_module.receive(std::array<std::uint8_t, 3>{byte(kind | channel), byte(data1), byte(data2)});
}

void ModuleInstrument::play(int slot, std::uint8_t status, std::uint8_t data1, std::uint8_t data2) {
    const int channel = channelOf(slot);
    const int kind = status & 0xF0;
    const bool sound = kind == 0xC0 || (kind == 0xB0 && (data1 == cc::bankMsb || data1 == cc::bankLsb));
    if (channel < 0 || sound) return;
    if (kind == 0x90 && data2 > 0) m_slots[static_cast<std::size_t>(channel)] = slot;
    send(channel, kind, data1, data2);
}

void ModuleInstrument::choose(int slot, const InstrumentSound& sound) {
    if (slot < 0 || static_cast<std::size_t>(slot) >= m_channels.size()) return;
    const int channel = sound.channel & 0x0F;
    m_channels[static_cast<std::size_t>(slot)] = channel;
    m_slots[static_cast<std::size_t>(channel)] = slot;
    send(channel, 0xB0, cc::bankMsb, sound.bank & 0x7F);
    send(channel, 0xC0, sound.program & 0x7F);
}

void ModuleInstrument::release(int slot) {
    const int channel = channelOf(slot);
    if (channel < 0) return;
    send(channel, 0xB0, cc::sustain, 0);
    send(channel, 0xB0, cc::allNotesOff, 0);
}

void ModuleInstrument::reset(int slot) {
    const int channel = channelOf(slot);
    if (channel < 0) return;
    release(slot);
    send(channel, 0xB0, cc::resetAll, 0);
    send(channel, 0xB0, cc::volume, 100);
    send(channel, 0xB0, cc::pan, 64);
    send(channel, 0xE0, 0, 64);
}

void ModuleInstrument::render(std::span<const StereoBlock> out, int frames) {
    for (const StereoBlock& block : m_blocks) {
        std::fill_n(block.left, frames, 0.0F);
        std::fill_n(block.right, frames, 0.0F);
    }
    m_module.render(m_blocks, frames);
    for (std::size_t channel = 0; channel < m_blocks.size(); ++channel) {
        const int slot = m_slots[channel];
        if (slot < 0 || static_cast<std::size_t>(slot) >= out.size()) continue;
        const StereoBlock& to = out[static_cast<std::size_t>(slot)];
        for (int f = 0; f < frames; ++f) {
            to.left[f] += m_blocks[channel].left[f];
            to.right[f] += m_blocks[channel].right[f];
        }
    }
}

} // namespace cobbleway
