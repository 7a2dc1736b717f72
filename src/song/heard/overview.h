/// A part's notes at coarser and coarser grain, so that a picture of a million notes is as fast as one of a
/// few.
#pragma once
#include "song/heard/realise.h"

#include <array>
#include <memory>
#include <span>
#include <vector>

namespace cobbleway {

/// A note, or several of one key that lie too close to be told apart; its velocity is the hardest of them.
using DrawnNote = Note;

/// How many notes begin in each of `densitySlices` equal slices of the song.
inline constexpr std::size_t densitySlices = 180;
using Density = std::array<int, densitySlices>;
Density densityOf(const HeardPart& heard, Tick end);

class Overview {
  public:
    Overview() = default;
    explicit Overview(std::shared_ptr<const HeardPart> heard); ///< which it keeps

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
        std::vector<DrawnNote> joined; ///< empty for the finest, which has the notes themselves
        std::vector<Tick> latestEnd;   ///< of all up to the end of each stretch of `stretch` notes
        static constexpr std::size_t stretch = 32;
        void findEnds(std::span<const DrawnNote> notes);
    };
    [[nodiscard]] std::span<const DrawnNote> notesOf(const Level& level) const;

    std::shared_ptr<const HeardPart> m_heard;
    std::vector<Level> m_levels; ///< finest first
    std::vector<int> m_keys;
};

} // namespace cobbleway
