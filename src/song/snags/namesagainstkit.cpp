#include "song/derived.h"
#include "song/drums/drumedits.h"
#include "song/snags/kinds.h"

namespace cobbleway {

/// A person's names that say another piece than the one that is played.
void snags::namesAgainstKit(const PartContext& context, Found& found) {
    const Part& part = context.part;
    if (!part.source.drums || part.aside || part.keyNames.empty()) return;
    const auto view = context.drums();
    if (!view->kit.isKit) return;
    std::size_t count = 0;
    Message example;
    for (const DrumNote& note : view->notes) {
        if (note.from != NameFrom::Person || note.off) continue;
        const auto named = drumMeant(note.name), played = drumMeant(note.playsName);
        const DrumPiece piece = played && played->sure ? played->piece : pieceOf(note.plays);
        if (!named || !named->sure || named->piece == piece) continue;
        if (count++ == 0)
            example = {"names-against-kit.example",
                       {{"key", note.key.value}, {"name", note.name}, {"plays", note.playsName}}};
    }
    if (count == 0) return;
    Snag snag = forPart(part, "names-against-kit", Step::Drums);
    snag.pill = {"names-against-kit.pill"};
    snag.what = {"names-against-kit.what",
                 {{"notes", count}, {"part", part.name}, {"example", std::move(example)}}};
    snag.why = {"names-against-kit.why"};
    const auto moved = layoutByNames(context.song, part).clear.size();
    if (moved > 0)
        snag.fixes.push_back({{"fix.play-by-names"}, false, [id = part.id](const Song& song) {
                                  return edits::playByNames(song, id);
                              }});
    snag.fixes.push_back(
        {{"fix.forget-names"}, false, [id = part.id, names = part.keyNames](const Song& song) {
             Song plain = song;
             for (const auto& [key, name] : names)
                 plain = edits::nameDrum(std::move(plain), id, Key{key}, "");
             return plain;
         }});
    found.push_back(std::move(snag));
}

} // namespace cobbleway
