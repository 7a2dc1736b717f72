#include "files/samplecache.h"

#include "files/folders.h"
#include "midi/fingerprint.h"

#include <algorithm>
#include <atomic>
#include <cstring>
#include <fcntl.h>
#include <sys/stat.h>
#include <sys/uio.h>
#include <unistd.h>

namespace cobbleway {
namespace {

/// Before the values of a sample, in the order of bytes of this computer.
struct SampleHeader {
    std::array<char, 8> mark{'C', 'W', 'S', 'M', 'P', 'L', '0', '1'};
    std::uint64_t count = 0;
    std::uint64_t sum = 0; ///< of the values
    bool operator==(const SampleHeader&) const = default;
};

/// Finds out whether values are those that were written: files are not flushed to the disk, so that a file
/// may be whole by its length and hold nothing after the power has failed.
std::uint64_t sumOf(std::span<const std::int16_t> values) {
    constexpr std::uint64_t factor = 1099511628211U;
    std::uint64_t sum = 14695981039346656037U;
    std::size_t at = 0;
    for (; at + 4 <= values.size(); at += 4) {
        std::uint64_t four = 0;
        std::memcpy(&four, values.data() + at, sizeof four);
        sum = (sum ^ four) * factor;
    }
    for (; at < values.size(); ++at) sum = (sum ^ static_cast<std::uint16_t>(values[at])) * factor;
    return sum;
}

/// A descriptor that closes itself.
class OpenFile {
  public:
    OpenFile(const std::filesystem::path& path, int flags, mode_t mode = 0)
        : m_file(::open(path.c_str(), flags | O_CLOEXEC | O_NOFOLLOW, mode)) {}
    ~OpenFile() {
        if (m_file >= 0) close(m_file);
    }
    OpenFile(const OpenFile&) = delete;
    OpenFile& operator=(const OpenFile&) = delete;
    explicit operator bool() const { return m_file >= 0; }
    [[nodiscard]] int number() const { return m_file; }

  private:
    int m_file;
};

std::array<iovec, 2> both(SampleHeader& header, const std::int16_t* values, std::size_t count) {
    return {{{&header, sizeof header}, {const_cast<std::int16_t*>(values), count * sizeof *values}}};
}

} // namespace

std::filesystem::path FolderSampleCache::pathOf(const std::string& font, unsigned sample) const {
    Fingerprint print;
    for (const char c : font) print.add(static_cast<std::uint8_t>(c));
    return m_folder / (std::to_string(print.value()) + "-" + std::to_string(sample));
}

std::optional<std::vector<std::int16_t>> FolderSampleCache::load(const std::string& font, unsigned sample) {
    const OpenFile file(pathOf(font, sample), O_RDONLY);
    struct stat state {};
    if (!file || fstat(file.number(), &state) != 0 || !S_ISREG(state.st_mode)) return std::nullopt;
    if (state.st_size < static_cast<off_t>(sizeof(SampleHeader))) return std::nullopt;
    std::vector<std::int16_t> values((static_cast<std::size_t>(state.st_size) - sizeof(SampleHeader)) / 2);
    SampleHeader header;
    const auto parts = both(header, values.data(), values.size());
    const ssize_t got = readv(file.number(), parts.data(), 2);
    if (got != static_cast<ssize_t>(sizeof header + values.size() * 2)) return std::nullopt;
    if (header != SampleHeader{.count = values.size(), .sum = sumOf(values)}) return std::nullopt;
    futimens(file.number(), nullptr); // it was used now
    return values;
}

void FolderSampleCache::keep(const std::string& font, unsigned sample, std::span<const std::int16_t> values) {
    std::call_once(m_made, [this] {
        if (makePrivateFolder(m_folder)) sweep();
    });
    static std::atomic<unsigned> number{0};
    const std::filesystem::path target = pathOf(font, sample);
    std::filesystem::path beside = target;
    beside += "." + std::to_string(getpid()) + "-" + std::to_string(++number);
    SampleHeader header{.count = values.size(), .sum = sumOf(values)};
    bool written = false;
    {
        const OpenFile file(beside, O_WRONLY | O_CREAT | O_EXCL, 0600);
        if (!file) return;
        const auto parts = both(header, values.data(), values.size());
        written =
            writev(file.number(), parts.data(), 2) == static_cast<ssize_t>(sizeof header + values.size() * 2);
    }
    if (!written || rename(beside.c_str(), target.c_str()) != 0) unlink(beside.c_str());
}

void FolderSampleCache::sweep() const {
    struct Kept {
        std::filesystem::file_time_type used;
        std::uint64_t size = 0;
        std::filesystem::path path;
    };
    std::vector<Kept> all;
    std::uint64_t sum = 0;
    std::error_code error;
    for (const auto& entry : std::filesystem::directory_iterator(m_folder, error)) {
        if (!entry.is_regular_file(error)) continue;
        all.push_back({entry.last_write_time(error), entry.file_size(error), entry.path()});
        sum += all.back().size;
    }
    std::sort(all.begin(), all.end(), [](const Kept& a, const Kept& b) { return a.used < b.used; });
    for (const Kept& one : all) {
        if (sum <= m_most) return;
        sum -= one.size;
        std::filesystem::remove(one.path, error);
    }
}

std::shared_ptr<SampleCache> sampleCache() {
    static const auto cache = [] {
        const auto folder = cacheFolder();
        return folder.empty() ? nullptr : std::make_shared<FolderSampleCache>(folder / "samples");
    }();
    return cache;
}

} // namespace cobbleway
