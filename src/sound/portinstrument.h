#pragma once
#include "sound/instrument.h"
#include "sound/midisink.h"
#include "sound/queue.h"

#include <array>
#include <atomic>
#include <chrono>
#include <thread>
#include <vector>

namespace cobbleway {

/// An instrument behind a MIDI port. Gives no sound here; its messages leave on a thread of its own, in time
/// with the audio: each when its frame is heard, whatever the bursts in which blocks are rendered.
class PortInstrument final : public Instrument {
  public:
    PortInstrument(std::unique_ptr<MidiSink> sink, int slots, int rate);
    ~PortInstrument() override; ///< ends all notes on the channels that it used

    void play(int slot, std::uint8_t status, std::uint8_t data1, std::uint8_t data2) override;
    void choose(int slot, const InstrumentSound& sound) override;
    void release(int slot) override;
    void reset(int slot) override;
    void render(std::span<const StereoBlock> out, int frames) override;

    void setAhead(double seconds) override;

    /// The least time from a block to its messages: hides the bursts of outputs that hold little.
    static constexpr std::chrono::milliseconds leastAhead{12};

  private:
    using Clock = std::chrono::steady_clock;
    struct Message {
        Clock::time_point due;
        std::array<std::uint8_t, 3> bytes{};
        std::uint8_t size = 3;
    };
    struct Slot {
        int channel = -1; ///< none chosen yet
        std::array<std::uint8_t, 128> sounding{};
    };
    void put(std::uint8_t status, std::uint8_t data1, std::uint8_t data2);
    void sendLoop(const std::stop_token& stop);
    void endAll();

    std::unique_ptr<MidiSink> m_sink;
    std::vector<Slot> m_slots;
    std::array<std::atomic<bool>, 16> m_used{};
    int m_rate;
    std::atomic<Clock::duration> m_ahead{leastAhead}; ///< from render() until it is heard
    Clock::time_point m_heard; ///< when the block that is being prepared begins to be heard; past at first
    SpscQueue<Message, 4096> m_queue;
    std::atomic<bool> m_lost{false}; ///< there was no room for a message
    std::jthread m_thread;           // last, so that it ends first
};

} // namespace cobbleway
