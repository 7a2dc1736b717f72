#include "files/atomicfile.h"

#include <atomic>
#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <fstream>
#include <unistd.h>

namespace cobbleway {
namespace fs = std::filesystem;
namespace {

Error failure(const std::string& what, const fs::path& path, int number) {
    return {what + " (" + std::strerror(number) + ").", path.string(),
            "Check the folder, its rights and the room on the disk."};
}

bool flushToDisk(const fs::path& path) {
    const int file = open(path.c_str(), O_RDONLY | O_CLOEXEC);
    if (file < 0) return false;
    const bool flushed = fsync(file) == 0;
    close(file);
    return flushed;
}

} // namespace

AtomicFile::AtomicFile(fs::path target) : m_target(std::move(target)) {
    static std::atomic<unsigned> counter{0};
    m_temporary = m_target;
    m_temporary.replace_filename("." + m_target.filename().string() + "." + std::to_string(getpid()) + "-" +
                                 std::to_string(counter++) + ".part");
}

AtomicFile::~AtomicFile() {
    std::error_code ignored;
    if (!m_committed) fs::remove(m_temporary, ignored);
}

Result<Done> AtomicFile::commit() {
    if (!flushToDisk(m_temporary)) return failure("The file could not be written to disk", m_target, errno);
    if (std::rename(m_temporary.c_str(), m_target.c_str()) != 0)
        return failure("The file could not be put in its place", m_target, errno);
    m_committed = true;
    flushToDisk(m_target.parent_path().empty() ? fs::path(".") : m_target.parent_path());
    return Done{};
}

Result<Done> writeFile(const fs::path& path, std::span<const std::uint8_t> bytes) {
    AtomicFile file(path);
    {
        std::ofstream out(file.temporaryPath(), std::ios::binary);
        out.write(reinterpret_cast<const char*>(bytes.data()), static_cast<std::streamsize>(bytes.size()));
        out.flush();
        if (!out) return failure("The file could not be written", path, errno);
    }
    return file.commit();
}

Result<Done> writeFile(const fs::path& path, const std::string& text) {
    return writeFile(path, std::span(reinterpret_cast<const std::uint8_t*>(text.data()), text.size()));
}

Result<std::vector<std::uint8_t>> readFile(const fs::path& path) {
    std::error_code error;
    if (fs::is_directory(path, error))
        return Error{"This is a folder, not a file.", path.string(), "Add it as a folder."};
    std::ifstream in(path, std::ios::binary | std::ios::ate);
    if (!in) return failure("The file cannot be opened", path, errno);
    const std::streamoff size = in.tellg();
    if (size < 0 || size > (std::streamoff{1} << 30))
        return Error{"The file is too large to be a MIDI file.", path.string(), "Choose another file."};
    std::vector<std::uint8_t> bytes(static_cast<std::size_t>(size));
    in.seekg(0);
    in.read(reinterpret_cast<char*>(bytes.data()), size);
    if (!in) return failure("The file cannot be read", path, errno);
    return bytes;
}

} // namespace cobbleway
