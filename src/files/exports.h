/// Everything that can be written of a song, and the writing of it in one go.
#pragma once
#include "files/songfile.h"
#include "files/soundexport.h"

#include <functional>
#include <string>
#include <vector>

namespace cobbleway {

struct ExportItem {
    enum class Kind { MidiTracks, MidiSingle, MidiPart, Full, Front, Alone, Without };
    Kind kind = Kind::Full;
    PartId part = 0;      ///< for MidiPart, Front, Alone and Without
    std::string label;    ///< for people: "Clarinets in front"
    std::string fileName; ///< without folder
    [[nodiscard]] bool isMidi() const { return kind <= Kind::MidiPart; }
    bool operator==(const ExportItem&) const = default;
};

/// All items of a song: MIDI of type 1 and 0, the song as it is mixed now, and of each part that has notes
/// itself in front, alone, and all but it. File names are unlike each other.
std::vector<ExportItem> exportItems(const Song& song);

/// The song with the roles of an item.
Song songFor(const Song& song, const ExportItem& item);

/// What becomes of a file that is there already. The file that the song was read from is never replaced.
enum class Existing { Replace, Number, Leave };

/// Files in a folder that items would replace.
std::vector<std::filesystem::path> alreadyThere(const std::vector<ExportItem>& items,
                                                const std::filesystem::path& folder);

struct ExportOptions {
    std::filesystem::path folder; ///< made when it is not there
    int rate = 48000;             ///< Hz
    double pace = 100;            ///< percent
    std::stop_token stop;
    std::function<void(double)> progress; ///< 0–1 of the sound files
    /// Told of what is silent in the sound files, when they have been made.
    std::function<void(const Error&)> silent = {};
    Existing existing = Existing::Number;
};

struct ExportOutcome {
    std::size_t item = 0; ///< index into the items given
    bool written = false;
    std::filesystem::path path; ///< where it was written, or was to be
    Measured measured;          ///< of sound files
    std::string message;        ///< why not, when not written
};

/// Writes the items; sound files from one synthesis pass. A file appears whole or not at all; stopping leaves
/// none of those that were not finished, and one that cannot be written costs no other. One outcome an item,
/// in order.
std::vector<ExportOutcome> writeExports(const Song& song, const Catalogue& catalogue,
                                        const std::vector<ExportItem>& items, const ExportOptions& options);

} // namespace cobbleway
