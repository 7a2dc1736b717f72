#include "song/out/tomidi.h"
#include "song/shape/edits.h"
#include "song/snags/kinds.h"

namespace cobbleway {

void snags::tooManyChannels(const SongContext& context, Found& found) {
    const int needed = channelsNeeded(context.song);
    if (needed <= 16 || context.song.midi.folded) return;
    Snag snag = forSong("too-many-channels", Step::Export);
    snag.pill = "more than 16 channels";
    snag.what = "The parts need " + std::to_string(needed) + " channels; a MIDI port has 16.";
    snag.why =
        "MIDI files are written with several ports, which programs that know of one alone play wrongly.";
    snag.mends.push_back({"Fold them onto 16 channels", false, [](const Song& song) {
                              MidiShape shape = song.midi;
                              shape.folded = true;
                              return edits::setMidiShape(song, shape);
                          }});
    found.push_back(std::move(snag));
}

} // namespace cobbleway
