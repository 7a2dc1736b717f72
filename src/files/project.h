/// A set of songs in one project file: JSON, described in docs/project-format.md.
#pragma once
#include "files/atomicfile.h"
#include "files/filememory.h"
#include "files/recipe.h"
#include "song/model/song.h"

#include <set>

namespace cobbleway {

/// How loud a file's music is with the sounds that it asks for.
struct SongLoudness {
    std::uint64_t file = 0;            ///< fileDigest()
    double lufs = -120, peakDb = -120; ///< as in Measured
    bool operator==(const SongLoudness&) const = default;
};

/// Which files of a song were ticked to be written, by keyOf() of exports.h.
struct SongTicks {
    std::uint64_t file = 0; ///< fileDigest()
    std::set<std::string> ticked;
    bool operator==(const SongTicks&) const = default;
};

/// FNV-1a, 64 bits, of a file's bytes.
std::uint64_t fileDigest(const SourceFile& file);

/// Several songs kept together. A value.
struct SongSet {
    std::string name;
    std::vector<Shared<Song>> songs;
    std::vector<std::string> fontOrder; ///< ids of fonts that serve first; empty: the person's default font
    std::vector<Recipe> recipes;        ///< for writing files, kept with the set
    std::vector<SongLoudness> loudness; ///< of songs that were measured, as they were when saved
    std::vector<SongTicks> ticks;       ///< of songs where they were changed, as they were when saved
    std::vector<FontMemory> fonts;      ///< those that sounds were chosen from, as they were when saved
    std::vector<FileMemory> files;      ///< of plug-ins, the same
    bool operator==(const SongSet&) const = default;
};

inline constexpr int projectVersion = 7;
inline constexpr const char* projectEnding = ".cobbleway";

/// Whether a file is a project by its ending, in small letters or capitals.
bool isProject(const std::filesystem::path& path);

/// The set with what is to be remembered of the fonts that it uses; those not in the catalogue stay as
/// remembered before.
SongSet rememberFonts(SongSet set, const Catalogue& catalogue);

/// The set with what is to be remembered of the files that its plug-ins use; those that are gone stay as
/// remembered before.
SongSet rememberFiles(SongSet set);

/// The set as JSON text. The source MIDI files are inside, so that a project needs no other file but what
/// plug-ins were given.
/// Files that songs were read from are named from `folder` on when they lie there or below; by their whole
/// path otherwise.
std::string projectText(const SongSet& set, const std::filesystem::path& folder = {});

/// Reads a project from text; nothing is taken from one that is damaged or of a later version.
Result<SongSet> parseProject(const std::string& text, const std::string& where);

Result<Done> saveProject(const SongSet& set, const std::filesystem::path& path,
                         Readers readers = Readers::Usual);
/// Files of plug-ins that have moved with the project, or are in another place near it, are used from there.
Result<SongSet> openProject(const std::filesystem::path& path);

} // namespace cobbleway
