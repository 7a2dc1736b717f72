#include "song/edits.h"
#include "song/snags/kinds.h"

#include <algorithm>

namespace cobbleway {

Snag snags::forPart(const Part& part, const char* kind, Step step) {
    Snag snag;
    snag.kind = kind;
    snag.key = snag.kind + ":" + std::to_string(part.id);
    snag.step = step;
    snag.part = part.id;
    return snag;
}

Snag snags::forSong(const char* kind, Step step) {
    Snag snag;
    snag.kind = snag.key = kind;
    snag.step = step;
    return snag;
}

std::string snags::counted(std::size_t count, const char* thing) {
    return std::to_string(count) + " " + thing + (count == 1 ? "" : "s");
}

const Line& SnagContext::line(const Part& part) const {
    const auto at = m_lines.find(part.id);
    return at != m_lines.end() ? at->second : m_lines.emplace(part.id, realise(song, part)).first->second;
}

std::vector<Snag> findSnags(const SnagContext& context) {
    static constexpr auto kinds = {
        snags::readingDamage,  snags::severalPieces,    snags::garbledNames,      snags::lyricsWithoutWords,
        snags::deviceMessages, snags::tempoMissing,     snags::tempoJitter,       snags::leadingSilence,
        snags::noNotes,        snags::drumsElsewhere,   snags::pitchedOnDrums,    snags::splitDrums,
        snags::channelShared,  snags::fixedVolume,      snags::silentByVolume,    snags::controllerFlood,
        snags::doubledNotes,   snags::overlappingNotes, snags::lostTransposition, snags::programMissing,
        snags::nameDisagrees,  snags::bassOnGuitar,     snags::fontGone,          snags::soundMissing,
        snags::outOfRange,     snags::effectGone,       snags::notRendered,       snags::tooManyChannels};
    std::vector<Snag> found;
    for (const auto kind : kinds) kind(context, found);
    std::erase_if(found, [&](const Snag& snag) { return context.song.settled.contains(snag.key); });
    for (Snag& snag : found)
        snag.mends.push_back({"Leave it as it is", false,
                              [key = snag.key](const Song& song) { return edits::settle(song, key); }});
    std::stable_sort(found.begin(), found.end(),
                     [](const Snag& a, const Snag& b) { return a.step < b.step; });
    return found;
}

Song mendAllSafe(const Song& song, const Catalogue& catalogue) {
    Song now = song;
    for (int round = 0; round < 1000; ++round) { // each round mends one; a mend may clear or raise others
        const auto found = findSnags({now, catalogue, matchSong(now, catalogue)});
        bool mended = false;
        for (const Snag& snag : found) {
            const auto safe =
                std::find_if(snag.mends.begin(), snag.mends.end(), [](const Mend& m) { return m.safe; });
            if (safe == snag.mends.end()) continue;
            Song next = safe->apply(now);
            if (next == now) continue;
            now = std::move(next);
            mended = true;
        }
        if (!mended) break;
    }
    return now;
}

} // namespace cobbleway
