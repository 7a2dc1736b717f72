/// Giving the notes of a part to lines, top to bottom.
#pragma once
#include "song/heard/notes.h"

#include <vector>

namespace cobbleway {

/// The line of each note, 0 the top; the rule stands at splitIntoLines(). `lines` 2–8.
std::vector<int> linesOf(const std::vector<PartNote>& notes, int lines);

} // namespace cobbleway
