/// Which parts are rendered together.
#pragma once
#include "font/catalogue.h"
#include "song/derived.h"
#include "song/match/match.h"

#include <cstdint>
#include <vector>

namespace cobbleway {

/// Deals a song's parts out to `shares` that have about as much to synthesise: by how long their notes last
/// and how many samples sound on their keys. Gives the share of each part, in the song's order, 0-based; all
/// 0 where the parts cannot be dealt out, since what goes through one MIDI port is one instrument's.
std::vector<std::uint8_t> dealParts(const Song& song, const Catalogue& catalogue,
                                    const std::vector<PartMatch>& matches, Derived& derived, int shares);

} // namespace cobbleway
