/// Snags as they are asked: one card a kind, with what it concerns as rows.
#pragma once
#include "song/snags/snags.h"

#include <vector>

namespace cobbleway {

/// A fix that every row of a card offers.
struct FixOfAll {
    Message label;
    std::function<Song(const Song&)> apply; ///< the fix of each row, in order
};

struct SnagCard {
    std::vector<Snag> rows;    ///< at least one
    Message heading;           ///< of a single row its own sentence
    Message why;               ///< empty when each row has another reason
    std::vector<FixOfAll> all; ///< where there are several rows; the last leaves all as they are
    [[nodiscard]] const Snag& first() const { return rows.front(); }
};

/// Cards in the order in which they are worth looking at: asked before good to know, what is silent before
/// what is not, then by step and kind. Rows keep the order of the parts.
std::vector<SnagCard> cardsOf(const std::vector<Snag>& snags);

/// Whether a fix makes a difference that can be listened to before it is taken: not one that moves the song
/// in time, that keeps what is heard now, or that only changes what is written.
bool canBeHeard(const Fix& fix);

} // namespace cobbleway
