#include "files/atomicfile.h"

#include <array>
#include <atomic>
#include <cerrno>
#include <csignal>
#include <cstdlib>
#include <cstring>
#include <fcntl.h>
#include <fstream>
#include <sys/stat.h>
#include <unistd.h>

namespace cobbleway {
namespace fs = std::filesystem;
namespace {

Error failure(const char* what, const fs::path& path, int number) {
    return {{what, {{"reason", std::string(std::strerror(number))}}}, path.string(), {"now.check-folder"}};
}

constexpr const char* temporaryEnding = ".part";

/// ".cobbleway-" and the computer's name: a program of another one, on a shared disk, may still be writing.
std::string temporaryStart() {
    std::array<char, 64> host{};
    if (gethostname(host.data(), host.size() - 1) != 0) host[0] = 0;
    return ".cobbleway-" + std::string(host.data()).substr(0, 32) + "-";
}

/// What a chain of symbolic links leads to in the end, there or not.
fs::path behindLinks(fs::path path) {
    std::error_code error;
    for (int links = 0; links < 40 && fs::is_symlink(path, error); ++links) {
        const fs::path to = fs::read_symlink(path, error);
        if (error) break;
        path = to.is_absolute() ? to : path.parent_path() / to;
    }
    return path;
}

fs::path folderOf(const fs::path& file) {
    return file.parent_path().empty() ? fs::path(".") : file.parent_path();
}

bool flushToDisk(const fs::path& path) {
    const int file = open(path.c_str(), O_RDONLY | O_CLOEXEC);
    if (file < 0) return false;
    const bool flushed = fsync(file) == 0;
    close(file);
    return flushed;
}

} // namespace

AtomicFile::AtomicFile(fs::path target) : m_target(behindLinks(std::move(target))) {
    static std::atomic<unsigned> counter{0};
    m_temporary = m_target;
    m_temporary.replace_filename(temporaryStart() + std::to_string(getpid()) + "-" +
                                 std::to_string(counter++) + temporaryEnding);
    m_folder = open(folderOf(m_target).c_str(), O_PATH | O_DIRECTORY | O_CLOEXEC);
}

std::optional<Error> AtomicFile::refusalOf(const fs::path& target) {
    std::error_code error;
    const auto status = fs::status(behindLinks(target), error);
    if (fs::exists(status) && !fs::is_regular_file(status))
        return Error{{fs::is_directory(status) ? "error.is-folder" : "error.is-device"},
                     target.string(),
                     {"now.other-name"}};
    return refusalIn(folderOf(behindLinks(target)));
}

std::optional<Error> AtomicFile::refusalIn(const fs::path& folder) {
    std::error_code error;
    if (!fs::is_directory(folder, error))
        return Error{{"error.no-folder"}, folder.string(), {"now.other-folder"}};
    if (access(folder.c_str(), W_OK) != 0)
        return Error{{"error.folder-rights"}, folder.string(), {"now.other-folder"}};
    return std::nullopt;
}

AtomicFile::~AtomicFile() {
    if (!m_committed) unlinkat(m_folder, m_temporary.filename().c_str(), 0);
    if (m_folder >= 0) close(m_folder);
}

bool AtomicFile::folderIsThere() const {
    struct stat began {
    }, now{};
    return fstat(m_folder, &began) == 0 && stat(folderOf(m_target).c_str(), &now) == 0 &&
           began.st_dev == now.st_dev && began.st_ino == now.st_ino;
}

Result<Done> AtomicFile::commit() {
    if (!folderIsThere()) return Error{{"error.folder-gone"}, m_target.string(), {"now.write-again"}};
    struct stat old {};
    if (stat(m_target.c_str(), &old) == 0) (void)chmod(m_temporary.c_str(), old.st_mode & 07777);
    if (!flushToDisk(m_temporary)) return failure("error.write-disk", m_target, errno);
    if (renameat(m_folder, m_temporary.filename().c_str(), m_folder, m_target.filename().c_str()) != 0)
        return failure("error.write-place", m_target, errno);
    m_committed = true;
    flushToDisk(folderOf(m_target));
    return Done{};
}

int removeAbandoned(const fs::path& folder) {
    int removed = 0;
    const std::string start = temporaryStart();
    std::error_code error;
    for (const auto& entry :
         fs::directory_iterator(folder, fs::directory_options::skip_permission_denied, error)) {
        const std::string name = entry.path().filename().string();
        if (!name.starts_with(start) || !name.ends_with(temporaryEnding)) continue;
        const long writer = std::strtol(name.c_str() + start.size(), nullptr, 10);
        const bool ended = writer > 0 && kill(static_cast<pid_t>(writer), 0) != 0 && errno == ESRCH;
        std::error_code ignored;
        removed += ended && fs::remove(entry.path(), ignored);
    }
    return removed;
}

Result<Done> makeFolder(const fs::path& folder) {
    std::error_code error;
    fs::create_directories(folder, error);
    if (error || !fs::is_directory(folder, error))
        return Error{error ? Message("error.folder-make", {{"reason", error.message()}})
                           : Message("error.folder-is-file"),
                     folder.string(),
                     {"now.other-folder"}};
    return Done{};
}

Result<Done> writeFile(const fs::path& path, std::span<const std::uint8_t> bytes) {
    if (auto problem = AtomicFile::refusalOf(path)) return *problem;
    AtomicFile file(path);
    {
        std::ofstream out(file.temporaryPath(), std::ios::binary);
        out.write(reinterpret_cast<const char*>(bytes.data()), static_cast<std::streamsize>(bytes.size()));
        out.flush();
        if (!out) return failure("error.write", path, errno);
    }
    return file.commit();
}

Result<Done> writeFile(const fs::path& path, const std::string& text) {
    return writeFile(path, std::span(reinterpret_cast<const std::uint8_t*>(text.data()), text.size()));
}

Result<std::vector<std::uint8_t>> readFile(const fs::path& path) {
    std::error_code error;
    if (fs::is_directory(path, error)) return Error{{"error.is-folder"}, path.string(), {"now.add-folder"}};
    if (fs::exists(path, error) && !fs::is_regular_file(path, error))
        return Error{{"error.is-device"}, path.string(), {"now.other-file"}};
    std::ifstream in(path, std::ios::binary | std::ios::ate);
    if (!in) return failure("error.open", path, errno);
    const std::streamoff size = in.tellg();
    if (size < 0 || size > (std::streamoff{1} << 30))
        return Error{{"error.too-large"}, path.string(), {"now.other-file"}};
    std::vector<std::uint8_t> bytes(static_cast<std::size_t>(size));
    in.seekg(0);
    in.read(reinterpret_cast<char*>(bytes.data()), size);
    if (!in) return failure("error.read", path, errno);
    return bytes;
}

} // namespace cobbleway
