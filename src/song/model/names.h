/// What names in files say, and what songs and parts are called when they say nothing.
#pragma once
#include "song/model/asks.h"
#include "song/model/song.h"

#include <string>

namespace cobbleway {

/// Whether a name tells nothing of the music: words for tracks, channels, staves and ports with numbers, in
/// the common languages ("MIDI Ch. 2", "Spur 3", "untitled"), numbers alone, rights and advertisement ("©
/// 1998", "sequenced by …"), addresses. Common practice, no source.
bool saysNothing(const std::string& name);

/// The name that the file gives a part: its track's name, else its instrument's; empty where it has neither.
std::string nameInFile(const Song& song, const Part& part);

/// What parts are called after opening.
class FirstNames {
  public:
    explicit FirstNames(const Song& song); ///< its parts and conductor are there; lives as long as this
    struct Name {
        std::string name;
        bool given = false; ///< it is the file's
    };
    /// The file's name where it says something that is not the song's or the file's own name; else what
    /// plays, by what the part asks for first.
    [[nodiscard]] Name of(const Part& part, const Ask& ask) const;

  private:
    const Song& m_song;
    std::string m_stem, m_title;
    bool m_single; ///< of a song of one part the song's name is as good as any
};

/// The song's title: the name of the first track where that is the song's, else the file's name made
/// readable.
std::string titleOf(const Song& song);
/// A title from a file name: "lantern_quay.mid" → "Lantern Quay".
std::string titleFromFileName(const std::string& fileName);

} // namespace cobbleway
