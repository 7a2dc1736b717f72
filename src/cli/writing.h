/// Where commands write: files, and the standard output.
#pragma once
#include "cli/arguments.h"
#include "song/out/midiorder.h"

#include <filesystem>
#include <functional>

namespace cobbleway::cli {

/// The word that stands for the standard input and output.
inline constexpr const char* standardStream = "-";

/// Whether a file may be written: not over the one that is read, and over another only with --replace. The
/// standard output may.
Result<Done> mayWrite(const Arguments& arguments, const std::filesystem::path& path);

/// Writes a song as MIDI to a file, or to the standard output.
Result<Done> writeMidiTo(const Song& song, const MidiOrder& order, const std::filesystem::path& path);

/// Lets `write` make a file, and sends that to the standard output; nothing of it stays on the disk.
Result<Done> throughFile(const std::string& ending,
                         const std::function<Result<Done>(const std::filesystem::path&)>& write);

/// "03 Lead cornet.mid": a part's number, from 1, and name.
std::string numberedName(std::size_t number, const Part& part, const char* ending);

/// Tells how far work is on the error stream, where that is a terminal and --quiet is not given.
std::function<void(double)> progressFor(const Arguments& arguments);

} // namespace cobbleway::cli
