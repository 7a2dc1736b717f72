/// Keeps what is played below full scale.
#pragma once
#include <array>

namespace cobbleway {

/// Looks a little ahead and turns down evenly what would go past the ceiling, and up again slowly: nothing is
/// cut flat. Gives its sound `latency` frames later. Allocates nothing.
class Limiter {
  public:
    static constexpr float ceiling = 0.97F; ///< −0.26 dBFS
    static constexpr int step = 64;         ///< frames that share a way from gain to gain
    static constexpr int latency = 2 * step;
    explicit Limiter(int rate); ///< in Hz
    void process(float* left, float* right, int frames);

  private:
    struct Stretch {
        std::array<float, step> left{}, right{};
        float allows = 1; ///< the gain at which its loudest sample is at the ceiling, at most 1
    };
    void turn();
    std::array<Stretch, 3> m_stretches; ///< heard now, next, and the one that comes in
    std::size_t m_heard = 0;            ///< which of them is heard
    int m_at = 0;                       ///< frame within a stretch
    float m_loudest = 0;                ///< of the one that comes in
    float m_from = 1, m_to = 1;         ///< the gain at both ends of what is heard
    float m_back;                       ///< the share of what is missing that comes back each stretch
};

} // namespace cobbleway
