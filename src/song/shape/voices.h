/// Giving the notes of a part to lines, top to bottom.
#pragma once
#include "song/heard/notes.h"

#include <vector>

namespace cobbleway {

/// The line of each note, 0 the top; the rule stands at splitIntoLines(). `lines` 2–8. With `narrow` the top
/// and the bottom line get one note of a chord, and those between the rest.
std::vector<int> linesOf(const TempoMap& tempo, const std::vector<PartNote>& notes, int lines,
                         bool narrow = false);

} // namespace cobbleway
