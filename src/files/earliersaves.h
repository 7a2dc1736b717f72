/// What a set was before it was saved over.
#pragma once
#include "files/project.h"

#include <chrono>

namespace cobbleway {

/// Saves a set where one may be already; that one is kept in the state folder, as the newest of three. When
/// it cannot be kept the set is saved all the same. Not kept: what is the same as before.
Result<Done> saveKeepingEarlier(const SongSet& set, const std::filesystem::path& path,
                                const std::filesystem::path& state);

/// A set as it was before it was saved over.
struct EarlierSave {
    std::filesystem::path file;                 ///< the copy
    std::chrono::system_clock::time_point time; ///< when it was saved, before it was saved over
};
inline constexpr int mostEarlierSaves = 3;

/// Those of a set, the newest first.
std::vector<EarlierSave> earlierSaves(const std::filesystem::path& path, const std::filesystem::path& state);

} // namespace cobbleway
