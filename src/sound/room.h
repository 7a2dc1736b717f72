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
    using Row = std::array<float, lines>;
    std::vector<Row> m_rows; ///< what went into the lines at each frame, as a ring of a power of two
    std::array<std::size_t, lines> m_lengths{};
    std::size_t m_mask = 0, m_at = 0;
    Row m_gains{}, m_damped{};
    float m_seconds = 0;
    int m_rate;
};

} // namespace cobbleway
