/// Where a picture is that follows a player.
#pragma once
#include <algorithm>
#include <utility>

namespace cobbleway {

/// Outputs ask for sound in bursts, so the player's place goes on in steps; this one goes on by the clock,
/// and a little towards the player's at each look. It never goes back, unless the player does: a loop, or a
/// place gone to by hand. All places are in seconds of the song at its own tempo.
class EvenPlace {
  public:
    /// Looks once more: `player` is the place it is at, and `passed` what has passed of the song by the clock
    /// since the last look, if it has played all the time.
    void look(double player, bool playing, double passed) {
        constexpr double far = 0.2, waiting = 0.05,
                         nearer = 0.1; // seconds, seconds, the share of what is missing
        const double before = std::exchange(m_player, player);
        const double byClock = m_place + passed, missing = player - byClock;
        const bool stands =
            player == before && missing < -waiting; // an output that is late; clicks that are counted
        if (!playing || player < before || missing > far)
            m_place = player;
        else if (stands || missing < -far)
            m_place = std::max(m_place, player); // waits for it
        else
            m_place = std::max(m_place, byClock + missing * nearer);
    }
    [[nodiscard]] double seconds() const { return m_place; }

  private:
    double m_player = 0; ///< its place at the last look
    double m_place = 0;
};

} // namespace cobbleway
