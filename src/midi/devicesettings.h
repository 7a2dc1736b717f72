/// What device messages set that notes are heard by: of the whole device, and of single channels.
#pragma once
#include "midi/dialect.h"
#include "midi/sysex.h"

#include <array>
#include <functional>
#include <optional>
#include <span>
#include <vector>

namespace cobbleway {

/// A channel message without its channel, by which a setting can be said as well.
struct SaidByChannel {
    std::uint8_t kind = 0; ///< 0xB0 or 0xC0
    std::uint8_t data1 = 0, data2 = 0;
    bool operator==(const SaidByChannel&) const = default;
};

/// How far a key of the octave is tuned.
struct KeyTuning {
    int key = 0;   ///< 0–11, 0 is C
    int cents = 0; ///< −100 to +100
    bool operator==(const KeyTuning&) const = default;
};

/// What one message sets. Empty for messages that set nothing of these.
struct DeviceSettings {
    Dialect reset = Dialect::None; ///< everything is as that dialect starts

    // Of the device. Not of its drums, but for the volume.
    std::optional<double> volume; ///< 0–1 of full; its law is the one of a channel's
    std::optional<int> tuning;    ///< tenths of a cent, −1000 to +1000
    std::optional<int> keyShift;  ///< semitones, −64 to +63

    // Of channels.
    std::uint16_t channels = 0;           ///< a bit each, the lowest is channel 1
    std::optional<int> partKeyShift;      ///< semitones, −24 to +24
    std::vector<KeyTuning> keyTunings;    ///< scale tuning
    std::vector<SaidByChannel> asChannel; ///< what channel messages say as well, in order

    [[nodiscard]] bool setsChannel() const {
        return partKeyShift || !keyTunings.empty() || !asChannel.empty();
    }
    [[nodiscard]] bool empty() const {
        return reset == Dialect::None && !volume && !tuning && !keyShift && !setsChannel();
    }
    /// Whether events and keys that are written say all of it, so that the message itself would say it twice.
    [[nodiscard]] bool isWrittenIn() const { return keyShift || partKeyShift || !asChannel.empty(); }
    bool operator==(const DeviceSettings&) const = default;
};

/// Reads messages in order, since GS and XG address parts of the device, and a message may say which channel
/// a part listens to. Known are:
///
/// - Universal (MIDI 1.0): master volume, fine and coarse tuning (04 01, 03, 04), scale tuning by octave in
///   one and two bytes (08 08, 08 09; MMA CA-021).
/// - GS: master tuning, volume and key shift (40 00 00, 04, 05); of parts program (40 1x 00), channel (02),
///   one voice or many (13), key shift (16), level (19), pan (1C), sends (21, 22), sound (30 to 37), scale
///   tuning (40 to 4B), range of the bend (40 2x 10).
/// - XG: master tuning, volume and transposition (00 00 00, 04, 06); of parts bank and program (08 nn 01 to
///   03), channel (04), one voice or many (05), key shift (08), volume (0B), pan (0E), sends (12, 13), sound
///   (15 to 1C), range of the bend (23), scale tuning (41 to 4C).
///
/// The addresses of GS and XG are those of the manufacturers' published parameter lists, from memory.
/// A random place (pan 0) and what else such messages set is not known here. Checksums are not insisted on.
class DeviceReader {
  public:
    DeviceReader() { reset(); }
    DeviceSettings take(std::span<const std::uint8_t> sysex);

  private:
    void reset();
    void takeUniversal(std::span<const std::uint8_t> sysex, DeviceSettings& settings) const;
    void takeGs(std::span<const std::uint8_t> sysex, DeviceSettings& settings);
    void takeXg(std::span<const std::uint8_t> sysex, DeviceSettings& settings);
    [[nodiscard]] std::uint16_t channelsOf(std::size_t part) const;
    std::array<int, 16> m_receives{}; ///< the channel of each part, 16 for none; GS and XG number parts alike
};

/// What a file's messages make of the device's volume (Universal Real Time 04 01, MIDI 1.0; GS 40 00 04; XG
/// 00 00 04).
struct DeviceVolume {
    double fixed = 1;     ///< 0–1 of full, where it holds for all notes
    bool moves = false;   ///< it does not: what holds is said by the messages, from their place on
    bool ignored = false; ///< nothing would be heard, so it is taken for full
};
DeviceVolume deviceVolumeOf(const MidiFile& file);

/// A message of a file that sets something.
struct PlacedSettings {
    SysexPlace place;
    Tick tick = 0;
    int port = 0;
    DeviceSettings settings;
};

/// All of a file in a device's order: tick, track, place. At most `mostDeviceSettings`: a file with more is
/// no music, and the rest is left out.
std::vector<PlacedSettings> deviceSettingsOf(const MidiFile& file);
inline constexpr std::size_t mostDeviceSettings = 4096;

} // namespace cobbleway
