/// The note that a part begins with after a place: what a singer asks of the piano.
#pragma once
#include "song/heard/realise.h"

#include <functional>
#include <optional>
#include <utility>
#include <vector>

namespace cobbleway {

struct FirstNote {
    Tick tick = 0;
    Key key;
    std::vector<std::pair<PartId, Key>>
        harmony; ///< what other pitched parts that are heard sound then; 0 to 6 notes
};

/// None when the part has no note that begins at or after the place. `heardOf` gives what realise() makes of
/// a part.
std::optional<FirstNote>
firstNoteAfter(const Song& song, PartId part, Tick place,
               const std::function<std::shared_ptr<const HeardPart>(const Part&)>& heardOf);

} // namespace cobbleway
