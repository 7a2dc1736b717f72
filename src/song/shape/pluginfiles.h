/// The files that plug-ins of a song were given: samples, kits, impulse responses.
#pragma once
#include "song/model/song.h"

#include <map>
#include <set>
#include <string>

namespace cobbleway {

/// The files that settings name, by their whole path: those that were chosen, and those that the plug-in's
/// own state names as URIs (file:, RFC 8089), as LV2 writes paths. What it keeps in another way is not seen.
std::set<std::string> pluginFilesOf(const PluginSettings& settings);
/// Those of all instruments and effects of a song.
std::set<std::string> pluginFilesOf(const Song& song);

/// The settings with files at other places; those that are not named stay.
PluginSettings withFilesAt(PluginSettings settings, const std::map<std::string, std::string>& moved);

namespace edits {

/// Gives the song's plug-ins their files from other places.
Song movePluginFiles(Song song, const std::map<std::string, std::string>& moved);

} // namespace edits
} // namespace cobbleway
