/// What a person should know or decide about a song, and the mends for it.
#pragma once
#include "song/match.h"
#include "song/realise.h"
#include "song/song.h"

#include <functional>
#include <map>
#include <string>
#include <vector>

namespace cobbleway {

/// The steps of the work, in order; each is a page.
enum class Step { Songs, Parts, Sounds, Practice, Export };

/// One remedy. `apply` is an edit.
struct Mend {
    std::string label; ///< a verb: "Shift up an octave"
    bool safe = false; ///< changes nothing that anyone would miss; taken by mendAllSafe()
    std::function<Song(const Song&)> apply;
};

struct Snag {
    std::string kind; ///< stable word, as in the command line's output: "no-notes"
    std::string key;  ///< kind and place; names it in Song::settled
    Step step = Step::Parts;
    PartId part = 0;         ///< 0 when it concerns the whole song
    Tick place = 0;          ///< where to look first
    bool serious = false;    ///< something does not sound
    std::string pill;        ///< two or three words for a part's row
    std::string what;        ///< one sentence of what is so
    std::string why;         ///< one sentence of why it matters
    std::vector<Mend> mends; ///< the last one leaves things as they are
};

/// What snags are found in. Holds references: it lives no longer than what it was made of.
class SnagContext {
  public:
    SnagContext(const Song& of, const Catalogue& sounds, const std::vector<PartMatch>& found)
        : song(of), catalogue(sounds), matches(found) {}
    const Song& song;
    const Catalogue& catalogue;
    const std::vector<PartMatch>& matches; ///< matchSong() of the two
    /// realise() of a part of the song, done once.
    [[nodiscard]] const Line& line(const Part& part) const;

  private:
    mutable std::map<PartId, Line> m_lines;
};

/// All snags that are not settled, by step, then in order of parts.
std::vector<Snag> findSnags(const SnagContext& context);

/// Applies the first safe mend of every snag, again until none is left to take.
Song mendAllSafe(const Song& song, const Catalogue& catalogue);

} // namespace cobbleway
