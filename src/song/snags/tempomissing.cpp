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
    snag.pill = "no tempo";
    snag.what = "The file gives no tempo.";
    snag.why = "It plays at 120 BPM, as the standard says; Song > Tempo and bars sets another.";
    found.push_back(std::move(snag));
}

} // namespace cobbleway
