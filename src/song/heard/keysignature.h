/// What a file says of its key and of who owns it.
#pragma once
#include "song/model/song.h"

#include <string>

namespace cobbleway {

/// The key of the song's first key signature (SMF 1.0, FF 59) as it is heard, with the song's shift: "F#m",
/// "Bb". Empty where there is none, and for C major, which many programs write without being told.
std::string signatureKey(const Song& song);

/// The first copyright notice (FF 02), in UTF-8; empty for none.
std::string copyrightOf(const Song& song);

} // namespace cobbleway
