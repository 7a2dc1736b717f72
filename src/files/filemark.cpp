#include "files/filemark.h"

#include "files/atomicfile.h"
#include "font/fileversion.h"
#include "midi/fingerprint.h"

namespace cobbleway {

FileMark markOf(const std::filesystem::path& path) {
    FileMark mark{fileVersion(path)}; // before it is read: what is written meanwhile counts as later
    std::error_code error;
    const auto bytes = std::filesystem::is_regular_file(path, error)
                           ? readFile(path)
                           : Result<std::vector<std::uint8_t>>(Error{});
    if (!bytes) return {};
    Fingerprint print;
    print.add(std::span(bytes.value()));
    mark.digest = print.value();
    return mark;
}

bool hasChanged(const std::filesystem::path& path, const FileMark& since) {
    std::error_code error;
    if (since == FileMark{} || !std::filesystem::exists(path, error)) return false;
    if (fileVersion(path) == since.version) return false;
    return markOf(path).digest != since.digest;
}

} // namespace cobbleway
