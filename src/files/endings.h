/// What ended the program: found out at the next start from notes that it left.
#pragma once
#include <filesystem>
#include <string>
#include <vector>

namespace cobbleway {

/// Foreign code and data that can end the program.
enum class Foreign {
    Font,  ///< named in a note while it is loaded
    Plugin ///< in a RunningNote while its code runs
};

/// Where a program that runs notes what may end it. In the state folder `state`, by the program's number.
std::filesystem::path endingNote(const std::filesystem::path& state, Foreign kind);

/// What ended programs so far, each with its version (fileVersion()): those known, and those in the notes of
/// programs that are no more, which are taken over. Empty without a state folder.
std::vector<std::string> endedPrograms(const std::filesystem::path& state, Foreign kind);

/// Forgets what is known of one, so that it is used again: all lines that begin with `name` and a tab.
void forgiveEnding(const std::filesystem::path& state, Foreign kind, const std::string& name);

} // namespace cobbleway
