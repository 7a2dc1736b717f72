#include "song/shape/edits.h"
#include "song/snags/kinds.h"

#include <algorithm>

namespace cobbleway {
namespace {

/// Effects that are switched on and cannot be used now.
std::vector<Effect> goneOf(const std::vector<Effect>& effects, const Catalogue& catalogue) {
    std::vector<Effect> gone;
    for (const Effect& effect : effects)
        if (effect.on && !catalogue.plugin(effect.uri)) gone.push_back(effect);
    return gone;
}

std::vector<Effect> without(std::vector<Effect> effects, const std::string& uri) {
    std::erase_if(effects, [&](const Effect& effect) { return effect.uri == uri; });
    return effects;
}

void tell(snags::Found& found, Snag snag, const std::string& on, PartId part, const Effect& effect) {
    snag.key += " " + effect.uri;
    snag.pill = "effect gone";
    snag.what = "The effect " + effect.name + " on " + on + " cannot be used now.";
    snag.why = "It is left out until its plug-in is installed again.";
    snag.mends.push_back({"Remove it", false, [part, uri = effect.uri](const Song& song) {
                              const Part* owner = song.part(part);
                              return edits::setEffects(
                                  song, part, without(owner ? owner->mix.effects : song.effects, uri));
                          }});
    found.push_back(std::move(snag));
}

} // namespace

void snags::effectGone(const SongContext& context, Found& found) {
    const Catalogue& catalogue = context.catalogue;
    if (catalogue.plugins().empty() && catalogue.setAside().empty()) return; // not looked for yet
    for (const Effect& effect : goneOf(context.song.effects, catalogue))
        tell(found, forSong("effect-gone", Step::Sounds), "the whole mix", 0, effect);
    for (const Part& part : context.song.parts)
        if (!part.aside)
            for (const Effect& effect : goneOf(part.mix.effects, catalogue))
                tell(found, forPart(part, "effect-gone", Step::Sounds), part.name, part.id, effect);
}

} // namespace cobbleway
