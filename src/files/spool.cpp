#include "files/spool.h"

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <fstream>
#include <string>
#include <sys/mman.h>
#include <unistd.h>

namespace cobbleway {
namespace {

constexpr std::int64_t blockBytes = SpoolMemory::blockBytes;
constexpr std::int64_t blockSamples = blockBytes / static_cast<std::int64_t>(sizeof(float));
constexpr std::size_t mappedBytes = 2 * blockBytes;
constexpr auto sampleBytes = static_cast<std::int64_t>(sizeof(float));

} // namespace

std::int64_t SpoolMemory::share() {
    constexpr std::int64_t most = std::int64_t{3} << 30;
    std::ifstream told("/proc/meminfo");
    std::string name;
    for (std::int64_t kilobytes = 0; told >> name >> kilobytes; std::getline(told, name))
        if (name == "MemAvailable:") return std::min(most, kilobytes * 1024 / 4);
    return 0;
}

SpoolMemory::~SpoolMemory() {
    for (const Block& block : m_free) munmap(block.room, mappedBytes);
}

SpoolMemory::Block SpoolMemory::take() {
    {
        const std::lock_guard hold(m_lock);
        if (!m_free.empty()) {
            const Block block = m_free.back();
            m_free.pop_back();
            return block;
        }
        if (m_left <= 0) return {};
        --m_left;
    }
    // Twice the room of addresses holds a block that begins where a large page may; the rest is never
    // touched.
    void* room = mmap(nullptr, mappedBytes, PROT_READ | PROT_WRITE,
                      MAP_PRIVATE | MAP_ANONYMOUS | MAP_NORESERVE, -1, 0);
    if (room == MAP_FAILED) return {};
    void* pages = room;
    std::size_t left = mappedBytes;
    std::align(blockBytes, blockBytes, pages, left);
    madvise(pages, blockBytes, MADV_HUGEPAGE); // a wish: without it there are more pages, and smaller
    return {room, static_cast<float*>(pages)};
}

void SpoolMemory::giveBack(const std::vector<Block>& blocks) {
    const std::lock_guard hold(m_lock);
    m_free.insert(m_free.end(), blocks.begin(), blocks.end());
}

Result<std::unique_ptr<Spool>> Spool::open(const std::filesystem::path& folder, SpoolMemory& memory) {
    int file = ::open(folder.c_str(), O_TMPFILE | O_RDWR | O_CLOEXEC, 0600);
    if (file < 0) { // a file system without nameless files: one whose name goes at once
        std::string name = (folder / ".cobbleway-sound-XXXXXX").string();
        file = mkostemp(name.data(), O_CLOEXEC);
        if (file >= 0) unlink(name.c_str());
    }
    if (file < 0)
        return Error{{"error.spool", {{"reason", std::string(std::strerror(errno))}}},
                     folder.string(),
                     {"now.other-folder"}};
    return std::unique_ptr<Spool>(new Spool(file, memory));
}

Spool::~Spool() {
    close(m_file);
    m_memory.giveBack(m_blocks);
}

bool Spool::addBlock() {
    if (m_full) return false;
    const SpoolMemory::Block block = m_memory.take();
    if (!block.samples) return false;
    m_blocks.push_back(block);
    return true;
}

bool Spool::write(std::span<const float> samples) {
    while (!samples.empty()) {
        const std::int64_t at = 2 * m_frames;
        const std::int64_t room = static_cast<std::int64_t>(m_blocks.size()) * blockSamples - at;
        if (room <= 0 && !addBlock()) {
            m_full = true;
            if (!writeToDisk(samples)) return false;
            m_frames += static_cast<std::int64_t>(samples.size() / 2);
            return true;
        }
        const std::int64_t within = at % blockSamples;
        const auto count = std::min(samples.size(), static_cast<std::size_t>(blockSamples - within));
        std::copy_n(samples.begin(), count, m_blocks.back().samples + within);
        m_frames += static_cast<std::int64_t>(count / 2);
        samples = samples.subspan(count);
    }
    return true;
}

bool Spool::writeToDisk(std::span<const float> samples) {
    const auto* bytes = reinterpret_cast<const char*>(samples.data());
    std::size_t left = samples.size_bytes();
    auto at = static_cast<off_t>(m_onDisk * sampleBytes);
    while (left > 0) {
        const ssize_t done = pwrite(m_file, bytes, left, at);
        if (done < 0 && errno == EINTR) continue;
        if (done <= 0) return false;
        bytes += done;
        at += done;
        left -= static_cast<std::size_t>(done);
    }
    m_onDisk += static_cast<std::int64_t>(samples.size());
    return true;
}

std::size_t Spool::read(std::int64_t from, std::span<float> samples) const {
    const std::int64_t inMemory = 2 * m_frames - m_onDisk; // samples
    std::int64_t at = 2 * from;
    std::size_t got = 0;
    while (got < samples.size() && at < inMemory) {
        const std::int64_t within = at % blockSamples;
        const auto count = std::min<std::int64_t>(
            {static_cast<std::int64_t>(samples.size() - got), blockSamples - within, inMemory - at});
        std::copy_n(m_blocks[static_cast<std::size_t>(at / blockSamples)].samples + within, count,
                    samples.begin() + static_cast<std::ptrdiff_t>(got));
        got += static_cast<std::size_t>(count);
        at += count;
    }
    if (got < samples.size() && m_onDisk > 0) got += readFromDisk(at - inMemory, samples.subspan(got));
    return got / 2;
}

std::size_t Spool::readFromDisk(std::int64_t sample, std::span<float> samples) const {
    auto* bytes = reinterpret_cast<char*>(samples.data());
    const std::size_t all = samples.size_bytes();
    std::size_t got = 0;
    while (got < all) {
        const ssize_t done = pread(m_file, bytes + got, all - got,
                                   static_cast<off_t>(sample * sampleBytes + static_cast<std::int64_t>(got)));
        if (done < 0 && errno == EINTR) continue;
        if (done <= 0) break;
        got += static_cast<std::size_t>(done);
    }
    return got / sizeof(float);
}

} // namespace cobbleway
