#include "files/lyricstext.h"

#include "words/letters.h"

#include <cmath>
#include <cstdio>

namespace cobbleway {

std::string lyricsText(const Song& song) {
    std::string text;
    for (const LyricLine& line : lyricLines(song)) {
        if (line.newParagraph && !text.empty()) text += "\n";
        text += oneLine(line.text) + "\n";
    }
    return text;
}

std::string timedLyrics(const Song& song, double pace) {
    std::string text = "[ti:" + oneLine(song.title) + "]\n";
    for (const LyricLine& line : lyricLines(song)) {
        const auto hundredths = std::llround(song.tempo->seconds(line.start) / pace * 100);
        char time[32];
        std::snprintf(time, sizeof time, "[%02lld:%02lld.%02lld]", hundredths / 6000, hundredths / 100 % 60,
                      hundredths % 100);
        text += time + oneLine(line.text) + "\n";
    }
    return text;
}

} // namespace cobbleway
