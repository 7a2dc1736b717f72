/// What a part's controllers and notes have come to at a place of the song.
#pragma once
#include <array>
#include <cstdint>

namespace cobbleway {

/// A message at a frame of the song at its own tempo. Status 0xC0 chooses sound number data1 of the schedule.
/// Eight bytes, since songs have millions.
struct TimedEvent {
    std::int64_t frame : 40 = 0; ///< up to `lastFrame`: 33 days at 192 kHz
    std::uint64_t status : 8 = 0, data1 : 8 = 0, data2 : 8 = 0;
    static constexpr std::int64_t lastFrame = (std::int64_t{1} << 39) - 1;

    TimedEvent() = default;
    TimedEvent(std::int64_t at, std::uint8_t message, std::uint8_t first, std::uint8_t second)
        : frame(at), status(message), data1(first), data2(second) {}
    bool operator==(const TimedEvent&) const = default;
};
static_assert(sizeof(TimedEvent) == 8);

/// What a lane is told besides channel messages: states that MIDI 1.0 leaves undefined within a file.
namespace lanemessage {
inline constexpr std::uint8_t tuneKey = 0xF4; ///< data1: key of the octave, 0 is C; data2: cents + 100
inline constexpr std::uint8_t tuneAll = 0xF5; ///< data1·256 + data2: tenths of a cent + 1000
inline constexpr std::uint8_t volume = 0xF9;  ///< of the device; data1·256 + data2: 65535 is full
} // namespace lanemessage

/// The sound controller (71 to 78) that an NRPN of GS and XG with MSB 1 means (manufacturers' published
/// convention); −1 for none.
int soundControllerOf(int nrpnLsb);

/// The controllers and notes of a part at one place of the song.
struct LaneState {
    std::array<std::int16_t, 128> controllers; ///< last value sent, −1 for none; not those that are said once
    std::array<std::int16_t, 3> rpnMsb, rpnLsb; ///< RPN 0–2: bend range, fine and coarse tuning; −1 for none
    int rpn = -1;                               ///< the one selected, −1 for none that is kept
    bool nrpn = false;                          ///< the parameter selected last is not registered
    bool mono = false;
    std::array<std::uint8_t, 128> velocity; ///< of the notes that sound, 0 for none
    std::int16_t bend = 8192, pressure = -1;
    std::uint8_t sound = 0;
    std::array<std::int8_t, 12> keyTuning{}; ///< cents, by key of the octave
    std::int16_t tuning = 0;                 ///< tenths of a cent
    std::uint16_t volume = 0xFFFF;           ///< of the device

    LaneState();
    void take(const TimedEvent& event);
    bool operator==(const LaneState&) const = default;

  private:
    void takeDevice(const TimedEvent& event);
    void control(std::uint8_t number, std::uint8_t value);
    void setParameter(std::uint8_t value, bool fine);
    void stepParameter(int by);
};

} // namespace cobbleway
