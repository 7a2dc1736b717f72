#pragma once
#include <filesystem>
#include <vector>

namespace cobbleway {

/// Ends this process when its parent ends, also when that is killed. `parent`: the number of the process that
/// started it; one that has ended by now ends this one at once.
void endWithParent(long parent);

/// What keeps this process from the person's files.
enum class Confined {
    Landlock, ///< the kernel: what is not named can be neither read nor written (landlock(7), ABI 1 and
              ///< later)
    Not       ///< the kernel has nothing of the kind
};

/// From here on this process can read the system's own folders and `readable` (files or folders; those that
/// are not there count for nothing), and write in `home` alone. The same holds for all that it starts.
Confined confine(const std::filesystem::path& home, const std::vector<std::filesystem::path>& readable);

} // namespace cobbleway
