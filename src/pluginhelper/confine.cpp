#include "pluginhelper/confine.h"

#include <csignal>
#include <cstdint>
#include <cstdlib>
#include <fcntl.h>
#include <linux/landlock.h>
#include <sys/prctl.h>
#include <sys/stat.h>
#include <sys/syscall.h>
#include <unistd.h>

namespace cobbleway {
namespace {

constexpr std::uint64_t reading =
    LANDLOCK_ACCESS_FS_EXECUTE | LANDLOCK_ACCESS_FS_READ_FILE | LANDLOCK_ACCESS_FS_READ_DIR;
constexpr std::uint64_t ofFiles =
    LANDLOCK_ACCESS_FS_EXECUTE | LANDLOCK_ACCESS_FS_READ_FILE | LANDLOCK_ACCESS_FS_WRITE_FILE;
/// All that the first version of the interface knows; what later ones add stays as it is.
constexpr std::uint64_t everything = reading | LANDLOCK_ACCESS_FS_WRITE_FILE | LANDLOCK_ACCESS_FS_REMOVE_DIR |
                                     LANDLOCK_ACCESS_FS_REMOVE_FILE | LANDLOCK_ACCESS_FS_MAKE_CHAR |
                                     LANDLOCK_ACCESS_FS_MAKE_DIR | LANDLOCK_ACCESS_FS_MAKE_REG |
                                     LANDLOCK_ACCESS_FS_MAKE_SOCK | LANDLOCK_ACCESS_FS_MAKE_FIFO |
                                     LANDLOCK_ACCESS_FS_MAKE_BLOCK | LANDLOCK_ACCESS_FS_MAKE_SYM;

void allow(int rules, const std::filesystem::path& path, std::uint64_t what) {
    const int place = open(path.c_str(), O_PATH | O_CLOEXEC);
    if (place < 0) return;
    struct stat there {};
    if (fstat(place, &there) == 0) {
        landlock_path_beneath_attr rule{};
        rule.allowed_access = S_ISDIR(there.st_mode) ? what : what & ofFiles;
        rule.parent_fd = place;
        (void)syscall(SYS_landlock_add_rule, rules, LANDLOCK_RULE_PATH_BENEATH, &rule, 0);
    }
    close(place);
}

} // namespace

void endWithParent(long parent) {
    prctl(PR_SET_PDEATHSIG, SIGKILL);
    if (parent > 0 && getppid() != parent) std::_Exit(1); // it has ended meanwhile
}

Confined confine(const std::filesystem::path& home, const std::vector<std::filesystem::path>& readable) {
    landlock_ruleset_attr wanted{};
    wanted.handled_access_fs = everything;
    const int rules = static_cast<int>(syscall(SYS_landlock_create_ruleset, &wanted, sizeof wanted, 0));
    if (rules < 0) return Confined::Not;
    for (const char* folder : {"/usr", "/lib", "/lib32", "/lib64", "/libx32", "/bin", "/sbin", "/etc", "/opt",
                               "/nix", "/proc", "/sys", "/run/opengl-driver"})
        allow(rules, folder, reading);
    for (const auto& path : readable) allow(rules, path, reading);
    for (const char* device : {"/dev/null", "/dev/zero", "/dev/full", "/dev/random", "/dev/urandom"})
        allow(rules, device, reading | LANDLOCK_ACCESS_FS_WRITE_FILE);
    allow(rules, "/dev/dri", reading | LANDLOCK_ACCESS_FS_WRITE_FILE); // for windows that are drawn there
    if (!home.empty()) allow(rules, home, everything);
    prctl(PR_SET_NO_NEW_PRIVS, 1, 0, 0, 0); // without which the next is for root alone
    const bool done = syscall(SYS_landlock_restrict_self, rules, 0) == 0;
    close(rules);
    return done ? Confined::Landlock : Confined::Not;
}

} // namespace cobbleway
