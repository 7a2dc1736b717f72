#include "song/snags/kinds.h"

#include <algorithm>

namespace cobbleway {

void snags::severalPieces(const SongContext& context, Found& found) {
    const MidiFile& midi = context.song.source->midi;
    const auto pieces = std::count_if(midi.tracks.begin(), midi.tracks.end(),
                                      [](const Track& track) { return !track.events.empty(); });
    if (midi.type != 2 || pieces < 2) return;
    Snag snag = forSong("several-pieces", Step::Songs);
    snag.pill = "several pieces";
    snag.what = "The file is of type 2: its " + std::to_string(pieces) + " tracks are pieces of their own.";
    snag.why = "They follow each other here; Song > Make each track a song makes them songs.";
    found.push_back(std::move(snag));
}

} // namespace cobbleway
