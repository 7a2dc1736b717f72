#include "song/shape/edits.h"
#include "song/snags/kinds.h"

namespace cobbleway {

void snags::channelShared(const SongContext& context, Found& found) {
    const Song& song = context.song;
    std::map<std::pair<int, int>, std::size_t> first;
    Message who;
    PartId part = 0;
    for (std::size_t i = 0; i < song.parts.size(); ++i) {
        const Part& p = song.parts[i];
        if (p.aside || p.source.drums) continue;
        const auto [at, fresh] = first.try_emplace({p.source.port, p.source.channel.value}, i);
        if (fresh || context.matches[at->second].asks.front().sameAs(context.matches[i].asks.front()))
            continue;
        if (who.empty())
            who = {"channel-shared.what",
                   {{"first", song.parts[at->second].name},
                    {"second", p.name},
                    {"channel", p.source.channel.value + 1}}};
        if (!part) part = p.id;
    }
    if (who.empty()) return;
    Snag snag = forSong("channel-shared", Step::Parts);
    snag.part = part;
    snag.pill = {"channel-shared.pill"};
    snag.what = who;
    snag.why = {"channel-shared.why"};
    snag.fixes.push_back(
        {{"fix.separate-channels"}, true, [](const Song& s) { return edits::separateChannels(s); }});
    found.push_back(std::move(snag));
}

} // namespace cobbleway
