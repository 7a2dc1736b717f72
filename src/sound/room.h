#pragma once
#include <array>
#include <vector>

namespace cobbleway {

/// The shared reverberation: a feedback delay network of eight lines. Linear, so that the rooms of parts sum
/// to the room of their sum; deterministic. Allocates only when made.
class Room {
  public:
    explicit Room(int rate); ///< Hz

    /// Adds the room's answer to `inLeft`/`inRight`, `frames` long, to the outputs.
    void process(const float* inLeft, const float* inRight, float* outLeft, float* outRight, int frames);

  private:
    static constexpr std::size_t lineCount = 8;
    struct DelayLine {
        std::vector<float> samples;
        std::size_t at = 0;
        float gain = 0;
        float damped = 0;
    };
    std::array<DelayLine, lineCount> m_lines;
};

} // namespace cobbleway
