#include "font/mappedfile.h"

#include <fcntl.h>
#include <sys/mman.h>
#include <sys/stat.h>
#include <unistd.h>

namespace cobbleway {

MappedFile::MappedFile(const std::filesystem::path& path) {
    const int file =
        open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK); // a pipe must not make anyone wait
    if (file < 0) return;
    struct stat facts {};
    if (fstat(file, &facts) == 0 && S_ISREG(facts.st_mode) && facts.st_size > 0) {
        const auto size = static_cast<std::size_t>(facts.st_size);
        void* data = mmap(nullptr, size, PROT_READ, MAP_PRIVATE, file, 0);
        if (data != MAP_FAILED) m_bytes = {static_cast<const std::uint8_t*>(data), size};
    }
    close(file);
}

MappedFile::~MappedFile() {
    if (!m_bytes.empty()) munmap(const_cast<std::uint8_t*>(m_bytes.data()), m_bytes.size());
}

} // namespace cobbleway
