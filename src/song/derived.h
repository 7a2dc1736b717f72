/// What follows from songs, kept as long as what it follows from stays the same: the one such store, for the
/// window, the planner and the command line.
#pragma once
#include "song/drums/drumnotes.h"
#include "song/heard/barprint.h"
#include "song/heard/controllers.h"
#include "song/heard/facts.h"
#include "song/heard/lyrics.h"
#include "song/heard/notes.h"
#include "song/heard/overview.h"
#include "song/match/evidence.h"
#include "song/match/keycheck.h"
#include "song/match/match.h"
#include "song/match/songsummary.h"
#include "song/snags/snags.h"

#include <memory>
#include <set>

namespace cobbleway {

/// A drum part looked into.
struct DrumView {
    PartKit kit;
    std::shared_ptr<const DrumHits> hits;
    std::vector<DrumNote> notes; ///< those used
};

/// What Derived keeps, a slot each. What goes through all of them (its tests) does not compile without a row
/// for every one.
enum class Finding {
    Heard,
    Facts,
    Overview,
    Histogram,
    Density,
    Traits,
    Origins,
    Volume,
    Melody,
    Match,
    PartSnags,
    DrumHits,
    BarPrints,
    Drums,
    Matches,
    Snags,
    Lyrics,
    Summary
};
inline constexpr int findings = static_cast<int>(Finding::Summary) + 1;

/// Gives what pure functions give, and works out again only what has changed: each result is kept with the
/// values it was made of (a part's source and recipe for its notes; its sound, its name and the catalogue too
/// for its match) and is given again while they are equal. The last two results for a part are kept, so that
/// a song and a variation of it, with a sound that is tried, do not drive each other out.
///
/// May be asked from several threads at a time. What it gives lives as long as somebody holds it.
class Derived {
  public:
    Derived();
    ~Derived();
    Derived(const Derived&) = delete;
    Derived& operator=(const Derived&) = delete;

    template <class T> using Kept = std::shared_ptr<const T>;

    // Of a part of the song
    Kept<HeardPart> heard(const Song& song, const Part& part); ///< realise()
    Kept<Overview> overview(const Song& song, const Part& part);
    Kept<std::array<int, 128>> histogram(const Song& song, const Part& part); ///< histogramOf()
    Kept<Density> density(const Song& song, const Part& part);
    Kept<PartTraits> traits(const Song& song, const Part& part);
    Kept<PartFacts> facts(const Song& song, const Part& part);
    Kept<std::vector<OriginCount>> origins(const Song& song, const Part& part);
    /// The volume controller along the song as it is heard; empty when it does not move.
    Kept<std::vector<ControlPoint>> volume(const Song& song, const Part& part);
    KeyCheck::Melody melody(const Song& song, const Part& part);
    Kept<DrumHits> drumHits(const Song& song, const Part& part);
    Kept<BarPrints> barPrints(const Song& song, const Part& part, Tick from, Tick to);
    Kept<DrumView> drums(const Song& song, const Part& part, const Catalogue& catalogue); ///< drumNotesOf()

    // Of a song
    Kept<std::vector<PartMatch>> matches(const Song& song, const Catalogue& catalogue); ///< matchSong()
    Kept<std::vector<Snag>> snags(const Song& song, const Catalogue& catalogue);        ///< findSnags()
    Kept<std::vector<LyricLine>> lyrics(const Song& song);                              ///< lyricLines()
    Kept<SongSummary> summary(const Song& song);                                        ///< summaryOf()

    /// Forgets what was found of other songs than those of these files: another set is open.
    void keepOnly(const std::set<const SourceFile*>& files);

  private:
    struct Store;
    std::unique_ptr<Store> m_store;
};

} // namespace cobbleway
