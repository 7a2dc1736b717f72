/// What a file says of its key and of who owns it.
#pragma once
#include "song/model/song.h"

#include <string>
#include <vector>

namespace cobbleway {

/// A key signature (SMF 1.0, FF 59), without the song's shift.
struct KeySignature {
    Tick tick = 0;
    int sharps = 0; ///< −7 to 7, flats below 0
    bool minor = false;
    bool operator==(const KeySignature&) const = default;
};

/// Those that the file has, from all tracks, each where another begins; in order.
std::vector<KeySignature> signaturesOf(const Song& song);

/// The key of the song's first key signature (SMF 1.0, FF 59) as it is heard, with the song's shift: "F#m",
/// "Bb". Empty where there is none, and for C major, which many programs write without being told.
std::string signatureKey(const Song& song);

/// The first copyright notice (FF 02), in UTF-8; empty for none.
std::string copyrightOf(const Song& song);

} // namespace cobbleway
