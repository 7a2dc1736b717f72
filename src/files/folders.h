/// Where the program keeps what is its own, by the XDG Base Directory specification. Only the person may look
/// into these folders: copies of unsaved work and lists of what they open lie there.
#pragma once
#include "files/atomicfile.h"

namespace cobbleway {

// Each is empty when neither its variable nor HOME is set; nothing is kept then.
std::filesystem::path stateFolder();         ///< $XDG_STATE_HOME/cobbleway: copies of sets, notes
std::filesystem::path cacheFolder();         ///< $XDG_CACHE_HOME/cobbleway: what can be found out again
std::filesystem::path configurationFolder(); ///< $XDG_CONFIG_HOME/cobbleway: settings

/// Makes those that are there already the person's alone, with the files in them (0700 and 0600), as earlier
/// versions did not.
void keepToOwner();

/// Writes a file of the program's own, for the person alone, and makes its folder when it is not there.
Result<Done> writePrivately(const std::filesystem::path& path, const std::string& text);

/// The lines of a text file; none when it is not there or cannot be read.
std::vector<std::string> linesOf(const std::filesystem::path& path);

} // namespace cobbleway
