/// Writing that never leaves a half-written file.
#pragma once
#include "midi/result.h"

#include <cstdint>
#include <filesystem>
#include <optional>
#include <span>
#include <string>
#include <vector>

namespace cobbleway {

/// A file that is written beside its target and takes its place only on commit(). When it is destroyed before
/// that, nothing is left behind and the target is as it was. A symbolic link stays one: what it points to is
/// written. The rights of a file that is replaced are kept.
class AtomicFile {
  public:
    explicit AtomicFile(std::filesystem::path target);
    /// Why a target cannot be written at all: it is a folder, a device, a pipe, or its folder refuses; none
    /// when it can.
    static std::optional<Error> refusalOf(const std::filesystem::path& target);
    /// Why nothing can be written in a folder: it is not there, or its rights forbid it.
    static std::optional<Error> refusalIn(const std::filesystem::path& folder);
    ~AtomicFile();
    AtomicFile(const AtomicFile&) = delete;
    AtomicFile& operator=(const AtomicFile&) = delete;

    /// Where to write. In the target's folder.
    [[nodiscard]] const std::filesystem::path& temporaryPath() const { return m_temporary; }
    /// Flushes the written file to disk and puts it in the target's place.
    Result<Done> commit();

  private:
    [[nodiscard]] bool folderIsThere() const; ///< where it was when writing began
    std::filesystem::path m_target, m_temporary;
    int m_folder = -1; ///< a handle on it, by which it is found though it be moved; −1 for none
    bool m_committed = false;
};

/// Writes bytes atomically.
Result<Done> writeFile(const std::filesystem::path& path, std::span<const std::uint8_t> bytes);
Result<Done> writeFile(const std::filesystem::path& path, const std::string& text);

/// Removes what programs of this computer that have ended by force left behind in a folder while they wrote
/// there; how many files that were.
int removeAbandoned(const std::filesystem::path& folder);

/// Makes a folder and those above it; an error says why it cannot be.
Result<Done> makeFolder(const std::filesystem::path& folder);

/// Reads a whole regular file, up to 1 GiB; anything else is an error, and nothing is waited for.
Result<std::vector<std::uint8_t>> readFile(const std::filesystem::path& path);

} // namespace cobbleway
