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
    snag.pill = "tempo jitters";
    snag.what = "The tempo changes " + std::to_string(changes) + " times, mostly by next to nothing.";
    snag.why =
        counted(flat.tempos.size(), "tempo") + " are enough: no note moves by more than 20 milliseconds.";
    snag.mends.push_back({"Make it " + counted(flat.tempos.size(), "tempo"), false,
                          [](const Song& song) { return edits::flattenTempo(song, unheard); }});
    found.push_back(std::move(snag));
}

} // namespace cobbleway
