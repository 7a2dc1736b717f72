/// A song in a few facts, for lists of thousands; and finding songs by words.
#pragma once
#include "song/heard/realise.h"
#include "song/model/song.h"

#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace cobbleway {

struct SongSummary {
    std::string key;         ///< "G major"; empty where no pitched note sounds
    double bpm = 120;        ///< the first tempo
    double seconds = 0;      ///< length
    std::uint64_t music = 0; ///< the same for songs whose notes are the same; 0 where there are none
    std::string words;       ///< all that is searched, folded as plainWords(), and as it is for other scripts
    std::string players;     ///< of these the names of parts and what plays them
    bool operator==(const SongSummary&) const = default;
};

/// `heard` gives what realise() does of each part that is not aside.
///
/// Music is the same when the same keys begin at the same places, counted in quarters from the first note to
/// a 96th, drums apart; whatever their tracks, channels, sounds, loudness and lengths.
SongSummary summaryOf(const Song& song,
                      const std::function<std::shared_ptr<const HeardPart>(const Part&)>& heard);

/// What somebody looks for. Words must all be there, each at the start of a word: of the title, the file's
/// name, the words to sing, parts, instruments, key and dialect. "has a tenor" looks at parts and instruments
/// alone. "key d minor", "tempo 90-110", "faster than 100", "slower than 100", "length 2:00-3:30", "shorter
/// than 3:00", "longer than 90" (seconds, or minutes:seconds) look at one fact.
class SongSearch {
  public:
    explicit SongSearch(const std::string& text);
    [[nodiscard]] bool matches(const SongSummary& song) const;
    [[nodiscard]] bool isEmpty() const { return m_tests.empty(); }

  private:
    std::vector<std::function<bool(const SongSummary&)>> m_tests;
};

} // namespace cobbleway
