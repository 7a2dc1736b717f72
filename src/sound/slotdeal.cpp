#include "sound/slotdeal.h"

#include "sound/instrument.h"

#include <algorithm>

namespace cobbleway {

SlotDeal::SlotDeal(const Song& song, std::span<const Seat> before, std::size_t step) {
    std::vector<Seat> parts, layers;
    for (const Part& part : song.parts) {
        parts.push_back({part.id, -1});
        for (std::size_t layer = 0; layer < part.sound.layers.size(); ++layer)
            layers.push_back({part.id, static_cast<int>(layer)});
    }
    m_parts = std::max<std::size_t>(1, deal(std::move(parts), before, 0, step));
    m_count = deal(std::move(layers), before, m_parts, step);
}

/// Deals slots from `first` on; gives where they end.
std::size_t SlotDeal::deal(std::vector<Seat> wanted, std::span<const Seat> before, std::size_t first,
                           std::size_t step) {
    std::sort(wanted.begin(), wanted.end());
    std::vector<bool> taken(maxSlots, false);
    std::size_t end = first;
    const auto take = [&](const Seat& seat, std::size_t slot) {
        m_slots.emplace(seat, slot);
        taken[slot] = true;
        end = std::max(end, slot + 1);
    };
    for (std::size_t slot = first; slot < std::min(before.size(), taken.size()); ++slot) {
        if (before[slot].part == 0) continue;
        if (std::binary_search(wanted.begin(), wanted.end(), before[slot]))
            take(before[slot], slot);
        else
            taken[slot] = true; // who was there may still ring
    }
    std::size_t next = first;
    for (const Seat& seat : wanted) {
        if (m_slots.contains(seat)) continue;
        while (next < taken.size() && taken[next]) ++next;
        if (next == taken.size()) break;
        take(seat, next);
    }
    return std::min<std::size_t>((end + step - 1) / step * step, maxSlots);
}

int SlotDeal::slotOf(PartId part, int layer) const {
    const auto at = m_slots.find({part, layer});
    return at == m_slots.end() ? -1 : static_cast<int>(at->second);
}

} // namespace cobbleway
