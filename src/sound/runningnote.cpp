#include "sound/runningnote.h"

#include <algorithm>
#include <cstring>
#include <fcntl.h>
#include <fstream>
#include <sys/mman.h>
#include <sys/stat.h>
#include <unistd.h>

namespace cobbleway {
namespace {

constexpr std::size_t places = 256, recordBytes = 512, countBytes = 8, nameBytes = recordBytes - countBytes;
constexpr std::size_t noteBytes = places * recordBytes;

std::atomic_ref<std::uint32_t> countAt(char* record) {
    return std::atomic_ref<std::uint32_t>(*reinterpret_cast<std::uint32_t*>(record));
}

} // namespace

std::shared_ptr<RunningNote> RunningNote::make(const std::filesystem::path& path) {
    unlink(path.c_str());
    const int file =
        open(path.c_str(), O_RDWR | O_CREAT | O_EXCL | O_NOFOLLOW | O_CLOEXEC, S_IRUSR | S_IWUSR);
    if (file < 0) return nullptr;
    // With room on the disk from the start: a write to memory that the disk has no room for ends a program.
    void* memory = posix_fallocate(file, 0, noteBytes) == 0
                       ? mmap(nullptr, noteBytes, PROT_READ | PROT_WRITE, MAP_SHARED, file, 0)
                       : MAP_FAILED;
    close(file);
    if (memory == MAP_FAILED) {
        unlink(path.c_str());
        return nullptr;
    }
    return std::shared_ptr<RunningNote>(new RunningNote(path, static_cast<char*>(memory)));
}

RunningNote::~RunningNote() {
    munmap(m_memory, noteBytes);
    unlink(m_path.c_str());
}

RunningNote::Place::Place(std::shared_ptr<RunningNote> note, char* at)
    : m_note(std::move(note)), m_at(at), m_running(*reinterpret_cast<std::uint32_t*>(at)) {}

RunningNote::Place::~Place() {
    std::memset(m_at + countBytes, 0, nameBytes);
    m_running.store(0);
}

std::shared_ptr<RunningNote::Place> RunningNote::place(const std::string& name) {
    for (std::size_t i = 0; i < places; ++i) {
        char* record = m_memory + i * recordBytes;
        if (record[countBytes] != 0) continue;
        countAt(record).store(0);
        std::memcpy(record + countBytes, name.data(), std::min(name.size(), nameBytes - 1));
        return std::shared_ptr<Place>(new Place(shared_from_this(), record));
    }
    return nullptr;
}

namespace {

/// The name in a record of which code runs; empty for others.
std::string nameIfRunning(char* record) {
    record[recordBytes - 1] = 0;
    return countAt(record).load() > 0 ? std::string(record + countBytes) : std::string();
}

} // namespace

std::vector<std::string> RunningNote::running() const {
    std::vector<std::string> names;
    for (std::size_t i = 0; i < places; ++i)
        if (std::string name = nameIfRunning(m_memory + i * recordBytes); !name.empty())
            names.push_back(std::move(name));
    return names;
}

std::vector<std::string> RunningNote::left(const std::filesystem::path& path) {
    std::vector<std::string> names;
    std::ifstream in(path, std::ios::binary);
    std::vector<char> record(recordBytes);
    for (std::size_t i = 0; i < places && in.read(record.data(), recordBytes); ++i) {
        if (std::string name = nameIfRunning(record.data()); !name.empty()) names.push_back(std::move(name));
    }
    return names;
}

} // namespace cobbleway
