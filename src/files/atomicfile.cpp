#include "files/atomicfile.h"

#include <array>
#include <atomic>
#include <cerrno>
#include <csignal>
#include <cstdlib>
#include <cstring>
#include <fcntl.h>
#include <fstream>
#include <sys/random.h>
#include <sys/stat.h>
#include <unistd.h>
#include <utility>

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

fs::path folderOf(const fs::path& file) {
    return file.parent_path().empty() ? fs::path(".") : file.parent_path();
}

/// Whether a link may have been laid by somebody else to be written through. Groups are often the person's
/// own alone, so that there their own links count.
bool isOthersLink(const fs::path& link) {
    struct stat folder {
    }, itself{};
    if (stat(folderOf(link).c_str(), &folder) != 0 || lstat(link.c_str(), &itself) != 0) return false;
    if (folder.st_mode & S_IWOTH) return true;
    return (folder.st_mode & S_IWGRP) && itself.st_uid != geteuid();
}

/// What a chain of symbolic links leads to in the end, there or not.
fs::path behindLinks(fs::path path) {
    std::error_code error;
    for (int links = 0; links < 40 && fs::is_symlink(path, error) && !isOthersLink(path); ++links) {
        const fs::path to = fs::read_symlink(path, error);
        if (error) break;
        path = to.is_absolute() ? to : path.parent_path() / to;
    }
    return path;
}

/// A name that nobody can guess and lay something under; the program's number says who may remove it.
std::string temporaryName() {
    std::array<unsigned char, 8> random{};
    if (getrandom(random.data(), random.size(), 0) != static_cast<ssize_t>(random.size())) return {};
    std::string name = temporaryStart() + std::to_string(getpid()) + "-";
    constexpr const char* digits = "0123456789abcdef";
    for (const unsigned char byte : random) {
        name += digits[byte >> 4];
        name += digits[byte & 15];
    }
    return name + temporaryEnding;
}

/// The person's umask, which can only be read by setting it or from the system's account of the process;
/// the first would be seen by other threads.
mode_t umaskNow() {
    std::ifstream status("/proc/self/status");
    for (std::string word; status >> word;)
        if (word == "Umask:" && status >> word) return static_cast<mode_t>(std::stoul(word, nullptr, 8));
    return 022;
}

bool flushFolder(const fs::path& path) {
    const int folder = open(path.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC);
    if (folder < 0) return false;
    const bool flushed = fsync(folder) == 0;
    close(folder);
    return flushed;
}

} // namespace

AtomicFile::AtomicFile(fs::path target, Readers readers) : m_target(std::move(target)), m_readers(readers) {
    m_folder = ::open(folderOf(m_target).c_str(), O_PATH | O_DIRECTORY | O_CLOEXEC);
    for (int tries = 0; tries < 8 && m_file < 0; ++tries) {
        const std::string name = temporaryName();
        m_temporary = m_target;
        m_temporary.replace_filename(name);
        m_file = openat(m_folder, name.c_str(), O_RDWR | O_CREAT | O_EXCL | O_NOFOLLOW | O_CLOEXEC,
                        S_IRUSR | S_IWUSR);
        if (m_file < 0 && errno != EEXIST) return;
    }
}

Result<std::unique_ptr<AtomicFile>> AtomicFile::open(const fs::path& target, Readers readers) {
    if (auto problem = refusalOf(target)) return *problem;
    std::unique_ptr<AtomicFile> file(new AtomicFile(behindLinks(target), readers));
    if (file->m_file < 0) return failure("error.write", target, errno);
    return file;
}

std::optional<Error> AtomicFile::refusalOf(const fs::path& target) {
    std::error_code error;
    const fs::path written = behindLinks(target);
    const auto status = fs::symlink_status(written, error); // a link that is left is replaced
    if (fs::exists(status) && !fs::is_regular_file(status) && !fs::is_symlink(status))
        return Error{{fs::is_directory(status) ? "error.is-folder" : "error.is-device"},
                     target.string(),
                     {"now.other-name"}};
    return refusalIn(folderOf(written));
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
    if (!m_committed && m_folder >= 0) unlinkat(m_folder, m_temporary.filename().c_str(), 0);
    if (m_file >= 0) close(m_file);
    if (m_folder >= 0) close(m_folder);
}

bool AtomicFile::write(std::span<const std::uint8_t> bytes) {
    while (!bytes.empty() && m_failure == 0) {
        const ssize_t written = ::write(m_file, bytes.data(), bytes.size());
        if (written < 0 && errno == EINTR) continue;
        if (written <= 0)
            m_failure = written < 0 ? errno : ENOSPC;
        else
            bytes = bytes.subspan(static_cast<std::size_t>(written));
    }
    return m_failure == 0;
}

bool AtomicFile::folderIsThere() const {
    struct stat began {
    }, now{};
    return fstat(m_folder, &began) == 0 && stat(folderOf(m_target).c_str(), &now) == 0 &&
           began.st_dev == now.st_dev && began.st_ino == now.st_ino;
}

bool AtomicFile::isOurs() const {
    struct stat written {
    }, there{};
    return fstat(m_file, &written) == 0 &&
           fstatat(m_folder, m_temporary.filename().c_str(), &there, AT_SYMLINK_NOFOLLOW) == 0 &&
           written.st_dev == there.st_dev && written.st_ino == there.st_ino;
}

Error AtomicFile::refused(int number) const { return failure("error.write-disk", m_target, number); }

void AtomicFile::setRights() const {
    if (m_readers == Readers::Owner) return; // it was made so
    struct stat old {};
    const bool replaces = lstat(m_target.c_str(), &old) == 0 && S_ISREG(old.st_mode);
    (void)fchmod(m_file, replaces ? old.st_mode & 0777 : 0666 & ~umaskNow()); // some disks have no rights
}

Result<Done> AtomicFile::commit() {
    if (m_failure != 0) return refused(m_failure);
    if (!folderIsThere() || !isOurs())
        return Error{{"error.folder-gone"}, m_target.string(), {"now.write-again"}};
    if (fsync(m_file) != 0) return refused(errno);
    setRights();
    if (close(std::exchange(m_file, -1)) != 0)
        return refused(errno); // some disks say only then that they are full
    if (renameat(m_folder, m_temporary.filename().c_str(), m_folder, m_target.filename().c_str()) != 0)
        return failure("error.write-place", m_target, errno);
    m_committed = true;
    flushFolder(folderOf(m_target));
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

Result<Done> makePrivateFolder(const fs::path& folder) {
    std::error_code error;
    if (!fs::exists(folder, error)) {
        if (auto above = makeFolder(folderOf(folder)); !above) return above;
        if (mkdir(folder.c_str(), S_IRWXU) != 0 && errno != EEXIST)
            return failure("error.folder-make", folder, errno);
    }
    struct stat there {};
    if (stat(folder.c_str(), &there) != 0 || !S_ISDIR(there.st_mode))
        return Error{{"error.folder-is-file"}, folder.string(), {"now.other-folder"}};
    if (there.st_uid == geteuid() && (there.st_mode & 0777) != S_IRWXU) (void)chmod(folder.c_str(), S_IRWXU);
    return Done{};
}

Result<Done> writeFile(const fs::path& path, std::span<const std::uint8_t> bytes, Readers readers) {
    auto file = AtomicFile::open(path, readers);
    if (!file) return file.error();
    (void)file.value()->write(bytes); // commit() tells of it
    return file.value()->commit();
}

Result<Done> writeFile(const fs::path& path, const std::string& text, Readers readers) {
    return writeFile(path, std::span(reinterpret_cast<const std::uint8_t*>(text.data()), text.size()),
                     readers);
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
