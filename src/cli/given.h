/// The songs that a command is given, and the sounds that play them.
#pragma once
#include "cli/arguments.h"
#include "font/catalogue.h"
#include "song/model/song.h"

#include <span>

namespace cobbleway::cli {

/// Songs of all files and sets named ("-": of what comes on the standard input), with the name of the first
/// set; and what could not be opened.
struct Given {
    std::string set;
    std::vector<Song> songs;
    std::vector<FontMemory> fonts; ///< as the sets remember them
    std::vector<Error> problems;
};
Given songsOf(const std::vector<std::string>& files);

/// The one song of a MIDI file or of a set; of a set of several that which --song names, from 1. Adds to
/// `fonts` what the set remembers of fonts, when given.
Result<Song> songOf(const std::string& file, const Arguments& arguments,
                    std::vector<FontMemory>* fonts = nullptr);

/// catalogueOf(), with fonts that have moved, and with the plug-ins and ports of this computer where a song
/// has any.
Result<Catalogue> soundsFor(const Arguments& arguments, std::span<const Song> songs,
                            const std::vector<FontMemory>& remembered);

/// What was chosen for a song and is not there: sounds that another plays for, and effects; where, by song
/// and part.
std::vector<Error> missingIn(const Song& song, const Catalogue& catalogue);

/// Tells what is missing on the error stream. False when there is any and --stand-ins does not allow it.
bool mayPlay(const Arguments& arguments, const std::vector<Error>& missing);

} // namespace cobbleway::cli
