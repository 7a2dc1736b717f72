#include "files/songfile.h"

#include "midi/text.h"
#include "midi/writer.h"
#include "words/letters.h"

#include <algorithm>

namespace cobbleway {
namespace fs = std::filesystem;

namespace {

/// At most so many bytes of UTF-8 text, whole letters only.
std::string cutAtLetter(const std::string& text, std::size_t most) {
    if (text.size() <= most) return text;
    std::size_t end = most;
    while (end > 0 && (static_cast<unsigned char>(text[end]) & 0xC0) == 0x80) --end;
    return text.substr(0, end);
}

/// Names that some systems keep for devices.
bool isReserved(const std::string& name) {
    const std::string stem = inSmallLetters(name.substr(0, name.find('.')));
    if (stem == "con" || stem == "prn" || stem == "aux" || stem == "nul") return true;
    return stem.size() == 4 && (stem.starts_with("com") || stem.starts_with("lpt")) && stem[3] >= '1' &&
           stem[3] <= '9';
}

} // namespace

Result<Song> openSong(const fs::path& path) {
    auto bytes = readFile(path);
    if (!bytes) return bytes.error();
    auto source = readMidi(std::move(bytes.value()), validUtf8(path.filename().string()));
    if (!source) return source.error();
    const auto& tracks = source.value().midi.tracks;
    const bool plays = std::any_of(tracks.begin(), tracks.end(), [](const Track& track) {
        return std::any_of(track.events.begin(), track.events.end(),
                           [](const Event& event) { return event.isNoteOn(); });
    });
    if (!plays) return Error{{"error.no-notes"}, path.string(), {"now.other-file"}};
    return makeSong(std::make_shared<const SourceFile>(std::move(source.value())));
}

Result<Done> writeSong(const Song& song, Layout layout, const fs::path& path) {
    return writeFile(path, writeMidi(toMidi(song, layout), {song.midi.runningStatus}));
}

Result<Done> writePart(const Song& song, const Part& part, const fs::path& path) {
    return writeFile(path, writeMidi(toMidi(song, part), {song.midi.runningStatus}));
}

bool isMidiFileName(const fs::path& path) {
    const std::string ending = inSmallLetters(path.extension().string());
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

std::string fileNameFrom(const std::string& text, std::size_t most) {
    std::string name;
    for (const char c : text) {
        const bool bad = static_cast<unsigned char>(c) < 0x20 ||
                         std::string_view("/\\:*?\"<>|").find(c) != std::string_view::npos;
        name += bad ? '-' : c;
    }
    while (!name.empty() && (name.front() == '.' || name.front() == ' ')) name.erase(0, 1);
    while (!name.empty() && (name.back() == '.' || name.back() == ' ')) name.pop_back();
    name = cutAtLetter(name, most);
    while (!name.empty() && (name.back() == '.' || name.back() == ' ')) name.pop_back();
    if (name.empty()) return "song";
    return isReserved(name) ? name + "-" : name;
}

bool isSourceOf(const Song& song, const fs::path& path) {
    std::error_code error;
    if (!song.source || !fs::is_regular_file(path, error)) return false;
    const auto size = fs::file_size(path, error);
    if (error || size != song.source->midi.pool.size()) return false;
    const auto bytes = readFile(path);
    return bytes && bytes.value() == song.source->midi.pool;
}

fs::path freePath(const fs::path& path) {
    std::error_code error;
    fs::path free = path;
    for (int number = 2; fs::exists(free, error) && number < 10000; ++number)
        free.replace_filename(path.stem().string() + " " + std::to_string(number) +
                              path.extension().string());
    return free;
}

} // namespace cobbleway
