/// Between the rate at which sound is made and that of a device.
#pragma once
#include "sound/audiooutput.h"

#include <array>
#include <memory>

using SRC_STATE = struct SRC_STATE_tag;

namespace cobbleway {

/// Asks a callback for blocks at liveRate and gives them at the rate of a device, by libsamplerate. Takes no
/// memory after it was made, so that it can be asked from the audio thread.
class RateBridge {
  public:
    /// `rate`: Hz, 8 000 to 384 000.
    RateBridge(AudioCallback callback, int rate);
    ~RateBridge();
    RateBridge(const RateBridge&) = delete;
    RateBridge& operator=(const RateBridge&) = delete;
    /// Whether it was made: there was memory for it.
    [[nodiscard]] bool isThere() const { return m_state != nullptr; }
    /// Fills `frames` interleaved stereo frames at the device's rate.
    void fill(float* interleaved, int frames);

  private:
    static long give(void* bridge, float** block);
    AudioCallback m_callback;
    double m_ratio; ///< frames given for each that is taken
    SRC_STATE* m_state = nullptr;
    std::array<float, std::size_t{2} * liveFrames> m_block{};
};

} // namespace cobbleway
