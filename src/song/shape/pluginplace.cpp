#include "song/shape/pluginplace.h"

#include "song/shape/edits.h"

namespace cobbleway {
namespace {

/// `list[index]`; null where there is none.
template <class List> auto* at(List& list, int index) {
    return index >= 0 && static_cast<std::size_t>(index) < list.size()
               ? &list[static_cast<std::size_t>(index)]
               : nullptr;
}

} // namespace

const PluginSettings* settingsAt(const Song& song, const PluginPlace& place) {
    const Part* part = song.part(place.part);
    if (place.part != 0 && !part) return nullptr;
    if (place.effect >= 0) {
        const auto* effect = at(part ? part->mix.effects : song.effects, place.effect);
        return effect ? &effect->settings : nullptr;
    }
    if (!part) return nullptr;
    if (place.layer < 0) return &part->sound.settings;
    const auto* layer = at(part->sound.layers, place.layer);
    return layer ? &layer->settings : nullptr;
}

namespace edits {

Song setSettingsAt(Song song, const PluginPlace& place, const PluginSettings& settings) {
    if (!settingsAt(song, place)) return song;
    const Part* part = song.part(place.part);
    if (place.effect >= 0) {
        auto effects = part ? part->mix.effects : song.effects;
        at(effects, place.effect)->settings = settings;
        return setEffects(std::move(song), place.part, effects);
    }
    if (place.layer < 0) return setSettings(std::move(song), place.part, settings);
    Layer layer = *at(part->sound.layers, place.layer);
    layer.settings = settings;
    return setLayer(std::move(song), place.part, static_cast<std::size_t>(place.layer), layer);
}

} // namespace edits
} // namespace cobbleway
