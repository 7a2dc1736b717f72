#include "files/exportwords.h"
#include "midi/thrown.h"
#include "words/letters.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <mutex>
#include <set>

namespace cobbleway {

namespace fs = std::filesystem;

namespace {

/// Of a folder that gets sound files.
fs::path playlistIn(const fs::path& folder, const fs::path& top) {
    return folder / (folder == top ? "Play list.m3u8" : folder.filename().string() + ".m3u8");
}

/// A play list where nothing is written over unasked.
ExportOutcome writePlaylist(const fs::path& folder, const std::string& text, const ExportOptions& options) {
    ExportOutcome outcome;
    outcome.path = playlistIn(folder, options.folder);
    std::error_code error;
    const bool there = fs::exists(fs::symlink_status(outcome.path, error));
    if (there && options.existing == Existing::Leave) {
        outcome.error = {{"error.left"}, {}, {}};
        return outcome;
    }
    if (there && options.existing == Existing::Number) outcome.path = freePath(outcome.path);
    const auto done = writeFile(outcome.path, text);
    outcome.written = done.ok();
    if (!done) outcome.error = done.error();
    return outcome;
}

/// The play lists of all folders that got sound files.
std::vector<ExportOutcome> writePlaylists(const std::vector<SongExport>& songs, const SetOutcome& made,
                                          const ExportOptions& options) {
    std::map<fs::path, std::string> lists;
    for (std::size_t s = 0; s < songs.size(); ++s)
        for (const ExportOutcome& outcome : made.songs[s]) {
            const ExportItem& item = songs[s].items[outcome.item];
            if (!outcome.written || !item.isSound()) continue;
            std::string& list = lists[outcome.path.parent_path()];
            if (list.empty()) list = "#EXTM3U\n";
            list += "#EXTINF:" + std::to_string(std::lround(outcome.measured.seconds)) + "," +
                    oneLine(tagsOf(songs[s].song, item, options).title) + "\n" +
                    outcome.path.filename().string() + "\n";
        }
    std::vector<ExportOutcome> outcomes;
    for (const auto& [folder, text] : lists) outcomes.push_back(writePlaylist(folder, text, options));
    return outcomes;
}

/// The songs by how much there is to do: a long one that began last would be waited for.
std::vector<std::size_t> longestFirst(const std::vector<SongExport>& songs, const ExportOptions& options) {
    std::vector<std::pair<double, std::size_t>> work;
    for (std::size_t i = 0; i < songs.size(); ++i) {
        double seconds = 0;
        for (const ExportItem& item : songs[i].items) seconds += secondsOf(songs[i].song, item, options);
        work.emplace_back(-seconds, i);
    }
    std::sort(work.begin(), work.end());
    std::vector<std::size_t> order;
    for (const auto& one : work) order.push_back(one.second);
    return order;
}

/// What became of the items of a song whose writing ended with an exception.
std::vector<ExportOutcome> failedOutcomes(const std::vector<ExportItem>& items, const Error& error) {
    std::vector<ExportOutcome> outcomes;
    for (std::size_t i = 0; i < items.size(); ++i) outcomes.push_back({i, false, {}, {}, error});
    return outcomes;
}

} // namespace

std::vector<fs::path> playlistsThere(const std::vector<SongExport>& songs, const fs::path& folder) {
    std::set<fs::path> there;
    std::error_code error;
    for (const SongExport& song : songs)
        for (const ExportItem& item : song.items)
            if (const auto list = playlistIn((folder / item.fileName).parent_path(), folder);
                item.isSound() && fs::exists(list, error))
                there.insert(list);
    return {there.begin(), there.end()};
}

SetOutcome writeSet(const std::vector<SongExport>& songs, const Catalogue& catalogue,
                    const SetExportOptions& options) {
    SetOutcome made;
    made.songs.resize(songs.size());
    std::mutex lock;
    std::vector<double> progress(songs.size(), 0);
    const int threads = std::max(1, options.jobs);
    const int atATime = std::min(threads, static_cast<int>(std::max<std::size_t>(1, songs.size())));
    ThreadShare spare(threads - atATime);
    SpoolMemory memory(SpoolMemory::share());
    const std::vector<std::size_t> order = longestFirst(songs, options.each);
    const auto writeSong = [&](std::size_t i) {
        ExportOptions each = options.each;
        each.track = songs[i].number;
        each.workers = {1, &spare};
        each.memory = &memory;
        each.progress = [&, i](double share) {
            if (!options.progress) return;
            const std::lock_guard hold(lock);
            progress[i] = share;
            double sum = 0;
            for (const double one : progress) sum += one;
            options.progress(sum / static_cast<double>(progress.size()));
        };
        each.silent = [&, i](const Error& error) {
            const std::lock_guard hold(lock);
            if (options.silent) options.silent(i, error);
        };
        try {
            made.songs[i] = writeExports(songs[i].song, catalogue, songs[i].items, each);
        } catch (...) {
            made.songs[i] = failedOutcomes(songs[i].items, thrownError(std::current_exception()));
        }
        each.progress(1);
        const std::lock_guard hold(lock);
        if (options.done) options.done(i, made.songs[i]);
    };
    // A thread that is left is given to the songs that are not done yet.
    forEachOn(
        {atATime}, order.size(), [&](std::size_t at) { writeSong(order[at]); }, &spare);
    if (options.playlists && !options.each.stop.stop_requested())
        made.playlists = writePlaylists(songs, made, options.each);
    return made;
}

} // namespace cobbleway
