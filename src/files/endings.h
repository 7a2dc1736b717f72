/// Which soundfonts ended the program: found out at the next start from notes that it left. (Plug-ins run in
/// processes of their own.)
#pragma once
#include <filesystem>
#include <string>
#include <vector>

namespace cobbleway {

/// Where a program that runs notes which font it loads, which may end it. In the state folder `state`, by the
/// program's number.
std::filesystem::path endingNote(const std::filesystem::path& state);

/// The fonts that ended programs so far, each with its version (fileVersion()): those known, and those in the
/// notes of programs that are no more, which are taken over. Empty without a state folder.
std::vector<std::string> endedPrograms(const std::filesystem::path& state);

/// Forgets what is known of one, so that it is used again: all lines that begin with `name` and a tab.
void forgiveEnding(const std::filesystem::path& state, const std::string& name);

} // namespace cobbleway
