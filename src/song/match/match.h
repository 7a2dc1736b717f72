/// How a part comes to its sound.
#pragma once
#include "font/catalogue.h"
#include "song/match/evidence.h"
#include "song/match/instruments.h"
#include "song/model/asks.h"
#include "words/message.h"

#include <functional>
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
    Message why; ///< one sentence
    bool operator==(const Match&) const = default;
};

/// A part's asks with the match of each; a part with a sound chosen by hand has one.
struct PartMatch {
    PartId part = 0;
    std::vector<Ask> asks;        ///< at least one, in order of tick
    std::vector<Match> matches;   ///< one an ask
    std::vector<Match> stretches; ///< one a stretch with a sound of its own (Part::stretches)
    std::vector<Match> layers;    ///< one a layer
    [[nodiscard]] const Match& first() const { return matches.front(); }
    bool operator==(const PartMatch&) const = default;
};

/// Where in a soundfont an ask points, by its dialect: GS takes the MSB as bank, XG the LSB (MSB 64 effects,
/// 126 and 127 kits), GM2 the LSB under MSB 121 (120: kits); GM has bank 0 alone; where no dialect is said
/// the MSB counts.
SoundRef wishOf(const Ask& ask, Dialect dialect);

/// A sound's bank and program as a file of a dialect says them: wishOf() reads back the same wherever the
/// dialect can say it. GM knows no banks, and only XG and GM2 a kit on a pitched channel; there what comes
/// nearest is said.
Ask askFor(const SoundRef& sound, Dialect dialect, bool drums);

/// Where else to look, in order, when the wish is not there. For kits their published parents: of the same
/// group of eight its first (GS, GM2), the jazz kit for brushes, at last the standard kit. For others the
/// sub-capital tone (GS: the variation that is the next lower multiple of eight), then the capital tone, bank
/// 0.
std::vector<SoundRef> fallbacksOf(const SoundRef& wish, Dialect dialect);

/// The sound for one ask: the same, else its fallbacks, else the stand-in that is least far (farness()), with
/// the keys of `notes` in what it plays when they are given; a kit for drums. Fonts are asked in the
/// catalogue's order, each wish in all fonts before the next best.
Match matchAsk(const Ask& ask, Dialect dialect, const Catalogue& catalogue,
               const KeyWeights* notes = nullptr);

/// A sound that could play a part, with what speaks for it.
struct RankedSound {
    SoundRef sound;
    double points = 0; ///< see Guess
    Message why;       ///< one sentence
    bool operator==(const RankedSound&) const = default;
};

/// Sounds that could play a part, likeliest first, each once. See guessesOf().
std::vector<RankedSound> rankedSounds(const Song& song, const Part& part, const Catalogue& catalogue,
                                      std::size_t most = 6);

/// The catalogue in the order of fonts that a song wants.
Catalogue catalogueFor(const Song& song, const Catalogue& catalogue);

/// `asks` as of asksOf(), `catalogue` in the order that the song wants (catalogueFor()); `traits` is called
/// when the notes are needed, and gives traitsOf() them.
PartMatch matchPart(const SongFrame& song, const Part& part, std::vector<Ask> asks,
                    const Catalogue& catalogue, const std::function<const PartTraits&()>& traits);
PartMatch matchPart(const Song& song, const Part& part, const Catalogue& catalogue);

/// All parts in the song's order, with the song's own order of fonts. Deterministic. Derived keeps what it
/// finds.
std::vector<PartMatch> matchSong(const Song& song, const Catalogue& catalogue);

} // namespace cobbleway
