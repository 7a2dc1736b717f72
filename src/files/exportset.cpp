#include "files/exportwords.h"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <map>
#include <mutex>
#include <thread>

namespace cobbleway {

namespace fs = std::filesystem;

namespace {

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
                    tagsOf(songs[s].song, item, options).title + "\n" + outcome.path.filename().string() +
                    "\n";
        }
    std::vector<ExportOutcome> outcomes;
    for (const auto& [folder, text] : lists) {
        ExportOutcome outcome;
        outcome.path =
            folder / (folder == options.folder ? "Play list.m3u8" : folder.filename().string() + ".m3u8");
        std::error_code error;
        if (fs::exists(outcome.path, error) && options.existing == Existing::Number)
            outcome.path = freePath(outcome.path);
        const auto done = writeFile(outcome.path, text);
        outcome.written = done.ok();
        if (!done) outcome.error = done.error();
        outcomes.push_back(std::move(outcome));
    }
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

} // namespace

SetOutcome writeSet(const std::vector<SongExport>& songs, const Catalogue& catalogue,
                    const SetExportOptions& options) {
    SetOutcome made;
    made.songs.resize(songs.size());
    std::mutex lock;
    std::vector<double> progress(songs.size(), 0);
    std::atomic<std::size_t> next{0};
    const int threads = std::max(1, options.jobs);
    const int atATime = std::min(threads, static_cast<int>(std::max<std::size_t>(1, songs.size())));
    ThreadShare spare(threads - atATime);
    SpoolMemory memory(SpoolMemory::share());
    const std::vector<std::size_t> order = longestFirst(songs, options.each);
    const auto work = [&] {
        for (std::size_t at = next++; at < order.size(); at = next++) {
            const std::size_t i = order[at];
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
            made.songs[i] = writeExports(songs[i].song, catalogue, songs[i].items, each);
            each.progress(1);
            const std::lock_guard hold(lock);
            if (options.done) options.done(i, made.songs[i]);
        }
        spare.giveBackOne(); // to the songs that are not done yet
    };
    {
        std::vector<std::jthread> helpers;
        for (int i = 1; i < atATime; ++i) helpers.emplace_back(work);
        work();
    }
    if (options.playlists && !options.each.stop.stop_requested())
        made.playlists = writePlaylists(songs, made, options.each);
    return made;
}

} // namespace cobbleway
