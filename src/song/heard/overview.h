/// A part's notes at coarser and coarser grain, so that a picture of a million notes is as fast as one of a
/// few.
#pragma once
#include "song/heard/realise.h"

#include <array>
#include <span>
#include <vector>

namespace cobbleway {

/// A note, or several of one key that lie too close to be told apart.
struct DrawnNote {
    Tick start = 0, end = 0;
    Key key;
    Velocity velocity; ///< the hardest of them
    bool operator==(const DrawnNote&) const = default;
};

/// How many notes begin in each of `densitySlices` equal slices of the song.
inline constexpr std::size_t densitySlices = 180;
using Density = std::array<int, densitySlices>;
Density densityOf(const HeardPart& heard, Tick end);

class Overview {
  public:
    Overview() = default;
    explicit Overview(const HeardPart& heard);

    /// What sounds between two ticks, in order of start: notes of one key are told apart when at least
    /// `grain` ticks lie between them, mostly also when fewer do. Some that lie outside may be among them.
    /// Valid as long as the overview is.
    [[nodiscard]] std::span<const DrawnNote> between(Tick from, Tick to, Tick grain) const;
    [[nodiscard]] bool isEmpty() const { return m_levels.empty(); }
    [[nodiscard]] int lowest() const { return m_keys.empty() ? 0 : m_keys.front(); } ///< key
    [[nodiscard]] int highest() const { return m_keys.empty() ? 0 : m_keys.back(); }
    [[nodiscard]] const std::vector<int>& keys() const { return m_keys; } ///< those used, ascending

  private:
    struct Level {
        Tick grain = 0;
        std::vector<DrawnNote> notes;
        std::vector<Tick> latestEnd; ///< of all up to here
    };
    std::vector<Level> m_levels; ///< finest first
    std::vector<int> m_keys;
};

} // namespace cobbleway
