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

void tell(snags::Found& found, Snag snag, const Message& on, PartId part, const Effect& effect) {
    snag.key += " " + effect.uri;
    snag.pill = {"effect-gone.pill", {{"effect", effect.name}}};
    snag.what = {"effect-gone.what", {{"effect", effect.name}, {"on", on}}};
    snag.why = {"effect-gone.why"};
    snag.fixes.push_back({{"fix.remove-effect"}, false, [part, uri = effect.uri](const Song& song) {
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
        tell(found, forSong("effect-gone", Step::Sounds), {"mix.whole"}, 0, effect);
    for (const Part& part : context.song.parts)
        if (!part.aside)
            for (const Effect& effect : goneOf(part.mix.effects, catalogue))
                tell(found, forPart(part, "effect-gone", Step::Sounds), Message::verbatim(part.name), part.id,
                     effect);
}

} // namespace cobbleway
