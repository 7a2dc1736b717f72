#include "song/heard/letterkeys.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace cobbleway {

Key LetterKeys::key(int row, int column, bool raised) const {
    static constexpr std::array<int, 7> majorSteps = {0, 2, 4, 5, 7, 9, 11},
                                        minorSteps = {0, 2, 3, 5, 7, 8, 10};
    const auto& steps = minor ? minorSteps : majorSteps;
    // Ten letters span some sixteen semitones: the row begins at the tonic nearest to half of that below.
    const int above = ((middle - 8 - tonic) % 12 + 12) % 12;
    const int first = middle - 8 - above + (above > 6 ? 12 : 0);
    const int step = column + (row == 0 ? 2 : (row == 2 ? -2 : 0));
    const int octave = static_cast<int>(std::floor(step / 7.0));
    const int key =
        first + 12 * octave + steps[static_cast<std::size_t>(step - 7 * octave)] + (raised ? 1 : 0);
    return Key{static_cast<std::uint8_t>(std::clamp(key, 0, 127))};
}

} // namespace cobbleway
