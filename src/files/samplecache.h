/// Decoded samples in the cache folder.
#pragma once
#include "sound/fontsamples.h"

#include <filesystem>
#include <mutex>

namespace cobbleway {

/// A file a sample, for the person alone. What was used least lately goes when they are more than `most`
/// bytes. Nothing is told when a disk refuses: samples are decoded again then.
class FolderSampleCache final : public SampleCache {
  public:
    /// Half a gigabyte is more than a large set of songs needs of a compressed font.
    static constexpr std::uint64_t usualMost = 512ULL << 20;
    explicit FolderSampleCache(std::filesystem::path folder, std::uint64_t most = usualMost)
        : m_folder(std::move(folder)), m_most(most) {}

    std::optional<std::vector<std::int16_t>> load(const std::string& font, unsigned sample) override;
    void keep(const std::string& font, unsigned sample, std::span<const std::int16_t> values) override;
    /// Makes room. Done once by itself, before the first sample is kept.
    void sweep() const;

  private:
    [[nodiscard]] std::filesystem::path pathOf(const std::string& font, unsigned sample) const;
    std::filesystem::path m_folder;
    std::uint64_t m_most;
    std::once_flag m_made;
};

/// The one in the program's cache folder, for all of the program; null where there is none.
std::shared_ptr<SampleCache> sampleCache();

} // namespace cobbleway
