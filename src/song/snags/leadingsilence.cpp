#include "song/shape/timeedits.h"
#include "song/snags/kinds.h"

#include <cstdio>

namespace cobbleway {

void snags::leadingSilence(const SongContext& context, Found& found) {
    const Song& song = context.song;
    const Tick silence = cobbleway::leadingSilence(song);
    // Whole bars go, so that bar lines stay where they are between the notes.
    const Tick bars = song.tempo->barStart(song.tempo->position(silence).bar);
    const double seconds = song.tempo->seconds(silence);
    if (bars == 0 || seconds < 2) return;
    char text[32];
    std::snprintf(text, sizeof text, "%.1f", seconds);
    Snag snag = forSong("leading-silence", Step::Songs);
    snag.pill = {"leading-silence.pill"};
    snag.what = {"leading-silence.what", {{"seconds", std::string(text)}}};
    snag.why = {"leading-silence.why"};
    const auto count = static_cast<std::size_t>(song.tempo->position(silence).bar - 1);
    snag.fixes.push_back({{"fix.remove-silence", {{"bars", count}}}, false, [bars](const Song& s) {
                              return edits::removeLeadingSilence(s, bars);
                          }});
    found.push_back(std::move(snag));
}

} // namespace cobbleway
