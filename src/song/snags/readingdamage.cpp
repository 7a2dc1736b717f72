#include "song/snags/kinds.h"

namespace cobbleway {

void snags::readingDamage(const SongContext& context, Found& found) {
    const auto& damage = context.song.source->damage;
    if (damage.empty()) return;
    Snag snag = forSong("reading-damage", Step::Songs);
    snag.asked = false;
    snag.pill = "file was damaged";
    snag.what = damage.size() == 1 ? "The file was damaged in one place."
                                   : "The file was damaged in " + std::to_string(damage.size()) + " places.";
    const Damage& first = damage.front();
    snag.what += (first.track ? " Track " + std::to_string(first.track) + ", byte " : " Byte ") +
                 std::to_string(first.offset) + ": " + first.what;
    snag.why = "All the notes that are in it were kept; listen whether something is missing.";
    found.push_back(std::move(snag));
}

} // namespace cobbleway
