/// Writing that never leaves a half-written file.
#pragma once
#include "midi/result.h"

#include <cstdint>
#include <filesystem>
#include <span>
#include <string>
#include <vector>

namespace cobbleway {

/// A file that is written beside its target and takes its place only on commit(). When it is destroyed before
/// that, nothing is left behind and the target is as it was.
class AtomicFile {
  public:
    explicit AtomicFile(std::filesystem::path target);
    ~AtomicFile();
    AtomicFile(const AtomicFile&) = delete;
    AtomicFile& operator=(const AtomicFile&) = delete;

    /// Where to write. In the target's folder.
    [[nodiscard]] const std::filesystem::path& temporaryPath() const { return m_temporary; }
    /// Flushes the written file to disk and puts it in the target's place.
    Result<Done> commit();

  private:
    std::filesystem::path m_target, m_temporary;
    bool m_committed = false;
};

/// Writes bytes atomically.
Result<Done> writeFile(const std::filesystem::path& path, std::span<const std::uint8_t> bytes);
Result<Done> writeFile(const std::filesystem::path& path, const std::string& text);

/// Reads a whole file, up to 1 GiB.
Result<std::vector<std::uint8_t>> readFile(const std::filesystem::path& path);

} // namespace cobbleway
