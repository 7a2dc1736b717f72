#include "song/derived.h"
#include "song/snags/kinds.h"

#include <algorithm>

namespace cobbleway {

void snags::lyricsWithoutWords(const SongContext& context, Found& found) {
    std::size_t events = 0;
    for (const EventRef ref : *context.song.conductor) events += context.song.event(ref).isMeta(meta::lyric);
    for (const Part& part : context.song.parts)
        events += static_cast<std::size_t>(context.derived.facts(context.song, part)->lyrics);
    if (events == 0) return;
    const auto lines = context.derived.lyrics(context.song);
    const bool words = std::any_of(lines->begin(), lines->end(), [](const LyricLine& line) {
        return line.text.find_first_not_of(" -_.,*") != std::string::npos;
    });
    if (words) return;
    Snag snag = forSong("lyrics-without-words", Step::Songs);
    snag.asked = false;
    snag.pill = {"lyrics-without-words.pill"};
    snag.what = {"lyrics-without-words.what", {{"events", events}}};
    snag.why = {"lyrics-without-words.why"};
    found.push_back(std::move(snag));
}

} // namespace cobbleway
