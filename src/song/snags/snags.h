/// What a person should know or decide about a song, and the fixes for it.
#pragma once
#include "song/heard/realise.h"
#include "song/match/match.h"
#include "song/model/song.h"
#include "words/message.h"

#include <functional>
#include <memory>
#include <string>
#include <vector>

namespace cobbleway {

/// The steps of the work, in order; each is a page.
enum class Step { Songs, Parts, Sounds, Drums, Practice, Export };

/// One remedy. `apply` is an edit.
struct Fix {
    Message label;     ///< a verb: "Shift up an octave"; its id is the same for all fixes of one kind
    bool safe = false; ///< changes nothing that anyone would miss; taken by fixAllSafe()
    std::function<Song(const Song&)> apply;
};

class Derived;
struct DrumView;

struct Snag {
    std::string kind; ///< stable word, as in the command line's output: "no-notes"
    std::string key;  ///< kind and place; names it in Song::settled
    Step step = Step::Parts;
    PartId part = 0;        ///< 0 when it concerns the whole song
    Tick place = 0;         ///< where to look first
    bool serious = false;   ///< something does not sound
    bool asked = true;      ///< a person has to decide; else it is good to know, and not counted
    Message pill;           ///< two or three words for a part's row
    Message what;           ///< one sentence of what is so
    Message why;            ///< one sentence of why it matters
    std::vector<Fix> fixes; ///< the last one leaves things as they are
    int rank = 0;           ///< of its kind, for the order
};

/// What the snags of one part are found in. Of the part's mix only the effects count: they are looked for
/// anew when one of these has changed, and no level is among them.
struct PartContext {
    const SongFrame& song;
    const Part& part;
    const PartMatch& match;
    const HeardPart& heard;
    const std::function<const PartTraits&()>& traits;       ///< traitsOf() what is heard
    std::function<std::shared_ptr<const DrumView>()> drums; ///< of a drum part: its notes and its kit
    const Catalogue& catalogue;
};

/// What the snags of a whole song are found in; levels do not count here either.
struct SongContext {
    const Song& song;
    const std::vector<PartMatch>& matches; ///< in the order of the parts
    const Catalogue& catalogue;
    Derived& derived; ///< has what else follows from the parts
};

/// All snags that are not settled: what is asked before what is good to know, by step and kind, then in order
/// of parts. Derived keeps what it finds.
std::vector<Snag> findSnags(const Song& song, const Catalogue& catalogue);

/// How many are asked.
std::size_t askedCount(const std::vector<Snag>& snags);

/// Applies the first safe fix of every snag, again until none is left to take.
Song fixAllSafe(const Song& song, const Catalogue& catalogue);

} // namespace cobbleway
