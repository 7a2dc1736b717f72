#include "song/snags/kinds.h"

#include <algorithm>

namespace cobbleway {

void snags::severalPieces(const SongContext& context, Found& found) {
    const MidiFile& midi = context.song.source->midi;
    const auto pieces = std::count_if(midi.tracks.begin(), midi.tracks.end(),
                                      [](const Track& track) { return !track.events.empty(); });
    if (midi.type != 2 || pieces < 2) return;
    Snag snag = forSong("several-pieces", Step::Songs);
    snag.pill = {"several-pieces.pill"};
    snag.what = {"several-pieces.what", {{"pieces", pieces}}};
    snag.why = {"several-pieces.why"};
    found.push_back(std::move(snag));
}

} // namespace cobbleway
