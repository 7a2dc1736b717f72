/// Which parts are rendered together.
#pragma once
#include "font/catalogue.h"
#include "song/derived.h"
#include "song/match/match.h"

#include <bitset>
#include <cstdint>
#include <vector>

namespace cobbleway {

/// Keys, by number 0–127.
using KeySet = std::bitset<128>;

/// How the parts of a song are dealt out.
struct Dealt {
    /// Keys of a part that another share than the part's own plays.
    struct Keys {
        std::size_t part = 0; ///< 0-based, in the song's order
        std::uint8_t share = 0;
        KeySet keys;
    };
    std::vector<std::uint8_t>
        shares;             ///< of each part, in the song's order, 0-based; noShare: it never sounds
    std::vector<Keys> keys; ///< empty where every part is played by one share
};

/// Deals a song's parts out to `shares` that have about as much to synthesise: by how long their notes last
/// and how many samples sound on their keys. Where one part has more to do than its share should, its keys
/// are dealt out, if it has sounds of fonts alone and no layers: those of an exclusive class stay together
/// (SoundFont 2.04, 8.1.2, generator 57), and a part that is played mono or glides stays whole. All is in
/// share 0 where parts cannot be dealt out, since what goes through one MIDI port is one instrument's.
Dealt dealParts(const Song& song, const Catalogue& catalogue, const std::vector<PartMatch>& matches,
                Derived& derived, int shares);

} // namespace cobbleway
