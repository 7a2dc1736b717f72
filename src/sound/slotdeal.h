#pragma once
#include "song/model/song.h"

#include <map>
#include <span>
#include <vector>

namespace cobbleway {

/// Who is in a slot of a plan.
struct Seat {
    PartId part = 0; ///< 0: nobody
    int layer = -1;  ///< 0-based, of that part; −1: the part itself
    auto operator<=>(const Seat&) const = default;
};

/// Which slot each part and each layer of a song has: parts first, then layers. Who had a slot keeps it;
/// others take the first that nobody has or had, so that what rings there rings on. Ids that are gone cost
/// nothing.
class SlotDeal {
  public:
    SlotDeal() = default;
    /// `before`: the seats as they were, by slot; empty for none. Slots of parts, and all, are rounded up to
    /// multiples of `step`, so that a part more moves no layer. At most maxSlots are dealt: parts first, by
    /// id.
    SlotDeal(const Song& song, std::span<const Seat> before, std::size_t step);

    [[nodiscard]] std::size_t parts() const { return m_parts; } ///< slots that are for parts
    [[nodiscard]] std::size_t count() const { return m_count; } ///< with those for layers
    /// −1 for one that is beyond the most there can be.
    [[nodiscard]] int slotOf(PartId part, int layer = -1) const;

  private:
    std::size_t deal(std::vector<Seat> wanted, std::span<const Seat> before, std::size_t first,
                     std::size_t step);
    std::map<Seat, std::size_t> m_slots;
    std::size_t m_parts = 1, m_count = 1;
};

} // namespace cobbleway
