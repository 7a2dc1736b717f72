#include "song/derived.h"
#include "song/shape/join.h"
#include "song/snags/kinds.h"

namespace cobbleway {

void snags::splitDrums(const SongContext& context, Found& found) {
    const Song& song = context.song;
    std::vector<PartId> pieces;
    std::string kit;
    for (const Part& part : song.parts) {
        if (!part.source.drums || part.aside) continue;
        if (context.derived.facts(song, part)->keys.count() > 3) continue; // a kit of its own
        pieces.push_back(part.id);
        kit += (kit.empty() ? "" : ", ") + part.name;
    }
    if (pieces.size() < 2) return;
    Snag snag = forSong("split-drums", Step::Parts);
    snag.part = pieces.front();
    snag.pill = "kit in pieces";
    snag.what = "The drums come as " + std::to_string(pieces.size()) + " parts: " + kit + ".";
    snag.why = "As one kit they have one level and one row; apart, each piece has its own.";
    snag.mends.push_back({"Join them to one kit", false, [pieces](const Song& s) {
                              return edits::join(s, pieces, {Unisons::KeepOne, true, true});
                          }});
    found.push_back(std::move(snag));
}

} // namespace cobbleway
