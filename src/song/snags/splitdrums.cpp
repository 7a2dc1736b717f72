#include "song/derived.h"
#include "song/shape/join.h"
#include "song/snags/kinds.h"

namespace cobbleway {

void snags::splitDrums(const SongContext& context, Found& found) {
    const Song& song = context.song;
    std::vector<PartId> pieces;
    std::vector<Message> kit;
    for (const Part& part : song.parts) {
        if (!part.source.drums || part.aside) continue;
        if (context.derived.facts(song, part)->keys.count() > 3) continue; // a kit of its own
        pieces.push_back(part.id);
        kit.push_back(Message::verbatim(part.name));
    }
    if (pieces.size() < 2) return;
    Snag snag = forSong("split-drums", Step::Parts);
    snag.part = pieces.front();
    snag.pill = {"split-drums.pill"};
    snag.what = {"split-drums.what", {{"parts", pieces.size()}, {"names", std::move(kit)}}};
    snag.why = {"split-drums.why"};
    snag.fixes.push_back({{"fix.join-kit"}, false, [pieces](const Song& s) {
                              return edits::join(s, pieces, {Unisons::KeepOne, true, true});
                          }});
    found.push_back(std::move(snag));
}

} // namespace cobbleway
