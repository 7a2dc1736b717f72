/// What a sound file says of itself, by TagLib.
#pragma once
#include "files/soundformat.h"

#include <string>
#include <vector>

namespace cobbleway {

/// A place in a sound file with a name.
struct SoundChapter {
    double seconds = 0; ///< from the file's beginning
    std::string title;
    bool operator==(const SoundChapter&) const = default;
};

/// Empty and 0 for what a file does not say.
struct SoundTags {
    std::string title, artist, album, comment, copyright;
    int track = 0;
    int bpm = 0;     ///< beats a minute where it begins
    std::string key; ///< "F#m": as ID3v2.4 has it (TKEY, 4.2.1)
    std::string words;
    std::vector<SoundChapter> chapters; ///< in order of time
    bool operator==(const SoundTags&) const = default;
};

/// Writes tags into a sound file that is finished, as its format holds them: ID3v2.4 in MP3 and WAV, there
/// beside INFO; Vorbis comments in FLAC, Ogg Vorbis and Opus. Chapters are frames of ID3v2 (CHAP, CTOC) in
/// MP3, comments CHAPTER001 and CHAPTER001NAME in the three others (common practice, no source), and cue
/// points with labels in WAV (RIFF: cue, adtl labl; from memory). `seconds`: how long the file is; `rate` in
/// Hz. False when the disk takes no more.
bool writeTags(int descriptor, SoundFormat format, const SoundTags& tags, double seconds, int rate);

} // namespace cobbleway
