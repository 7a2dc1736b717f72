#include "song/out/tomidi.h"
#include "song/shape/edits.h"
#include "song/snags/kinds.h"

namespace cobbleway {

void snags::tooManyChannels(const SongContext& context, Found& found) {
    const int needed = channelsNeeded(context.song);
    if (needed <= 16 || context.song.midi.folded) return;
    Snag snag = forSong("too-many-channels", Step::Export);
    snag.pill = {"too-many-channels.pill"};
    snag.what = {"too-many-channels.what", {{"channels", needed}}};
    snag.why = {"too-many-channels.why"};
    snag.fixes.push_back({{"fix.fold-channels"}, false, [](const Song& song) {
                              MidiShape shape = song.midi;
                              shape.folded = true;
                              return edits::setMidiShape(song, shape);
                          }});
    found.push_back(std::move(snag));
}

} // namespace cobbleway
