/// Sound on its way to a file, kept until its level is known.
#pragma once
#include "midi/result.h"

#include <cstdint>
#include <filesystem>
#include <memory>
#include <mutex>
#include <span>
#include <vector>

namespace cobbleway {

/// The memory that spools take together: what does not fit goes to the disk. Blocks that are given back are
/// kept for the next spool, since the system clears each that it gives. Safe from any thread.
class SpoolMemory {
  public:
    static constexpr std::int64_t blockBytes = std::int64_t{2} << 20; ///< a large page of most processors
    /// Pages that the system gives in one piece where it can.
    struct Block {
        void* room = nullptr;
        float* samples = nullptr; ///< in it; null when there is no block
    };

    explicit SpoolMemory(std::int64_t bytes) : m_left(bytes / blockBytes) {}
    ~SpoolMemory();
    SpoolMemory(const SpoolMemory&) = delete;
    SpoolMemory& operator=(const SpoolMemory&) = delete;
    /// A quarter of what the machine has to spare, 3 GB at most; in bytes.
    static std::int64_t share();

    Block take(); ///< none when all are taken, or the system has none
    void giveBack(const std::vector<Block>& blocks);

  private:
    std::mutex m_lock;
    std::int64_t m_left; ///< blocks that the system may be asked for
    std::vector<Block> m_free;
};

/// Interleaved stereo in memory, and from where that ends in a file without a name: when it is let go, or the
/// program ends however it ends, nothing is left.
class Spool {
  public:
    /// On the disk of a folder; `memory` lives longer.
    static Result<std::unique_ptr<Spool>> open(const std::filesystem::path& folder, SpoolMemory& memory);
    ~Spool();
    Spool(const Spool&) = delete;
    Spool& operator=(const Spool&) = delete;

    bool write(std::span<const float> samples); ///< false when the disk takes no more
    /// Reads from a frame on; gives how many frames there were.
    std::size_t read(std::int64_t from, std::span<float> samples) const;
    [[nodiscard]] std::int64_t frames() const { return m_frames; }
    [[nodiscard]] bool isInMemory() const { return m_onDisk == 0; } ///< all of it

  private:
    Spool(int file, SpoolMemory& memory) : m_file(file), m_memory(memory) {}
    bool addBlock();
    bool writeToDisk(std::span<const float> samples);
    std::size_t readFromDisk(std::int64_t sample, std::span<float> samples) const;

    int m_file;
    SpoolMemory& m_memory;
    std::vector<SpoolMemory::Block> m_blocks;
    bool m_full = false; ///< no more blocks: what comes goes to the disk
    std::int64_t m_frames = 0;
    std::int64_t m_onDisk = 0; ///< samples
};

} // namespace cobbleway
