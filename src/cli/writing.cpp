#include "cli/writing.h"

#include "files/helperhome.h"
#include "files/songfile.h"
#include "midi/writer.h"

#include <cerrno>
#include <cmath>
#include <cstdio>
#include <system_error>
#include <unistd.h>

namespace cobbleway::cli {
namespace fs = std::filesystem;

Result<Done> mayWrite(const Arguments& arguments, const fs::path& path) {
    if (path == standardStream) return Done{};
    std::error_code error;
    if (!fs::exists(path, error)) return Done{};
    if (fs::equivalent(path, arguments.words[0], error))
        return Error{{"cli.same-file"}, path.string(), {"cli.other-name"}};
    if (arguments.has("--replace")) return Done{};
    return Error{{"cli.is-there"}, path.string(), {"cli.replace"}};
}

namespace {

Result<Done> send(std::span<const std::uint8_t> bytes) {
    const bool sent =
        std::fwrite(bytes.data(), 1, bytes.size(), stdout) == bytes.size() && std::fflush(stdout) == 0;
    if (!sent) return Error{{"cli.no-output"}, "", {"now.check-room"}};
    return Done{};
}

} // namespace

Result<Done> writeMidiTo(const Song& song, const MidiOrder& order, const fs::path& path) {
    if (path != standardStream) return writeSong(song, order, path);
    return send(writeMidi(midiOf(song, order), {song.midi.runningStatus}));
}

Result<Done> throughFile(const std::string& ending,
                         const std::function<Result<Done>(const fs::path&)>& write) {
    std::string folder = (fs::temp_directory_path() / "cobbleway-XXXXXX").string();
    if (!mkdtemp(folder.data()))
        return Error{{"error.folder-make", {{"reason", std::generic_category().message(errno)}}},
                     folder,
                     {"now.check-room"}};
    const fs::path file = fs::path(folder) / ("sound" + ending);
    auto done = write(file);
    if (done) {
        const auto bytes = readFile(file);
        done = bytes ? send(bytes.value()) : Result<Done>(bytes.error());
    }
    std::error_code error;
    fs::remove_all(folder, error);
    return done;
}

std::string numberedName(std::size_t number, const Part& part, const char* ending) {
    return (number < 10 ? "0" : "") + std::to_string(number) + " " + fileNameFrom(part.name) + ending;
}

std::function<void(double)> progressFor(const Arguments& arguments) {
    if (arguments.has("--quiet") || !isatty(STDERR_FILENO)) return {};
    return [last = -1](double share) mutable {
        const int now = static_cast<int>(std::lround(share * 100));
        if (now == last) return;
        last = now;
        std::fprintf(stderr, now >= 100 ? "\r     \r" : "\r%d %%", now);
        std::fflush(stderr);
    };
}

} // namespace cobbleway::cli
