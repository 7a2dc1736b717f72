#pragma once
#include "sound/instrument.h"

#include <array>
#include <memory>
#include <span>
#include <vector>

namespace cobbleway {

/// A General MIDI sound module made of software: takes MIDI messages as a port would, answers with the sound
/// of a soundfont. Sixteen channels, the tenth drums; follows bank select (MSB), programs, and the GM reset.
class SoundModule {
  public:
    /// `voices` plays at least 16 slots; slot n is channel n + 1.
    explicit SoundModule(std::unique_ptr<Instrument> voices);
    /// One message, from its status byte on.
    void receive(std::span<const std::uint8_t> message);
    /// Adds its sound, a block a channel.
    void render(std::span<const StereoBlock> channels, int frames) { m_voices->render(channels, frames); }

  private:
    void reset();
    std::unique_ptr<Instrument> m_voices;
    std::array<int, 16> m_bank{};
};

/// The module as an instrument of the mix: its channels come back to the slots that play on them.
class ModuleInstrument final : public Instrument {
  public:
    ModuleInstrument(std::unique_ptr<Instrument> voices, int slots);
    void play(int slot, std::uint8_t status, std::uint8_t data1, std::uint8_t data2) override;
    void choose(int slot, const InstrumentSound& sound) override;
    void release(int slot) override;
    void reset(int slot) override;
    void render(std::span<const StereoBlock> out, int frames) override;

  private:
    void send(int channel, int kind, int data1, int data2 = 0);
    [[nodiscard]] int channelOf(int slot) const;
    SoundModule m_module;
    std::vector<int> m_channels;  ///< of each slot, −1 for none
    std::array<int, 16> m_slots;  ///< the slot that spoke on a channel last
    std::vector<float> m_samples; ///< the channels' blocks
    std::array<StereoBlock, 16> m_blocks{};
};

} // namespace cobbleway
