/// What is to be written of songs, and how, under a name.
#pragma once
#include "files/soundexport.h"

#include <nlohmann/json_fwd.hpp>
#include <string>
#include <vector>

namespace cobbleway {

/// How MIDI files are written.
struct MidiForm {
    bool singleTrack = false; ///< type 0, all on one track; else type 1, a track a part
    bool keepsPlace = false;  ///< a stretch stays where it is in the song; else it begins at bar 1
    bool notesOnly = false;   ///< notes, tempo, bars, names, markers and words, for another program's sounds
    bool filePerPort =
        false; ///< of a song with more than 16 channels: a file for each port, else one for all
    bool operator==(const MidiForm&) const = default;
};

/// Into which folders files are sorted.
enum class Folders { None, Song, Part };

struct Recipe {
    std::string name;
    // Which files: of the whole song, of each part, of the mixes that are kept
    bool full = true, now = false, front = false, alone = false, without = false, stems = false, kept = false;
    bool midi = false, midiHeard = false, midiParts = false;
    bool lyrics = false, drumNames = false, sheet = false;
    bool playlists = false; ///< an M3U8 file for each folder
    // How they sound
    SoundFormat format = SoundFormat::Wav24;
    int rate = 48000; ///< Hz
    Finish finish = {Level::Lufs18, true, false, 0, false};
    std::vector<double> paces = {100}; ///< percent, 25–200
    int key = 0;                       ///< semitones, −12 to 12, on top of the song's
    int firstBar = 0, lastBar = 0;     ///< from 1; 0: from the beginning, to the end
    bool sections = false;             ///< each section in a file of its own
    MidiForm midiForm = {};
    // Where they go
    std::string
        names; ///< a pattern of {set} {n} {song} {part} {mix} {pace}; empty: as exportItems() names them
    Folders folders = Folders::None;
    bool operator==(const Recipe&) const = default;
};

nlohmann::json recipeJson(const Recipe& recipe);
/// Members that are missing are as in a new recipe; an error says which has a value that cannot be.
Result<Recipe> recipeFrom(const nlohmann::json& json, const std::string& where);

Result<Recipe> readRecipe(const std::filesystem::path& path);
Result<Done> writeRecipe(const Recipe& recipe, const std::filesystem::path& path);

/// The recipes that ship, in order of name.
std::vector<Recipe> shippedRecipes();

/// "mixed", "peak", "-16", "-18", "-23".
const char* levelId(Level level);
std::optional<Level> levelOfId(const std::string& id);

} // namespace cobbleway
