/// What is done for a person when a song is opened: nothing that is heard changes, and nothing is lost.
#pragma once
#include "song/model/song.h"
#include "words/message.h"

#include <vector>

namespace cobbleway {

/// "The volume of Tuba never moves from 100: it is the part's level now." Empty when the part is gone.
Message tidyingText(const Song& song, const Tidying& tidying);

namespace edits {

/// Makes volumes and expressions that never move the levels of their parts, where the mixer's range holds
/// them, and notes what was done in Song::tidied. A place (pan) stays with the file: the mixer's balance
/// follows another law. What a person has left as it is (Song::settled) stays.
Song tidy(Song song);

/// Takes one of Song::tidied back, 0-based; it is not done again. A level that was moved since keeps its way.
Song putBack(Song song, std::size_t which);
/// All of them.
Song putAllBack(Song song);

} // namespace edits
} // namespace cobbleway
