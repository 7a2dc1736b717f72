#include "song/shape/edits.h"
#include "song/snags/kinds.h"

namespace cobbleway {

void snags::soundMissing(const PartContext& context, Found& found) {
    const Part& part = context.part;
    const PartMatch& match = context.match;
    if (part.sound.chosen && part.sound.chosen->kind == SoundKind::Preset &&
        !context.catalogue.font(part.sound.chosen->font))
        return;                    // its font is gone: another snag
    if (part.source.drums) return; // kitMissing()
    if (part.aside || (!part.sound.chosen && !match.asks.front().program)) return;
    for (std::size_t m = 0; m < match.matches.size(); ++m) {
        const Match& played = match.matches[m];
        if (played.how != How::StandIn && played.how != How::None) continue;
        Snag snag = forPart(part, "sound-missing", Step::Sounds);
        snag.place = match.asks[m].tick;
        snag.serious = played.how == How::None;
        snag.pill = {snag.serious ? "sound-missing.pill-none" : "sound-missing.pill"};
        snag.what = {"sound-missing.what",
                     {{"part", part.name}, {"ask", askText(match.asks[m])}, {"why", played.why}}};
        snag.why = {snag.serious ? "sound-missing.why-none" : "sound-missing.why"};
        if (played.sound)
            snag.fixes.push_back({{"fix.keep-sound", {{"sound", played.sound->name}}},
                                  false,
                                  [id = part.id, sound = *played.sound](const Song& song) {
                                      return edits::chooseSound(song, id, sound);
                                  }});
        found.push_back(std::move(snag));
        break;
    }
}

} // namespace cobbleway
