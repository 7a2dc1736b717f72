#pragma once
#include <algorithm>
#include <atomic>

namespace cobbleway {

/// Tells when a device has gone, by what it asks for: nothing any more, or, as with a sound server that has
/// ended, far more than can be heard. Times are seconds of a steady clock.
class OutputWatch {
  public:
    OutputWatch(int rate, double now) : m_rate(rate), m_asked(now) {}

    /// Counts frames that are asked for. From the audio thread; false when they are too many.
    bool asked(int frames, double now) {
        // Clocks of devices differ by less than a hundredth from this one; a device that was slow may not
        // hurry for it.
        const double heard = 1.01 * (now - m_asked.load(std::memory_order_relaxed));
        m_ahead = std::max(0.0, m_ahead - heard) + static_cast<double>(frames) / m_rate;
        m_asked.store(now, std::memory_order_relaxed);
        if (m_ahead > mostAhead) m_gone = true;
        return !m_gone;
    }
    /// From any thread.
    [[nodiscard]] bool isGone(double now) const {
        return m_gone.load() || now - m_asked.load(std::memory_order_relaxed) > longestSilence;
    }

  private:
    static constexpr double mostAhead = 0.5, longestSilence = 2;
    double m_rate;
    std::atomic<double> m_asked;
    std::atomic<bool> m_gone{false};
    double m_ahead = 0; ///< seconds asked for that cannot have been heard yet
};

} // namespace cobbleway
