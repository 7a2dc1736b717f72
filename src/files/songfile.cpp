#include "files/songfile.h"

#include "font/fileversion.h"
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

/// Names that some systems keep for devices, whatever ending follows (from memory).
bool isReserved(std::string stem) {
    while (stem.ends_with(' ')) stem.pop_back();
    stem = inSmallLetters(stem);
    for (const char* device : {"con", "prn", "aux", "nul", "conin$", "conout$", "clock$"})
        if (stem == device) return true;
    if (!stem.starts_with("com") && !stem.starts_with("lpt")) return false;
    const std::string number = stem.substr(3);
    return (number.size() == 1 && number >= "0" && number <= "9") || number == "¹" || number == "²" ||
           number == "³";
}

/// One that is kept for devices with a sign that makes it another.
std::string unreserved(std::string name) {
    const std::size_t stem = std::min(name.find('.'), name.size());
    return isReserved(name.substr(0, stem)) ? name.insert(stem, "-") : name;
}

} // namespace

namespace {

/// What a file with notes holds; `where` is for errors.
Result<SourceFile> sourceOf(std::vector<std::uint8_t> bytes, const std::string& name,
                            const std::string& where) {
    auto source = readMidi(std::move(bytes), name);
    if (!source) return source.error();
    const auto& tracks = source.value().midi.tracks;
    const bool plays = std::any_of(tracks.begin(), tracks.end(), [](const Track& track) {
        return std::any_of(track.events.begin(), track.events.end(),
                           [](const Event& event) { return event.isNoteOn(); });
    });
    if (!plays) return Error{{"error.no-notes"}, where, {"now.other-file"}};
    return std::move(source.value());
}

} // namespace

Result<Song> songOfBytes(std::vector<std::uint8_t> bytes, const std::string& name) {
    auto source = sourceOf(std::move(bytes), name, name);
    if (!source) return source.error();
    return makeSong(std::make_shared<const SourceFile>(std::move(source.value())));
}

Result<Song> openSong(const fs::path& path) {
    std::string version = fileVersion(path); // before it is read: what is written meanwhile counts as later
    auto bytes = readFile(path);
    if (!bytes) return bytes.error();
    auto source = sourceOf(std::move(bytes.value()), validUtf8(path.filename().string()), path.string());
    if (!source) return source.error();
    std::error_code error;
    source.value().path = fs::absolute(path, error).lexically_normal().string();
    source.value().version = std::move(version);
    return makeSong(std::make_shared<const SourceFile>(std::move(source.value())));
}

Result<Done> writeSong(const Song& song, const MidiOrder& order, const fs::path& path) {
    if (order.part && !song.part(order.part)) return Error{{"error.part-gone"}, path.string(), {}};
    return writeFile(path, writeMidi(midiOf(song, order), {song.midi.runningStatus}));
}

bool isMidiFileName(const fs::path& path) {
    const std::string ending = inSmallLetters(path.extension().string());
    return ending == ".mid" || ending == ".midi" || ending == ".kar" || ending == ".rmi" || ending == ".smf";
}

namespace {

/// Looks through a folder: what is in the folders in it, then its own files.
class FolderWalk {
  public:
    FolderWalk(std::vector<fs::path>& files, std::vector<Error>* unread) : m_files(files), m_unread(unread) {}

    void walk(const fs::path& folder, int depth = 0) {
        constexpr int deepest = 200; // the system takes no path that is much longer
        std::vector<Entry> folders, files;
        std::error_code error;
        fs::directory_iterator at(folder, error);
        for (const fs::directory_iterator end; !error && at != end; at.increment(error)) {
            std::error_code ignored;
            const auto itself = at->symlink_status(ignored);
            if (fs::is_directory(itself))
                folders.push_back(entryOf(at->path()));
            else if (isMidiFileName(at->path()) && at->is_regular_file(ignored))
                files.push_back(entryOf(at->path()));
        }
        if (error && m_unread)
            m_unread->push_back({{"error.folder-read", {{"reason", error.message()}}},
                                 folder.string(),
                                 {"now.check-folder"}});
        for (std::vector<Entry>* list : {&folders, &files}) std::sort(list->begin(), list->end());
        for (const auto& [key, path] : folders)
            if (depth < deepest) walk(path, depth + 1);
        for (auto& [key, path] : files) m_files.push_back(std::move(path));
    }

  private:
    using Entry = std::pair<std::string, fs::path>;
    static Entry entryOf(const fs::path& path) { return {orderKey(path.filename().string()), path}; }
    std::vector<fs::path>& m_files;
    std::vector<Error>* m_unread;
};

} // namespace

std::vector<fs::path> midiFilesIn(const fs::path& folder, std::vector<Error>* unread) {
    std::vector<fs::path> files;
    FolderWalk(files, unread).walk(folder);
    return files;
}

std::string fileNameFrom(const std::string& text, std::size_t most) {
    std::string name;
    for (const char c : oneLine(text)) {
        const bool bad = std::string_view("/\\:*?\"<>|").find(c) != std::string_view::npos;
        name += bad ? '-' : c;
    }
    while (!name.empty() && (name.front() == '.' || name.front() == ' ')) name.erase(0, 1);
    while (!name.empty() && (name.back() == '.' || name.back() == ' ')) name.pop_back();
    name = cutAtLetter(name, most);
    while (!name.empty() && (name.back() == '.' || name.back() == ' ')) name.pop_back();
    if (name.empty()) return "song";
    return unreserved(std::move(name));
}

bool isSourceOf(const Song& song, const fs::path& path) {
    std::error_code error;
    if (!song.source || !fs::is_regular_file(path, error)) return false;
    if (!song.source->path.empty() && fs::equivalent(path, song.source->path, error)) return true;
    const auto size = fs::file_size(path, error);
    if (error || size != song.source->midi.pool.size()) return false;
    const auto bytes = readFile(path);
    return bytes && bytes.value() == song.source->midi.pool;
}

OnDisk stateOnDisk(const SourceFile& source) {
    std::error_code error;
    if (source.path.empty()) return OnDisk::Unknown;
    if (!fs::is_regular_file(source.path, error)) return OnDisk::Gone;
    if (!source.version.empty() && fileVersion(source.path) == source.version) return OnDisk::Same;
    if (fs::file_size(source.path, error) != source.midi.pool.size() || error) return OnDisk::Changed;
    const auto bytes = readFile(source.path);
    return bytes && bytes.value() == source.midi.pool ? OnDisk::Same : OnDisk::Changed;
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
