/// Everything that can be written of songs, and the writing of it in one go.
#pragma once
#include "files/recipe.h"
#include "files/songfile.h"

#include <functional>
#include <set>
#include <string>
#include <vector>

namespace cobbleway {

struct ExportItem {
    enum class Kind {
        Midi,      ///< the whole song, silent parts as well
        MidiHeard, ///< what is heard of it as it stands on Practice now
        MidiPart,
        Full, ///< the whole band as it is levelled, whoever stands in front or is off
        Now,  ///< as it stands on Practice now
        Front,
        Alone,
        Without,
        Stem,
        Kept,   ///< a mix that is kept with the song
        Timed,  ///< the words with their times (LRC)
        Lyrics, ///< the words as text
        DrumNames,
        Sheet ///< the part sheet (HTML)
    };
    Kind kind = Kind::Full;
    PartId part = 0;      ///< for MidiPart, Front, Alone, Without, Stem and DrumNames
    std::string label;    ///< for people: "Clarinets in front"
    std::string fileName; ///< under the folder; may have folders of its own
    std::string mix = {}; ///< for Kept: its name
    double pace = 100;    ///< of sound files: percent
    int section =
        -1; ///< of sound and MIDI files: its number in the song, from 0; −1: the stretch of the options
    int port = -1; ///< of MIDI files of all parts: this port alone, from 0; −1: all
    [[nodiscard]] bool isMidi() const { return kind <= Kind::MidiPart; }
    [[nodiscard]] bool isSound() const { return kind >= Kind::Full && kind <= Kind::Kept; }
    bool operator==(const ExportItem&) const = default;
};

/// What tells an item from others of its song, whatever it is called: "front 3", "midi", "kept Evening".
std::string keyOf(const ExportItem& item);

/// All items of a song: MIDI of the whole and of what is heard, the whole song and the song as it stands on
/// Practice now, its kept mixes, and of each part that has notes itself in front, alone, all but it, and as a
/// stem; words and drum names where there are any; the part sheet. File names are unlike each other.
std::vector<ExportItem> exportItems(const Song& song, SoundFormat format = SoundFormat::Wav24);

/// Which items a recipe asks for, of the parts named alone, or of all when there are none.
std::function<bool(const ExportItem&)> wantedBy(const Recipe& recipe, const std::vector<PartId>& only = {});

/// The items of a song that are wanted, at the paces and stretches of a recipe and with the names it gives
/// them. `number` is the song's place in the set, from 1. `taken` has the names of all items so far, in small
/// letters, so that songs of a set do not write over each other.
std::vector<ExportItem> itemsFor(const Song& song, const Recipe& recipe,
                                 const std::function<bool(const ExportItem&)>& wanted, const std::string& set,
                                 int number, std::set<std::string>& taken);

/// The song with the roles and levels of an item.
Song songFor(const Song& song, const ExportItem& item);

/// What becomes of a file that is there already. The file that the song was read from is never replaced.
enum class Existing { Replace, Number, Leave };

/// Files in a folder that items would replace.
std::vector<std::filesystem::path> alreadyThere(const std::vector<ExportItem>& items,
                                                const std::filesystem::path& folder);

struct ExportOptions {
    std::filesystem::path folder; ///< made when it is not there
    int rate = 48000;             ///< Hz
    double pace = 100;            ///< percent, on top of the items'
    std::stop_token stop;
    std::function<void(double)> progress; ///< 0–1 of the sound files
    /// Told of what is silent in the sound files, when they have been made.
    std::function<void(const Error&)> silent = {};
    Existing existing = Existing::Number;
    SoundFormat format = SoundFormat::Wav24;
    Finish finish = {};
    int firstBar = 0, lastBar = 0;                     ///< from 1; 0: from the beginning, to the end
    std::optional<std::pair<Tick, Tick>> stretch = {}; ///< instead of bars: from and to
    MidiForm midi = {};
    std::string album = {}; ///< a tag of sound files; track: the song's number in it
    int track = 0;
    Workers workers = {};
    SpoolMemory* memory = nullptr; ///< of songs that are written together; lives longer
};

struct ExportOutcome {
    std::size_t item = 0; ///< index into the items given
    bool written = false;
    std::filesystem::path path; ///< where it was written, or was to be
    Measured measured;          ///< of sound files
    Error error;                ///< why not, when not written
};

/// Writes the items; sound files of one pace and stretch from one synthesis pass. A file appears whole or not
/// at all; stopping leaves none of those that were not finished, and one that cannot be written costs no
/// other. One outcome an item, in order.
std::vector<ExportOutcome> writeExports(const Song& song, const Catalogue& catalogue,
                                        const std::vector<ExportItem>& items, const ExportOptions& options);

/// How long a sound file of an item will be, in seconds, without tail and count-in.
double secondsOf(const Song& song, const ExportItem& item, const ExportOptions& options);

/// About how many bytes items will take, with what is needed on the way.
std::uintmax_t bytesNeeded(const Song& song, const std::vector<ExportItem>& items,
                           const ExportOptions& options);

/// Why nothing could be written into a folder, before any work: it cannot be made, may not be written to, or
/// has less room than `bytes`. None when it can.
std::optional<Error> foreseen(const std::filesystem::path& folder, std::uintmax_t bytes);

/// A song with what is to be written of it.
struct SongExport {
    Song song;
    std::vector<ExportItem> items;
    int number = 1; ///< in the set
};

struct SetExportOptions {
    ExportOptions each; ///< for each song; `progress`, `silent` and `track` are set here
    int jobs = 1; ///< how many threads work: on as many songs, the longest first, then together on those left
    bool playlists = false;
    std::function<void(double)> progress = {};                       ///< 0–1, on any thread, one at a time
    std::function<void(std::size_t song, const Error&)> silent = {}; ///< the same
    /// The same, when a song's files are written or have failed.
    std::function<void(std::size_t song, const std::vector<ExportOutcome>&)> done = {};
};

/// Writes songs one beside the other; one that fails costs no other. Outcomes by song, in order; after them
/// the play lists, an M3U8 for each folder that got sound files.
struct SetOutcome {
    std::vector<std::vector<ExportOutcome>> songs;
    std::vector<ExportOutcome> playlists; ///< of each the item is 0
};
SetOutcome writeSet(const std::vector<SongExport>& songs, const Catalogue& catalogue,
                    const SetExportOptions& options);

/// The play lists in a folder that writing would replace.
std::vector<std::filesystem::path> playlistsThere(const std::vector<SongExport>& songs,
                                                  const std::filesystem::path& folder);

/// The options that a recipe gives.
ExportOptions optionsOf(const Recipe& recipe, const std::filesystem::path& folder);

} // namespace cobbleway
