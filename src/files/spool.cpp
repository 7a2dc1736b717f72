#include "files/spool.h"

#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <string>
#include <unistd.h>

namespace cobbleway {

Result<std::unique_ptr<Spool>> Spool::open(const std::filesystem::path& folder) {
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
    return std::unique_ptr<Spool>(new Spool(file));
}

Spool::~Spool() { close(m_file); }

bool Spool::write(std::span<const float> samples) {
    const auto* bytes = reinterpret_cast<const char*>(samples.data());
    std::size_t left = samples.size_bytes();
    auto at = static_cast<off_t>(m_frames * 2 * static_cast<std::int64_t>(sizeof(float)));
    while (left > 0) {
        const ssize_t done = pwrite(m_file, bytes, left, at);
        if (done < 0 && errno == EINTR) continue;
        if (done <= 0) return false;
        bytes += done;
        at += done;
        left -= static_cast<std::size_t>(done);
    }
    m_frames += static_cast<std::int64_t>(samples.size() / 2);
    return true;
}

std::size_t Spool::read(std::int64_t from, std::span<float> samples) const {
    auto* bytes = reinterpret_cast<char*>(samples.data());
    const std::size_t all = samples.size_bytes();
    std::size_t got = 0;
    while (got < all) {
        const ssize_t done = pread(m_file, bytes + got, all - got,
                                   static_cast<off_t>(from * 2 * static_cast<std::int64_t>(sizeof(float)) +
                                                      static_cast<std::int64_t>(got)));
        if (done < 0 && errno == EINTR) continue;
        if (done <= 0) break;
        got += static_cast<std::size_t>(done);
    }
    return got / (2 * sizeof(float));
}

} // namespace cobbleway
