/// The words of a song as text files.
#pragma once
#include "song/heard/lyrics.h"

#include <string>

namespace cobbleway {

/// A line a line of the song, a blank line before a paragraph.
std::string lyricsText(const Song& song);

/// The same with the time of each line, "[mm:ss.xx]words" (LRC; common practice, no source); `pace` as a
/// factor.
std::string timedLyrics(const Song& song, double pace = 1);

} // namespace cobbleway
