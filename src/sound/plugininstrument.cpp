#include "sound/plugininstrument.h"

#include "midi/event.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace cobbleway {

PluginInstrument::PluginInstrument(std::unique_ptr<PluginUnit> unit, int slot)
    : m_unit(std::move(unit)), m_slot(slot) {}

void PluginInstrument::control(std::uint8_t number, std::uint8_t value) {
    switch (number) {
    case cc::volume: m_volume = value; break;
    case cc::expression: m_expression = value; break;
    case cc::pan: m_pan = value; break;
    case cc::bankMsb:
    case cc::bankLsb: break; // the sound is the plug-in itself
    case cc::resetAll:
        m_expression = 127; // RP-015
        m_unit->event(0xB0, number, value);
        break;
    default: m_unit->event(0xB0, number, value);
    }
}

void PluginInstrument::play(int slot, std::uint8_t status, std::uint8_t data1, std::uint8_t data2) {
    if (slot != m_slot) return;
    const auto kind = static_cast<std::uint8_t>(status & 0xF0);
    std::uint8_t& sounding = m_sounding[data1 & 0x7FU];
    if (kind == 0xB0) return control(data1, data2);
    if (kind == 0xC0 || kind == 0xF0) return;
    if (kind == 0x90 && data2 > 0) {
        if (sounding < 255) ++sounding;
    } else if (kind == 0x80 || kind == 0x90) {
        // Few plug-ins count how often a key was struck: it ends with the last of its notes.
        if (sounding > 0 && --sounding > 0) return;
    }
    m_unit->event(kind, data1, data2);
}

void PluginInstrument::choose(int, const InstrumentSound&) {}

void PluginInstrument::release(int slot) {
    if (slot != m_slot) return;
    m_unit->event(0xB0, cc::sustain, 0);
    for (std::uint8_t key = 0; key < 128; ++key)
        if (m_sounding[key] > 0) m_unit->event(0x80, key, 64);
    m_sounding.fill(0);
    m_unit->event(0xB0, cc::allNotesOff, 0);
}

void PluginInstrument::reset(int slot) {
    if (slot != m_slot) return;
    release(slot);
    m_unit->event(0xB0, cc::resetAll, 0);
    m_unit->event(0xE0, 0, 64);
    m_volume = 100;
    m_expression = 127;
    m_pan = 64;
}

void PluginInstrument::render(std::span<const StereoBlock> out, int frames) {
    if (m_slot < 0 || static_cast<std::size_t>(m_slot) >= out.size()) return;
    std::fill_n(m_left.data(), frames, 0.0F);
    std::fill_n(m_right.data(), frames, 0.0F);
    m_unit->run(m_left.data(), m_right.data(), frames);
    // GM developer guidelines: 40·log10(v/127) dB for volume and expression; RP-036 for pan, here as a
    // balance that leaves the middle as it is.
    const double level = std::pow(m_volume / 127.0 * m_expression / 127.0, 2);
    const double place = std::numbers::pi / 2 * (std::max(1, m_pan) - 1) / 126;
    const auto left = static_cast<float>(level * std::min(1.0, std::numbers::sqrt2 * std::cos(place)));
    const auto right = static_cast<float>(level * std::min(1.0, std::numbers::sqrt2 * std::sin(place)));
    if (!m_started) { // the first block begins at its level
        m_gainLeft = left;
        m_gainRight = right;
        m_started = true;
    }
    const StereoBlock& to = out[static_cast<std::size_t>(m_slot)];
    // Levels move block by block in equal steps, however many blocks a call has: renders are equal.
    for (int at = 0; at < frames; at += blockFrames) {
        const float stepLeft = (left - m_gainLeft) / blockFrames,
                    stepRight = (right - m_gainRight) / blockFrames;
        for (int f = at; f < at + blockFrames; ++f) {
            m_gainLeft += stepLeft;
            m_gainRight += stepRight;
            to.left[f] += m_left[static_cast<std::size_t>(f)] * m_gainLeft;
            to.right[f] += m_right[static_cast<std::size_t>(f)] * m_gainRight;
        }
        m_gainLeft = left;
        m_gainRight = right;
    }
}

} // namespace cobbleway
