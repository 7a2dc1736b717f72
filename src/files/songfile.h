/// Songs and MIDI files on disk.
#pragma once
#include "files/atomicfile.h"
#include "song/out/midiorder.h"

namespace cobbleway {

/// Reads a MIDI file into a song. A file without a single note is an error.
Result<Song> openSong(const std::filesystem::path& path);

/// The same of a file's bytes, which are of no place on a disk.
Result<Song> songOfBytes(std::vector<std::uint8_t> bytes, const std::string& name);

/// Writes a song, or what an order takes of it, as MIDI, by Song::midi. An error when the part that it names
/// is not there.
Result<Done> writeSong(const Song& song, const MidiOrder& order, const std::filesystem::path& path);

/// All MIDI files in a folder and the folders in it, however many, in the order of file managers: folder by
/// folder, names by letters whatever their size, numbers by their value ("2" before "10"). Links to folders
/// are not followed. `unread` gets folders that could not be looked into.
std::vector<std::filesystem::path> midiFilesIn(const std::filesystem::path& folder,
                                               std::vector<Error>* unread = nullptr);

/// Whether the name ends in .mid, .midi, .kar, .rmi or .smf, in any case.
bool isMidiFileName(const std::filesystem::path& path);

/// A name that any file system takes, of at most `most` bytes, cut at a whole letter: characters that some do
/// not allow become "-", and so do names that some keep for devices.
std::string fileNameFrom(const std::string& text, std::size_t most = 120);

/// Whether a file is the one that a song was read from: by its place, though it has changed since, or by its
/// bytes.
bool isSourceOf(const Song& song, const std::filesystem::path& path);

/// What has become of a song's file since it was read. Unknown where nobody knows its place; Same is said by
/// time and size, and where these differ by the bytes.
enum class OnDisk { Unknown, Same, Changed, Gone };
OnDisk stateOnDisk(const SourceFile& source);

/// The path, or with a number after the name ("Song 2.mid") when something is there already.
std::filesystem::path freePath(const std::filesystem::path& path);

} // namespace cobbleway
