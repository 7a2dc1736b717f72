/// What the name of a drum note means, in the words of several languages (common practice, no source).
#pragma once
#include "midi/gm.h"
#include "song/model/part.h"

#include <optional>
#include <string>

namespace cobbleway {

/// The drum that a name means.
struct DrumMeaning {
    Key gm; ///< its key by RP-003 and RP-024, 27–87
    DrumPiece piece = DrumPiece::Other;
    bool sure = true; ///< false where the name fits other keys as well ("Tom 2", "Cymbal", "Snare or clap")
    bool operator==(const DrumMeaning&) const = default;
};

/// The drum meant by a name as people and soundfonts write it: "BD", "grosse caisse", "KickDr_L 01_v3",
/// "Open HH", "Ride Bell". Whole words only: "Tomorrow" is none.
std::optional<DrumMeaning> drumMeant(const std::string& name);

/// The piece that a note of a drum part belongs to: as the person's own name for it says, else by the key it
/// plays.
DrumPiece pieceOf(const Part& part, Key key);

/// A soundfont's name for a sample or an instrument as people would write it: marks of left and right,
/// takes, layers and formats left out, words apart and abbreviations of drums written out: "KickDr_L 01_v3" →
/// "Kick drum". Empty when nothing is left.
std::string cleanDrumName(const std::string& name);

} // namespace cobbleway
