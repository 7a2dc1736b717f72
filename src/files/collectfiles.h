/// Files of plug-ins, copied beside the set that needs them.
#pragma once
#include "files/project.h"

namespace cobbleway {

/// What became of them.
struct Collected {
    SongSet set;                  ///< its plug-ins take them from there
    std::filesystem::path folder; ///< where they are: beside the project, named after it
    int files = 0;                ///< that were copied
    std::vector<Error> left;      ///< those that could not be, and why
};

/// Copies the files that the set's plug-ins use into a folder beside its project, but for those that lie
/// there already and those that belong to an installed plug-in. Files of one name get numbers.
Result<Collected> collectFiles(SongSet set, const std::filesystem::path& project);

} // namespace cobbleway
