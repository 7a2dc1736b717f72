/// The four values of a part as JSON, each by itself. docs/project-format.md tells of the members.
#pragma once
#include "song/model/song.h"

#include <algorithm>
#include <nlohmann/json.hpp>

namespace cobbleway {

// Written: only what differs from a part that was never touched, but for the identity and the source.
nlohmann::json identityJson(const PartIdentity& identity);
nlohmann::json sourceJson(const PartSource& source);
nlohmann::json recipeJson(const PartRecipe& recipe);
nlohmann::json soundJson(const PartSound& sound);
nlohmann::json mixJson(const PartMix& mix);
nlohmann::json effectsJson(const std::vector<Effect>& effects);

constexpr Tick farthest = Tick{1} << 41; ///< no tick of a song lies beyond
inline Tick tickFrom(const nlohmann::json& j) { return std::clamp<Tick>(j.get<Tick>(), 0, farthest); }

const char* roleName(Role role); ///< "lead", "back", "off"
Role roleNamed(const std::string& name);

// Read: numbers are held within their ranges. They throw nlohmann::json::exception where a member has the
// wrong type or one that must be there is missing.
PartIdentity identityFrom(const nlohmann::json& j);
PartSource sourceFrom(const nlohmann::json& j, const SongEvents& events);
PartRecipe recipeFrom(const nlohmann::json& j);
PartSound soundFrom(const nlohmann::json& j);
PartMix mixFrom(const nlohmann::json& j);
std::vector<Effect> effectsFrom(const nlohmann::json& j);

/// Names of events as text: for each run in one track the track + 1 (0 for made events) and how many runs of
/// it follow, then of each run how far it begins after the end of the one before in that track and how many
/// events it has; all as unsigned LEB128 (the step forward or back doubled, plus 1 when back), in base64.
std::string eventNames(const EventRefs& refs);
/// Each event once, in order of tick; those that the song does not have are left out. None when the text is
/// damaged.
std::optional<std::vector<EventRef>> eventsNamed(std::string_view text, const SongEvents& events);
/// As they were named up to version 3: runs [track or −1, first index, count].
std::vector<EventRef> eventsInRuns(const nlohmann::json& j, const SongEvents& events);

} // namespace cobbleway
