#include "song/derived.h"
#include "song/match/keycheck.h"
#include "song/shape/edits.h"
#include "song/snags/kinds.h"

#include <cstdlib>

namespace cobbleway {

void snags::lostTransposition(const SongContext& context, Found& found) {
    const KeyCheck check(context.song,
                         [&](const Part& part) { return context.derived.melody(context.song, part); });
    for (const Part& part : context.song.parts) {
        const auto semitones = check.suggestion(part);
        if (!semitones) continue;
        const std::string way = counted(static_cast<std::size_t>(std::abs(*semitones)), "semitone") +
                                (*semitones > 0 ? " up" : " down");
        Snag snag = forPart(part, "lost-transposition", Step::Parts);
        snag.pill = "another key";
        snag.what = part.name + " seems to be in " +
                    keyText(keyOf(context.derived.melody(context.song, part).classes)) +
                    ", unlike the other parts; " + way + " it would fit them.";
        snag.why = "Parts for transposing instruments lose their transposition easily on the way.";
        snag.mends.push_back({"Move it " + way, false,
                              [id = part.id, to = part.recipe.semitones + *semitones](const Song& song) {
                                  return edits::setSemitones(song, id, to);
                              }});
        found.push_back(std::move(snag));
    }
}

} // namespace cobbleway
