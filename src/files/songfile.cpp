#include "files/songfile.h"

#include "midi/text.h"
#include "midi/writer.h"

#include <algorithm>

namespace cobbleway {
namespace fs = std::filesystem;

Result<Song> openSong(const fs::path& path) {
    auto bytes = readFile(path);
    if (!bytes) return bytes.error();
    auto source = readMidi(std::move(bytes.value()), validUtf8(path.filename().string()));
    if (!source) return source.error();
    return makeSong(std::make_shared<const SourceFile>(std::move(source.value())));
}

Result<Done> writeSong(const Song& song, Layout layout, const fs::path& path) {
    return writeFile(path, writeMidi(toMidi(song, layout), {song.midi.runningStatus}));
}

Result<Done> writePart(const Song& song, const Part& part, const fs::path& path) {
    return writeFile(path, writeMidi(toMidi(song, part), {song.midi.runningStatus}));
}

bool isMidiFileName(const fs::path& path) {
    std::string ending = path.extension().string();
    std::transform(ending.begin(), ending.end(), ending.begin(),
                   [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    return ending == ".mid" || ending == ".midi" || ending == ".kar" || ending == ".rmi" || ending == ".smf";
}

std::vector<fs::path> midiFilesIn(const fs::path& folder) {
    constexpr std::size_t most = 10000;
    std::vector<fs::path> files;
    std::error_code error;
    for (fs::recursive_directory_iterator at(folder, fs::directory_options::skip_permission_denied, error),
         end;
         at != end && !error; at.increment(error)) {
        if (files.size() >= most) break;
        std::error_code ignored;
        if (at->is_regular_file(ignored) && isMidiFileName(at->path())) files.push_back(at->path());
    }
    std::sort(files.begin(), files.end());
    return files;
}

std::string fileNameFrom(const std::string& text) {
    std::string name;
    for (const char c : text) {
        const bool bad = static_cast<unsigned char>(c) < 0x20 ||
                         std::string_view("/\\:*?\"<>|").find(c) != std::string_view::npos;
        name += bad ? '-' : c;
    }
    while (!name.empty() && (name.front() == '.' || name.front() == ' ')) name.erase(0, 1);
    while (!name.empty() && (name.back() == '.' || name.back() == ' ')) name.pop_back();
    return name.empty() ? "song" : name.substr(0, 120);
}

} // namespace cobbleway
