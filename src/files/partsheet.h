/// The part sheet: what plays each part and why, for whoever plays or sings along.
#pragma once
#include "font/catalogue.h"
#include "song/model/song.h"

#include <string>

namespace cobbleway {

/// As an HTML document of one page, without anything outside it: the song with its key, tempo and length;
/// sections with bars and times; of each part its range, sound, why it has it, and what was changed.
std::string partSheet(const Song& song, const Catalogue& catalogue);

} // namespace cobbleway
