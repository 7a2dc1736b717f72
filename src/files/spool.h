/// Sound on its way to a file, kept on disk until its level is known.
#pragma once
#include "midi/result.h"

#include <filesystem>
#include <memory>
#include <span>

namespace cobbleway {

/// Interleaved stereo in a file without a name: when it is let go, or the program ends however it ends,
/// nothing is left.
class Spool {
  public:
    /// On the disk of a folder.
    static Result<std::unique_ptr<Spool>> open(const std::filesystem::path& folder);
    ~Spool();
    Spool(const Spool&) = delete;
    Spool& operator=(const Spool&) = delete;

    bool write(std::span<const float> samples); ///< false when the disk takes no more
    /// Reads from a frame on; gives how many frames there were.
    std::size_t read(std::int64_t from, std::span<float> samples) const;
    [[nodiscard]] std::int64_t frames() const { return m_frames; }

  private:
    explicit Spool(int file) : m_file(file) {}
    int m_file;
    std::int64_t m_frames = 0;
};

} // namespace cobbleway
