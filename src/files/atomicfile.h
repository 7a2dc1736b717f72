/// Writing that never leaves a half-written file, and that lets nobody else in meanwhile.
#pragma once
#include "midi/result.h"

#include <cstdint>
#include <filesystem>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>

namespace cobbleway {

/// Who may read a file once it is in its place.
enum class Readers {
    Usual, ///< as the file that is replaced, else as the person's umask has it
    Owner, ///< the person alone (0600), whatever was there before
};

/// A file that is written beside its target and takes its place only on commit(). When it is destroyed before
/// that, nothing is left behind and the target is as it was. The rights of a file that is replaced are kept;
/// until commit() nobody but the person can read what is written.
///
/// A symbolic link stays one: what it points to is written. Only in a folder where others may write, too, a
/// link may be laid by anybody: there it is followed only when the person made it and the others are of a
/// group, and is replaced by the file otherwise.
class AtomicFile {
  public:
    /// An error when the target cannot be written (see refusalOf()), or no file can be made beside it.
    static Result<std::unique_ptr<AtomicFile>> open(const std::filesystem::path& target,
                                                    Readers readers = Readers::Usual);
    /// Why a target cannot be written at all: it is a folder, a device, a pipe, or its folder refuses; none
    /// when it can.
    static std::optional<Error> refusalOf(const std::filesystem::path& target);
    /// Why nothing can be written in a folder: it is not there, or its rights forbid it.
    static std::optional<Error> refusalIn(const std::filesystem::path& folder);
    ~AtomicFile();
    AtomicFile(const AtomicFile&) = delete;
    AtomicFile& operator=(const AtomicFile&) = delete;

    /// Writes bytes where the last ended; false, now and from then on, when the disk does not take them all.
    bool write(std::span<const std::uint8_t> bytes);
    /// The open file, for libraries that write to one; owned by this object, open until commit().
    [[nodiscard]] int descriptor() const { return m_file; }
    /// Where it is written. In the target's folder.
    [[nodiscard]] const std::filesystem::path& temporaryPath() const { return m_temporary; }
    /// Flushes the written file to disk and puts it in the target's place. An error when a write() failed,
    /// or the disk refuses at the end; then nothing takes the target's place.
    Result<Done> commit();

  private:
    AtomicFile(std::filesystem::path target, Readers readers);
    [[nodiscard]] bool folderIsThere() const; ///< where it was when writing began
    [[nodiscard]] bool isOurs() const;        ///< what stands under the temporary name
    [[nodiscard]] Error refused(int number) const;
    void setRights() const; ///< those of what is replaced, or the usual ones
    std::filesystem::path m_target, m_temporary;
    Readers m_readers;
    int m_folder = -1; ///< a handle on it, by which it is found though it be moved; −1 for none
    int m_file = -1;   ///< −1 when it could not be made, or is closed
    int m_failure = 0; ///< errno of the first write that failed; 0 for none
    bool m_committed = false;
};

/// Writes bytes atomically.
Result<Done> writeFile(const std::filesystem::path& path, std::span<const std::uint8_t> bytes,
                       Readers readers = Readers::Usual);
Result<Done> writeFile(const std::filesystem::path& path, const std::string& text,
                       Readers readers = Readers::Usual);

/// Removes what programs of this computer that have ended by force left behind in a folder while they wrote
/// there; how many files that were.
int removeAbandoned(const std::filesystem::path& folder);

/// Makes a folder and those above it; an error says why it cannot be.
Result<Done> makeFolder(const std::filesystem::path& folder);

/// The same for one that only the person may enter (0700); one that is there and is theirs becomes so.
Result<Done> makePrivateFolder(const std::filesystem::path& folder);

/// Reads a whole regular file, up to 1 GiB; anything else is an error, and nothing is waited for.
Result<std::vector<std::uint8_t>> readFile(const std::filesystem::path& path);

} // namespace cobbleway
