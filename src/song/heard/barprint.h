/// Where in the bar the notes of each key fall, summed over a stretch of the song.
#pragma once
#include "song/model/song.h"

#include <array>
#include <vector>

namespace cobbleway {

/// How a bar is divided, and what falls where. Of several metres the one with the most hits counts, and only
/// its bars do.
struct BarPrints {
    int numerator = 4, denominator = 4;
    int perBeat = 4;       ///< slots a beat: 4, with triplets 3; 2 where the beat is an eighth or shorter
    bool triplets = false; ///< more hits on thirds of the beat than on quarters of it
    bool swing = false;    ///< of the thirds, nearly only the last: long and short eighths
    /// By incoming key: the velocities (as the file has them) of the hits in each slot, summed, 1 for 127;
    /// empty for keys without hits in bars of this metre.
    std::array<std::vector<double>, 128> keys;
    [[nodiscard]] std::size_t slots() const {
        return static_cast<std::size_t>(numerator) * static_cast<std::size_t>(perBeat);
    }
    bool operator==(const BarPrints&) const = default;
};

/// Of notes that begin from `from` on and before `to`.
BarPrints barPrintsOf(const SongFrame& song, const PartSource& source, Tick from, Tick to);

} // namespace cobbleway
