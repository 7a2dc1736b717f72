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
        const std::string way = *semitones > 0 ? "up" : "down";
        const int steps = std::abs(*semitones);
        Snag snag = forPart(part, "lost-transposition", Step::Parts);
        snag.pill = {"lost-transposition.pill"};
        snag.what = {"lost-transposition.what",
                     {{"part", part.name},
                      {"key", keyText(keyOf(context.derived.melody(context.song, part).classes))},
                      {"way", way},
                      {"semitones", steps}}};
        snag.why = {"lost-transposition.why"};
        snag.fixes.push_back({{"fix.transpose", {{"way", way}, {"semitones", steps}}},
                              false,
                              [id = part.id, to = part.recipe.semitones + *semitones](const Song& song) {
                                  return edits::setSemitones(song, id, to);
                              }});
        found.push_back(std::move(snag));
    }
}

} // namespace cobbleway
