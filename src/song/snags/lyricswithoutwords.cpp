#include "song/lyrics.h"
#include "song/snags/kinds.h"

#include <algorithm>

namespace cobbleway {

void snags::lyricsWithoutWords(const SnagContext& context, Found& found) {
    std::size_t events = 0;
    const auto count = [&](const std::vector<EventRef>& refs) {
        for (const EventRef ref : refs) events += context.song.event(ref).isMeta(meta::lyric);
    };
    count(*context.song.conductor);
    for (const Part& part : context.song.parts) count(*part.source.events);
    if (events == 0) return;
    const auto syllables = lyricsOf(context.song);
    const bool words = std::any_of(syllables.begin(), syllables.end(), [](const Syllable& s) {
        return s.text.find_first_not_of(" -_.,*") != std::string::npos;
    });
    if (words) return;
    Snag snag = forSong("lyrics-without-words", Step::Songs);
    snag.pill = "no words";
    snag.what = "The file has " + counted(events, "lyric event") + " with no words in them.";
    snag.why = "There is nothing to sing from; the words were lost before the file came here.";
    found.push_back(std::move(snag));
}

} // namespace cobbleway
