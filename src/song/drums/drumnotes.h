/// The notes that a drum part uses: what they are called, what they play, and whether they sound.
#pragma once
#include "midi/percussion.h"
#include "song/drums/kit.h"
#include "song/match/match.h"
#include "words/message.h"

#include <vector>

namespace cobbleway {

/// How often each key of a part is struck at which velocity.
struct DrumHits {
    using Velocities = std::array<int, 128>;
    std::array<Velocities, 128> before{}; ///< as the file says, by incoming key
    std::array<Velocities, 128> after{};  ///< by incoming key, after the recipe; those left out are not in it
    std::array<int, 128> counts{};        ///< by incoming key
    bool operator==(const DrumHits&) const = default;
};
DrumHits drumHitsOf(const SongEvents& events, const PartSource& source, const PartRecipe& recipe);

/// Where the name of a drum note comes from; the earlier is trusted more.
enum class NameFrom { Person, Kit, Dialect, None };
/// "person", "kit", "dialect", "none".
std::string_view nameFromWord(NameFrom from);

/// A key that a drum part uses.
struct DrumNote {
    Key key; ///< incoming
    std::string name;
    NameFrom from = NameFrom::None;
    DrumPiece piece = DrumPiece::Other;
    int hits = 0;
    int lowestVelocity = 0, highestVelocity = 0; ///< as the file has them, 1–127; 0 without hits
    int silent = 0;                              ///< hits that the kit does not sound; 0 when left out
    Key plays;                                   ///< the key that it plays
    std::string playsName;                       ///< the kit's or the dialect's name for that
    bool off = false;
    VelocityShape trim;
    std::optional<InsteadOf> instead; ///< for silent ones
    bool operator==(const DrumNote&) const = default;
};

/// The kit that plays a part, looked into.
struct PartKit {
    std::optional<SoundRef> sound; ///< as matched; none when nothing plays the part
    KitKeys keys;                  ///< known only for a preset of a soundfont
    bool isKit = true;             ///< false for a preset that is none: drums on a melodic sound
};
PartKit partKitOf(const PartMatch& match, const Catalogue& catalogue);

/// The dialect's kit that a part asks for.
const PercussionKit& askedKit(const PartMatch& match);

/// All keys that a part uses, ascending; with `all`, all 128.
std::vector<DrumNote> drumNotesOf(const Part& part, const PartMatch& match, const PartKit& kit,
                                  const DrumHits& hits, bool all = false);
std::vector<DrumNote> drumNotesOf(const SongFrame& song, const Part& part, const PartMatch& match,
                                  const Catalogue& catalogue);

/// The kits of all fonts and how many of a part's hits each sounds, most first; of equal ones in the order of
/// the fonts. `hits` after the recipe.
struct KitFit {
    SoundRef sound;
    std::string font; ///< its name
    int sounding = 0;
    bool operator==(const KitFit&) const = default;
};
std::vector<KitFit> kitsFor(const Part& part, const DrumHits& hits, const Catalogue& catalogue);

/// The bars in which a key is struck, as runs from first to last, 1-based; a bar without it does not end one.
std::vector<std::pair<int, int>> barRunsOf(const SongFrame& song, const PartSource& source, Key key);

/// A kit that would suit the style of a part, by its tempo and the notes it uses: only a hint.
struct KitHint {
    Program program;
    Message why; ///< one sentence
};
std::optional<KitHint> kitHintFor(const SongFrame& song, const Part& part, const DrumHits& hits);

} // namespace cobbleway
