#pragma once
#include <array>
#include <cstddef>
#include <vector>

namespace cobbleway {

/// The shared reverberation: a feedback delay network of eight lines. Linear, so that the rooms of parts sum
/// to the room of their sum; deterministic. Allocates only when made.
class Room {
  public:
    explicit Room(int rate); ///< Hz
    /// How long it rings, to −60 dB; 0.3–4 s, 1.3 at first. May be set while it sounds.
    void setSeconds(float seconds);
    [[nodiscard]] float tailSeconds() const { return 2.3F * m_seconds; } ///< until it is below hearing

    /// Adds the room's answer to `inLeft`/`inRight`, `frames` long, to the outputs.
    void process(const float* inLeft, const float* inRight, float* outLeft, float* outRight, int frames);

  private:
    static constexpr std::size_t lines = 8;
    static constexpr std::size_t piece = 64; ///< frames at once, at most
    using Row = std::array<float, lines>;
    void step(const float* inLeft, const float* inRight, float* outLeft, float* outRight, std::size_t frames);

    struct DelayLine {
        std::vector<float> ring; ///< what went in, as long as the line: the oldest is what comes out
        std::size_t at = 0;
    };
    std::array<DelayLine, lines> m_lines;
    Row m_gains{}, m_damped{};
    float m_seconds = 0;
    int m_rate;
};

} // namespace cobbleway
