#include "sound/fontsamples.h"

#include "font/fileversion.h"

#include <algorithm>
#include <cstring>
#include <fcntl.h>
#include <map>
#include <sndfile.h>
#include <sys/stat.h>
#include <unistd.h>

namespace cobbleway {
namespace {

constexpr std::size_t longestSample = 1U << 27; // values

/// All of a stretch of a file; false when it is not there.
bool readAt(int file, std::uint64_t offset, void* to, std::size_t count) {
    auto* at = static_cast<char*>(to);
    while (count > 0) {
        const ssize_t got = pread(file, at, count, static_cast<off_t>(offset));
        if (got < 0 && errno == EINTR) continue;
        if (got <= 0) return false;
        at += got;
        offset += static_cast<std::uint64_t>(got);
        count -= static_cast<std::size_t>(got);
    }
    return true;
}

/// Bytes that libsndfile reads as a file.
struct Stream {
    std::span<const std::uint8_t> bytes;
    sf_count_t at = 0;

    static Stream& of(void* self) { return *static_cast<Stream*>(self); }
    static sf_count_t length(void* self) { return static_cast<sf_count_t>(of(self).bytes.size()); }
    static sf_count_t tell(void* self) { return of(self).at; }
    static sf_count_t seek(sf_count_t offset, int whence, void* self) {
        const sf_count_t from = whence == SEEK_CUR ? tell(self) : whence == SEEK_END ? length(self) : 0;
        return of(self).at = std::clamp<sf_count_t>(from + offset, 0, length(self));
    }
    static sf_count_t read(void* to, sf_count_t count, void* self) {
        count = std::clamp<sf_count_t>(count, 0, length(self) - tell(self));
        std::memcpy(to, of(self).bytes.data() + tell(self), static_cast<std::size_t>(count));
        of(self).at += count;
        return count;
    }
    static sf_count_t write(const void*, sf_count_t, void*) { return 0; }
};

struct CloseStream {
    void operator()(SNDFILE* file) const { sf_close(file); }
};

} // namespace

std::vector<std::int16_t> decodedSample(std::span<const std::uint8_t> bytes) {
    Stream stream{bytes};
    SF_VIRTUAL_IO calls{Stream::length, Stream::seek, Stream::read, Stream::write, Stream::tell};
    SF_INFO info{};
    const std::unique_ptr<SNDFILE, CloseStream> file(sf_open_virtual(&calls, SFM_READ, &info, &stream));
    if (!file || info.channels != 1 || info.frames <= 0) return {};
    // What the stream says of its length may be wrong: it is read as far as it goes.
    std::vector<std::int16_t> values;
    constexpr std::size_t step = 1U << 16;
    while (values.size() < longestSample) {
        const std::size_t had = values.size();
        values.resize(had + step);
        const sf_count_t got = sf_readf_short(file.get(), values.data() + had, step);
        values.resize(had + static_cast<std::size_t>(std::max<sf_count_t>(got, 0)));
        if (got < static_cast<sf_count_t>(step)) break;
    }
    values.shrink_to_fit();
    return values;
}

FontSamples::FontSamples(FontVoices voices, int file, std::string version, std::shared_ptr<SampleCache> cache)
    : m_voices(std::move(voices)), m_file(file), m_version(std::move(version)), m_cache(std::move(cache)),
      m_held(m_voices.samples.size()) {}

FontSamples::~FontSamples() { close(m_file); }

Result<std::shared_ptr<FontSamples>> FontSamples::of(const std::filesystem::path& font,
                                                     std::shared_ptr<SampleCache> cache) {
    static std::mutex lock;
    static std::map<std::string, std::weak_ptr<FontSamples>> open;
    const std::string version = fileVersion(font);
    const std::lock_guard hold(lock);
    std::erase_if(open, [](const auto& held) { return held.second.expired(); });
    if (auto there = open[version].lock()) return there;
    auto voices = readFontVoices(font);
    if (!voices) return voices.error();
    const int file = ::open(font.c_str(), O_RDONLY | O_CLOEXEC);
    if (file < 0) return Error{{"error.font-open"}, font.string(), {"now.check-readable"}};
    auto samples = std::make_shared<FontSamples>(std::move(voices.value()), file, version, std::move(cache));
    open[version] = samples;
    return samples;
}

const FontSamples::Data& FontSamples::data(unsigned sample) {
    Held& held = m_held[sample];
    std::call_once(held.once, [&] { held.data = read(sample); });
    return held.data;
}

FontSamples::Data FontSamples::read(unsigned sample) const {
    const FontSample& wanted = m_voices.samples[sample];
    return wanted.compressed ? readCompressed(wanted, sample) : readPlain(wanted);
}

FontSamples::Data FontSamples::readPlain(const FontSample& sample) const {
    Data data;
    data.values.resize(sample.bytes / 2);
    if (data.values.empty() || !readAt(m_file, sample.offset, data.values.data(), data.values.size() * 2))
        return {};
    data.frames = sample.frames;
    if (sample.lowBytes == 0) return data;
    data.low.resize(data.values.size());
    if (!readAt(m_file, sample.lowBytes, data.low.data(), data.low.size())) data.low.clear();
    return data;
}

FontSamples::Data FontSamples::readCompressed(const FontSample& sample, unsigned number) const {
    Data data;
    if (auto kept = m_cache ? m_cache->load(m_version, number) : std::nullopt) {
        data.values = std::move(*kept);
    } else {
        std::vector<std::uint8_t> stream(sample.bytes);
        if (stream.empty() || !readAt(m_file, sample.offset, stream.data(), stream.size())) return {};
        data.values = decodedSample(stream);
        if (m_cache && !data.values.empty()) m_cache->keep(m_version, number, data.values);
    }
    data.frames = static_cast<std::uint32_t>(data.values.size());
    return data;
}

} // namespace cobbleway
