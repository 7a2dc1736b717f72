#include "song/shape/timeedits.h"
#include "song/snags/kinds.h"

namespace cobbleway {
namespace {

constexpr std::size_t many = 40; // changes from which it is worth asking
constexpr double unheard = 0.02; // seconds

} // namespace

void snags::tempoJitter(const SongContext& context, Found& found) {
    const std::size_t changes = context.song.tempo->tempos().size();
    if (changes < many) return;
    const auto flat = flattened(context.song, unheard);
    if (flat.tempos.size() * 4 > changes) return;
    Snag snag = forSong("tempo-jitter", Step::Songs);
    snag.pill = {"tempo-jitter.pill"};
    snag.what = {"tempo-jitter.what", {{"changes", changes}}};
    snag.why = {"tempo-jitter.why", {{"tempos", flat.tempos.size()}}};
    snag.fixes.push_back({{"fix.flatten-tempo", {{"tempos", flat.tempos.size()}}},
                          false,
                          [](const Song& song) { return edits::flattenTempo(song, unheard); }});
    found.push_back(std::move(snag));
}

} // namespace cobbleway
