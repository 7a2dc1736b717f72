/// Names of the General MIDI standard (RP-003, RP-024) and names of keys.
#pragma once
#include "midi/event.h"

#include <string>
#include <string_view>

namespace cobbleway {

/// One of the 128 program names, as printed in RP-003.
std::string_view programName(Program program);

/// The same as a band would call it, without numbers: "Picked bass", "Strings". Several programs may share
/// one.
std::string_view plainProgramName(Program program);

/// One of the 16 families of eight programs: "Piano", "Chromatic", … The last holds sound effects.
std::string_view familyName(int family); ///< 0–15

/// The drum sound on a key of the percussion channel: keys 35–81 by RP-003, 27–34 and 82–87 by RP-024.
/// Empty for other keys.
std::string_view drumName(Key key);

/// A group of drum sounds that people treat alike.
enum class DrumPiece { Kick, Snare, Hats, Toms, Cymbals, Percussion, Other };
inline constexpr int pieceCount = 7;
/// The piece that a key of the percussion channel belongs to, by its name in RP-003 and RP-024: rim and clap
/// with the snare, hand drums, bells, shakers and whistles with the percussion, scratches and metronomes with
/// the other.
DrumPiece pieceOf(Key key);
/// "kick", "snare", "hats", "toms", "cymbals", "percussion", "other".
std::string_view pieceName(DrumPiece piece);

/// A kit by its program (RP-024): "Standard kit", "Room kit", … Empty where none is defined.
std::string_view kitName(Program program);

/// A key as people say it, middle C (60) being C4: "F#3".
std::string keyName(Key key);

} // namespace cobbleway
