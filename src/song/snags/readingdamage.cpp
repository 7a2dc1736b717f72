#include "song/snags/kinds.h"

#include <algorithm>

namespace cobbleway {

void snags::readingDamage(const SongContext& context, Found& found) {
    const auto& damage = context.song.source->damage;
    if (damage.empty()) return;
    Snag snag = forSong("reading-damage", Step::Songs);
    snag.asked = false;
    snag.pill = {"reading-damage.pill"};
    const auto harmful =
        std::count_if(damage.begin(), damage.end(), [](const Damage& d) { return !d.harmless; });
    const Damage& first = *std::find_if(damage.begin(), damage.end(),
                                        [&](const Damage& d) { return harmful == 0 || !d.harmless; });
    if (harmful == 0) {
        snag.pill = {"reading-damage.pill-harmless"};
        snag.what = {"reading-damage.what-harmless", {{"places", damage.size()}, {"damage", first.what}}};
        snag.why = {"reading-damage.why-harmless"};
        found.push_back(std::move(snag));
        return;
    }
    snag.what = {
        "reading-damage.what",
        {{"places", harmful}, {"track", first.track}, {"byte", first.offset}, {"damage", first.what}}};
    snag.why = {"reading-damage.why"};
    found.push_back(std::move(snag));
}

} // namespace cobbleway
