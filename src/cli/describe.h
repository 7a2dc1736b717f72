/// Facts as JSON and as text, for the command line.
#pragma once
#include "cli/ground.h"
#include "files/pluginscan.h"
#include "song/snags/snags.h"

#include <string>

namespace cobbleway::cli {

/// Tracks, channels, programs and part indexes from 1; ports, banks and keys from 0.
Json inspectJson(const std::string& file, const Song& song, const Catalogue& catalogue);
std::string inspectText(const Json& facts);

/// Bank and program as in the font, from 0; part indexes from 1.
Json matchJson(const Song& song, const Catalogue& catalogue, bool all);
std::string matchText(const Json& parts);

/// Of each kit: what sounds on each key.
Json fontKeysJson(const SoundFont& font);
std::string fontKeysText(const Json& kits);
/// LV2 instruments and effects with their state.
Json instrumentsJson(const PluginScan& scan);
std::string instrumentsText(const Json& list);
Json fontJson(const SoundFont& font);
std::string fontText(const SoundFont& font);

/// Sections with their first and last bar, from 1, and where they are in seconds.
Json sectionsJson(const Song& song);
std::string sectionsText(const Json& sections);

/// A message as data: its id, and what it names.
Json messageJson(const Message& message);

/// m:ss.
std::string timeText(double seconds);

} // namespace cobbleway::cli
