/// How a part comes to its sound.
#pragma once
#include "font/catalogue.h"
#include "song/asks.h"

#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace cobbleway {

enum class How {
    Same,    ///< exactly what it asks for
    Near,    ///< the same program, another bank
    StandIn, ///< the closest thing there is
    ByHand,  ///< chosen by a person
    None     ///< nothing can play it
};

/// "same", "near", "stand-in", "by hand", "none".
std::string_view howName(How how);

struct Match {
    std::optional<SoundRef> sound; ///< none only when how is None
    How how = How::None;
    std::string why; ///< one sentence
    bool operator==(const Match&) const = default;
};

/// A part's asks with the match of each; a part with a sound chosen by hand has one.
struct PartMatch {
    PartId part = 0;
    std::vector<Ask> asks;      ///< at least one, in order of tick
    std::vector<Match> matches; ///< one an ask
    [[nodiscard]] const Match& first() const { return matches.front(); }
};

/// Where in a soundfont an ask points, by its dialect: GS takes the MSB as bank, XG the LSB (MSB 64 effects),
/// GM2 the LSB under MSB 121; GM has bank 0 alone; where no dialect is said the MSB counts.
SoundRef wishOf(const Ask& ask, Dialect dialect);

/// The sound for one ask: the same, else the same program in bank 0, else the nearest in the family, else the
/// nearest of all; a kit for drums. Fonts are asked in the catalogue's order, each wish in all fonts before
/// the next best.
Match matchAsk(const Ask& ask, Dialect dialect, const Catalogue& catalogue);

PartMatch matchPart(const Song& song, const Part& part, const Catalogue& catalogue);

/// All parts in the song's order. Deterministic.
std::vector<PartMatch> matchSong(const Song& song, const Catalogue& catalogue);

} // namespace cobbleway
