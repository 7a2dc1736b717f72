/// In which keys a song is, as a musician would name them.
#pragma once
#include "song/match/keycheck.h"

#include <functional>
#include <vector>

namespace cobbleway {

/// The lowest notes at the start and at the end of what it is given, window by window (see
/// KeyCheck::windowTicks()).
class BassEnds {
  public:
    explicit BassEnds(const Song& song) : m_length(KeyCheck::windowTicks(song)), m_shift(song.keyShift) {}
    void add(const Note& note);
    /// With the file's first signature.
    [[nodiscard]] KeyHints hints(const Song& song) const;

  private:
    struct End {
        Tick window = -1;
        int lowest = 0;
    };
    Tick m_length;
    int m_shift;
    End m_first, m_last;
};

/// The key of all pitched parts together, as the song is heard: of its notes, its bass at the start and at
/// the end, and the file's signature (see keyOf()).
MusicalKey keyOfSong(const Song& song);
MusicalKey keyOfSong(const Song& song, const std::function<KeyCheck::Melody(const Part&)>& melodyOf);

/// From where a key holds.
struct KeyStretch {
    Tick start = 0;
    MusicalKey key;
    bool operator==(const KeyStretch&) const = default;
};

/// The keys of a song one after the other, as it is heard, the first at tick 0; none for a song of drums. A
/// stretch lasts eight bars, or four where another key is told clearly.
std::vector<KeyStretch> keysBySection(const Song& song,
                                      const std::function<KeyCheck::Melody(const Part&)>& melodyOf);
std::vector<KeyStretch> keysBySection(const Song& song);

} // namespace cobbleway
