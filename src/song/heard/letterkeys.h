/// Playing on the letters of the computer's keyboard.
#pragma once
#include "midi/event.h"

namespace cobbleway {

/// Three rows of letters as the steps of a scale: the middle row runs up it, the row above stands a third
/// higher and the one below a third lower, so that the letters of a column are a chord of the key.
struct LetterKeys {
    int tonic = 0;      ///< 0 C – 11 B
    bool minor = false; ///< natural minor instead of major
    int middle = 60;    ///< the key around which the middle row lies, 0–127

    /// `row` 0 above, 1 middle, 2 below; `column` from the left, 0–9; `raised`: a semitone higher.
    [[nodiscard]] Key key(int row, int column, bool raised = false) const;
};

} // namespace cobbleway
