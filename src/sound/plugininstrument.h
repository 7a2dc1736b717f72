#pragma once
#include "sound/instrument.h"
#include "sound/pluginunit.h"

#include <array>
#include <memory>

namespace cobbleway {

/// An LV2 instrument that plays one slot. Volume, expression and pan are done here, by the laws of General
/// MIDI, since few plug-ins follow them all; everything else goes to the plug-in.
class PluginInstrument final : public Instrument {
  public:
    PluginInstrument(std::unique_ptr<PluginUnit> unit, int slot);
    [[nodiscard]] PluginUnit& unit() const { return *m_unit; }

    void play(int slot, std::uint8_t status, std::uint8_t data1, std::uint8_t data2) override;
    void choose(int slot, const InstrumentSound& sound) override;
    void release(int slot) override;
    void reset(int slot) override;
    void setTime(int slot, const MusicTime& time, int offset) override {
        if (slot == m_slot) m_unit->setTime(time, offset);
    }
    void render(std::span<const StereoBlock> out, int frames) override;
    bool setShares(std::span<const std::uint8_t> shareOfSlot) override {
        const auto slot = static_cast<std::size_t>(m_slot);
        m_share = slot < shareOfSlot.size() ? shareOfSlot[slot] : 0;
        return true;
    }
    void renderShare(int share, std::span<const StereoBlock> out, int frames) override {
        if (share == m_share) render(out, frames);
    }
    [[nodiscard]] int latency() const override { return m_unit->latency(); }
    [[nodiscard]] PluginFault fault() const override { return m_unit->fault(); }

  private:
    void control(std::uint8_t number, std::uint8_t value);
    std::unique_ptr<PluginUnit> m_unit;
    int m_slot;
    int m_share = 0;
    std::array<std::uint8_t, 128> m_sounding{}; ///< how many of a key
    std::array<float, maxFrames> m_left{}, m_right{};
    int m_volume = 100, m_expression = 127, m_pan = 64;
    float m_gainLeft = 0, m_gainRight = 0; ///< as of the last block
    bool m_started = false;
};

} // namespace cobbleway
