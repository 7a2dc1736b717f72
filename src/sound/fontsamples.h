/// The samples of a soundfont in memory: only those that are asked for.
#pragma once
#include "font/fontvoices.h"

#include <atomic>
#include <cstdint>
#include <memory>
#include <mutex>
#include <optional>
#include <span>
#include <string>
#include <vector>

namespace cobbleway {

/// Where decoded samples are kept from one start of the program to the next. From any thread.
class SampleCache {
  public:
    SampleCache() = default;
    SampleCache(const SampleCache&) = delete;
    SampleCache& operator=(const SampleCache&) = delete;
    virtual ~SampleCache() = default;
    /// The values of a sample of a font, which is named as fileVersion() does; none when they are not there.
    virtual std::optional<std::vector<std::int16_t>> load(const std::string& font, unsigned sample) = 0;
    virtual void keep(const std::string& font, unsigned sample, std::span<const std::int16_t> values) = 0;
};

/// One font file, open for as long as anybody plays it. What is read stays until then, and is shared by all
/// synthesisers. It is read, not mapped: a program that cuts the file short while it plays would end ours.
class FontSamples {
  public:
    /// The one of this file; made when nobody has it. `cache`: for those that are compressed; may be null.
    static Result<std::shared_ptr<FontSamples>> of(const std::filesystem::path& font,
                                                   std::shared_ptr<SampleCache> cache);
    FontSamples(FontVoices voices, int file, std::string version, std::shared_ptr<SampleCache> cache);
    ~FontSamples();
    FontSamples(const FontSamples&) = delete;
    FontSamples& operator=(const FontSamples&) = delete;

    [[nodiscard]] const FontVoices& voices() const { return m_voices; }

    struct Data {
        std::vector<std::int16_t> values; ///< with those after its end that a loop may reach
        std::vector<char> low;            ///< the lower eight bits of each; empty for none
        std::uint32_t frames = 0;         ///< its length; 0 for what cannot be read: it is silent
    };
    /// A sample's data, read or decoded when it is asked for first. Slow then. From several threads.
    const Data& data(unsigned sample);

  private:
    struct Held {
        std::once_flag once;
        Data data;
    };
    [[nodiscard]] Data read(unsigned sample) const;
    [[nodiscard]] Data readPlain(const FontSample& sample) const;
    [[nodiscard]] Data readCompressed(const FontSample& sample, unsigned number) const;

    FontVoices m_voices;
    int m_file; ///< a descriptor
    std::string m_version;
    std::shared_ptr<SampleCache> m_cache;
    std::vector<Held> m_held; ///< by sample
};

/// Decodes an Ogg Vorbis stream to 16-bit values of one channel, as libsndfile does; none where it is none,
/// or longer than 47 minutes at 48 kHz.
std::vector<std::int16_t> decodedSample(std::span<const std::uint8_t> stream);

} // namespace cobbleway
