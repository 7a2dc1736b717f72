/// The words of a song.
#pragma once
#include "song/model/song.h"

#include <string>
#include <vector>

namespace cobbleway {

struct Syllable {
    Tick tick = 0;
    std::string text;          ///< UTF-8; a blank at its end or start parts words
    bool newLine = false;      ///< begins a line
    bool newParagraph = false; ///< begins a paragraph, and so a line
    bool operator==(const Syllable&) const = default;
};

/// The syllables in order of tick: from lyric events, where a carriage return ends a line and a line feed a
/// paragraph (RP-017); or, where there are none, from the text events of a karaoke file, where "/" begins a
/// line,
/// "\" a paragraph and "@" a line of information (common practice, no source).
std::vector<Syllable> lyricsOf(const Song& song);

struct LyricLine {
    Tick start = 0, end = 0;
    std::string text;
    bool newParagraph = false;
    std::vector<Syllable> syllables = {};
    bool operator==(const LyricLine&) const = default;
};
/// The same as lines; a line lasts until the next begins.
std::vector<LyricLine> lyricLines(const Song& song);

} // namespace cobbleway
