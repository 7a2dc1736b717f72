/// What a part does next after a place: the note that it begins with, what a singer asks of the piano; and
/// how long it rests.
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

/// How many bars are left to rest from a place on, this one counted until it is over: 0 while a note sounds
/// or one begins in this bar, and after the last note.
int barsOfRest(const Song& song, const HeardPart& heard, Tick place);

} // namespace cobbleway
