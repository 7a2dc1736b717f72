#include "song/shape/edits.h"
#include "song/shape/join.h"
#include "song/snags/kinds.h"

namespace cobbleway {

/// Two drum parts on one channel that are played by different kits.
void snags::drumsShareChannel(const SongContext& context, Found& found) {
    const Song& song = context.song;
    std::map<std::pair<int, int>, std::size_t> first;
    for (std::size_t i = 0; i < song.parts.size(); ++i) {
        const Part& part = song.parts[i];
        if (part.aside || !part.source.drums) continue;
        const auto [at, fresh] = first.try_emplace({part.source.port, part.source.channel.value}, i);
        const auto &mine = context.matches[i].first().sound,
                   &other = context.matches[at->second].first().sound;
        if (fresh || !mine || !other || *mine == *other) continue;
        const Part& before = song.parts[at->second];
        Snag snag = forSong("drums-share-channel", Step::Drums);
        snag.part = part.id;
        snag.pill = {"drums-share-channel.pill"};
        snag.what = {"drums-share-channel.what",
                     {{"first", before.name},
                      {"second", part.name},
                      {"channel", part.source.channel.value + 1},
                      {"firstKit", other->name},
                      {"secondKit", mine->name}}};
        snag.why = {"drums-share-channel.why"};
        snag.fixes.push_back(
            {{"fix.play-both-with", {{"sound", other->name}}},
             false,
             [id = part.id, kit = *other](const Song& s) { return edits::chooseSound(s, id, kit); }});
        snag.fixes.push_back({{"fix.give-port", {{"part", part.name}}}, false, [id = part.id](const Song& s) {
                                  return edits::giveDrumChannel(s, id);
                              }});
        found.push_back(std::move(snag));
        return;
    }
}

} // namespace cobbleway
