/// A set of songs in one project file: JSON, described in docs/project-format.md.
#pragma once
#include "files/atomicfile.h"
#include "song/song.h"

namespace cobbleway {

/// Several songs kept together. A value.
struct SongSet {
    std::string name;
    std::vector<Shared<Song>> songs;
    bool operator==(const SongSet&) const = default;
};

inline constexpr int projectVersion = 2;
inline constexpr const char* projectEnding = ".cobbleway";

/// The set as JSON text. The source MIDI files are inside, so that a project needs no other file.
std::string projectText(const SongSet& set);

/// Reads a project from text; nothing is taken from one that is damaged or of a later version.
Result<SongSet> parseProject(const std::string& text, const std::string& where);

Result<Done> saveProject(const SongSet& set, const std::filesystem::path& path);
Result<SongSet> openProject(const std::filesystem::path& path);

} // namespace cobbleway
