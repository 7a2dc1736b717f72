/// Where live sound goes: a device, or the silent output.
#pragma once
#include "midi/result.h"

#include <functional>
#include <memory>
#include <string>
#include <vector>

namespace cobbleway {

/// Fills `frames` interleaved stereo frames. Called on the audio thread; must not lock, allocate or wait.
using AudioCallback = std::function<void(float* interleaved, int frames)>;

/// A running stream. Ends when destroyed; after that the callback is called no more.
class AudioOutput {
  public:
    AudioOutput() = default;
    AudioOutput(const AudioOutput&) = delete;
    AudioOutput& operator=(const AudioOutput&) = delete;
    virtual ~AudioOutput() = default;
    [[nodiscard]] virtual int rate() const = 0;                   ///< Hz, of the device
    [[nodiscard]] virtual std::string id() const { return {}; }   ///< as in OutputInfo
    [[nodiscard]] virtual std::string name() const { return {}; } ///< of the device, for people
    [[nodiscard]] virtual bool isSilent() const { return false; }
    /// How often it ran dry since it was opened: a block was not there when it was to be heard.
    [[nodiscard]] virtual long gaps() const = 0;
    /// How long after it is asked for a block begins to be heard, in seconds, as far as is known.
    [[nodiscard]] virtual double ahead() const = 0;
    /// Whether it has gone: unplugged, or its server ended. Nothing is heard from it any more.
    [[nodiscard]] virtual bool isGone() const { return false; }
    /// Tells whether nothing is to be heard for the moment: one that takes blocks of its own accord may take
    /// fewer then.
    virtual void rest(bool /*resting*/) {}
};

struct OutputInfo {
    /// Stable: "auto", "silent"; a server, "pulse", "alsa" or "jack", whose standard device is followed; or
    /// one of its devices, as "pulse:Headphones". Of two devices of one name RtAudio tells one.
    std::string id;
    std::string name; ///< for people
};

/// What can be asked for here whatever is connected, "auto" first and "silent" last.
std::vector<OutputInfo> audioOutputs();

/// The same, with the devices that each server has now after the server. Asks the servers, which may hang.
std::vector<OutputInfo> audioDevices();

inline constexpr int liveRate = 48000; ///< Hz
inline constexpr int liveFrames = 256; ///< asked of devices; they may give another size

/// How many blocks an output is asked to hold, the one that is heard among them. What is held bridges moments
/// in which the machine does something else, and delays what is heard.
enum class HeldBlocks : int {
    Busy = 24,       ///< 128 ms: for a computer that has much else to do
    Listening = 12,  ///< 64 ms: enough for most stalls, and a sound that is tried is still heard in time
    PlayingAlong = 4 ///< 21 ms: what is played on a keyboard must not lag
};

/// Opens and starts an output. "auto" takes the first of PulseAudio, JACK, ALSA that opens, else the silent
/// output. A device asked for by name that does not open is an error. A device that has another rate gets its
/// own: the callback gives liveRate all the same.
Result<std::unique_ptr<AudioOutput>> openOutput(const std::string& id, AudioCallback callback,
                                                HeldBlocks held = HeldBlocks::Listening);

} // namespace cobbleway
