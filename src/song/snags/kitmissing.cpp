#include "midi/percussion.h"
#include "song/shape/edits.h"
#include "song/snags/kinds.h"

namespace cobbleway {

/// The kit that a part asks for is not there, or no kit is.
void snags::kitMissing(const PartContext& context, Found& found) {
    const Part& part = context.part;
    if (!part.source.drums || part.aside || part.sound.chosen || context.heard.notes.empty()) return;
    for (std::size_t m = 0; m < context.match.matches.size(); ++m) {
        const Match& played = context.match.matches[m];
        const Ask& ask = context.match.asks[m];
        if (played.sound && (!ask.program || played.how == How::Same)) continue;
        // GM has one kit: what other numbers mean is nobody's promise.
        if (played.sound && context.song.dialect == Dialect::GM) continue;
        Snag snag = forPart(part, "kit-missing", Step::Drums);
        snag.place = ask.tick;
        snag.serious = !played.sound;
        snag.pill = {snag.serious ? "kit-missing.pill-none" : "kit-missing.pill"};
        snag.what = {"kit-missing.what", {{"part", part.name}, {"kit", askText(ask)}, {"why", played.why}}};
        snag.why = {snag.serious ? "kit-missing.why-none" : "kit-missing.why"};
        if (played.sound)
            snag.fixes.push_back({{"fix.keep-sound", {{"sound", played.sound->name}}},
                                  false,
                                  [id = part.id, sound = *played.sound](const Song& song) {
                                      return edits::chooseSound(song, id, sound);
                                  }});
        found.push_back(std::move(snag));
        return;
    }
}

} // namespace cobbleway
