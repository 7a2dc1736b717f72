#include "song/heard/lyrics.h"

#include "midi/text.h"

#include <algorithm>

namespace cobbleway {
namespace {

struct TextEvent {
    Tick tick = 0;
    std::string text;
};

std::vector<TextEvent> textsOf(const Song& song, std::uint8_t type) {
    std::vector<TextEvent> texts;
    const auto gather = [&](const EventRefs& refs) {
        song.eachBesideNotes(refs, [&](const Event& event, EventRef ref) {
            if (event.isMeta(type))
                texts.push_back(
                    {song.tickOf(ref), toUtf8Untrimmed(song.source->midi.rawText(event), song.encoding)});
        });
    };
    gather(*song.conductor);
    for (const Part& part : song.parts) gather(*part.source.events);
    std::stable_sort(texts.begin(), texts.end(),
                     [](const TextEvent& a, const TextEvent& b) { return a.tick < b.tick; });
    return texts;
}

bool isKaraoke(const std::vector<TextEvent>& texts) {
    const auto begins = [](const TextEvent& t, const char* marks) {
        return !t.text.empty() && std::string_view(marks).find(t.text[0]) != std::string_view::npos;
    };
    const bool header = std::any_of(texts.begin(), texts.end(), [](const TextEvent& t) {
        return t.text.starts_with("@K") || t.text.starts_with("@T") || t.text.starts_with("@L");
    });
    const auto lines =
        std::count_if(texts.begin(), texts.end(), [&](const TextEvent& t) { return begins(t, "/\\"); });
    return header || (lines >= 2 && texts.size() >= 8);
}

std::vector<Syllable> fromKaraoke(const std::vector<TextEvent>& texts) {
    std::vector<Syllable> syllables;
    for (const TextEvent& event : texts) {
        if (event.text.empty() || event.text[0] == '@') continue;
        Syllable syllable{event.tick, event.text, false, false};
        syllable.newParagraph = event.text[0] == '\\';
        syllable.newLine = syllable.newParagraph || event.text[0] == '/';
        if (syllable.newLine) syllable.text.erase(0, 1);
        std::erase_if(syllable.text, [](char c) { return c == '\r' || c == '\n'; });
        syllables.push_back(std::move(syllable));
    }
    return syllables;
}

std::vector<Syllable> fromLyrics(const std::vector<TextEvent>& texts) {
    std::vector<Syllable> syllables;
    bool line = true, paragraph = true; // what begins with the next syllable
    for (const TextEvent& event : texts) {
        std::string text;
        bool endsLine = false, endsParagraph = false;
        for (const char c : event.text) {
            if (c == '\r' || c == '\n') {
                (text.empty() ? line : endsLine) = true;
                if (c == '\n') (text.empty() ? paragraph : endsParagraph) = true;
            } else {
                text += c;
            }
        }
        if (text.starts_with("{@")) continue; // a language code (RP-026)
        if (!text.empty()) {
            syllables.push_back({event.tick, text, line || paragraph, paragraph});
            line = paragraph = false;
        }
        line = line || endsLine;
        paragraph = paragraph || endsParagraph;
    }
    return syllables;
}

} // namespace

std::vector<Syllable> lyricsOf(const Song& song) {
    const auto lyrics = textsOf(song, meta::lyric);
    std::vector<Syllable> syllables = fromLyrics(lyrics);
    if (syllables.empty())
        if (const auto texts = textsOf(song, meta::text); isKaraoke(texts)) syllables = fromKaraoke(texts);
    if (!syllables.empty()) syllables.front().newLine = syllables.front().newParagraph = true;
    return syllables;
}

std::vector<LyricLine> lyricLines(const Song& song) {
    std::vector<LyricLine> lines;
    constexpr std::size_t longest = 90; // letters; files without line ends are cut at a word
    for (const Syllable& syllable : lyricsOf(song)) {
        const bool full =
            !lines.empty() && lines.back().text.size() > longest && syllable.text.starts_with(' ');
        if (lines.empty() || syllable.newLine || full) {
            if (!lines.empty()) lines.back().end = syllable.tick;
            lines.push_back({syllable.tick, song.end, {}, syllable.newParagraph});
        }
        lines.back().text += syllable.text;
        lines.back().syllables.push_back(syllable);
    }
    for (LyricLine& line : lines) {
        const auto first = line.text.find_first_not_of(' ');
        line.text = first == std::string::npos
                        ? std::string()
                        : line.text.substr(first, line.text.find_last_not_of(' ') - first + 1);
    }
    return lines;
}

} // namespace cobbleway
