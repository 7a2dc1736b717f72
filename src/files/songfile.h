/// Songs and MIDI files on disk.
#pragma once
#include "files/atomicfile.h"
#include "song/tomidi.h"

namespace cobbleway {

/// Reads a MIDI file into a song.
Result<Song> openSong(const std::filesystem::path& path);

/// Writes a song as MIDI of type 0 or 1, by Song::midi.
Result<Done> writeSong(const Song& song, Layout layout, const std::filesystem::path& path);

/// Writes one part with the song's tempo, bars and markers as MIDI of type 1, by Song::midi.
Result<Done> writePart(const Song& song, const Part& part, const std::filesystem::path& path);

/// MIDI files in a folder and the folders in it, in order of name, at most 10 000.
std::vector<std::filesystem::path> midiFilesIn(const std::filesystem::path& folder);

/// Whether the name ends in .mid, .midi, .kar, .rmi or .smf, in any case.
bool isMidiFileName(const std::filesystem::path& path);

/// A name that any file system takes: characters that none allows become "-".
std::string fileNameFrom(const std::string& text);

} // namespace cobbleway
