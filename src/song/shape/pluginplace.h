/// Where in a song a plug-in is, and how it is set there.
#pragma once
#include "song/model/song.h"

namespace cobbleway {

/// The sound of a part, a layer of one, or an effect.
struct PluginPlace {
    PartId part = 0; ///< 0: the whole mix, which has effects alone
    int layer = -1;  ///< 0-based; −1: no layer
    int effect = -1; ///< 0-based, in the order in which they work; −1: no effect
    bool operator==(const PluginPlace&) const = default;
};

/// How the plug-in there is set; null when there is no such place.
const PluginSettings* settingsAt(const Song& song, const PluginPlace& place);

namespace edits {

/// Sets the plug-in there; the song as it is when there is no such place.
Song setSettingsAt(Song song, const PluginPlace& place, const PluginSettings& settings);

} // namespace edits
} // namespace cobbleway
