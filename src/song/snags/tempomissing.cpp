#include "song/shape/timeedits.h"
#include "song/snags/kinds.h"

#include <algorithm>

namespace cobbleway {

void snags::tempoMissing(const SongContext& context, Found& found) {
    const Song& song = context.song;
    if (song.tempoEdited || song.source->midi.division.isSmpte()) return;
    const bool any = std::any_of(song.conductor->begin(), song.conductor->end(),
                                 [&](EventRef ref) { return song.event(ref).isMeta(meta::tempo); });
    if (any) return;
    Snag snag = forSong("tempo-missing", Step::Songs);
    snag.pill = {"tempo-missing.pill"};
    snag.what = {"tempo-missing.what"};
    snag.why = {"tempo-missing.why"};
    found.push_back(std::move(snag));
}

} // namespace cobbleway
