/// All three practice mixes of each part of a song (in front, alone, without) from one pass, against one
/// render by libfluidsynth's own file player with its reverberation, since ours have a room. Aim, in
/// processor time for a song of ten parts: 1.3 times with a large font, 1.6 with the house font. Then the
/// same as files of 16 bits brought to −18 LUFS, and the songs as a set, by one thread and by two. Usage:
/// bench-mixes FONT.sf2 FILE.mid…
#include "measure.h"
#include "synth.h"

#include "files/exports.h"
#include "files/songfile.h"
#include "song/shape/edits.h"
#include "sound/render.h"

#include <cstdio>
#include <filesystem>
#include <set>
#include <unistd.h>

using namespace cobbleway;

namespace {

std::vector<Song> practiceMixes(const Song& song) {
    std::vector<Song> mixes;
    for (const Part& part : song.parts) {
        if (part.aside) continue;
        mixes.push_back(edits::putInFront(song, part.id));
        mixes.push_back(edits::onlyPart(song, part.id));
        mixes.push_back(edits::allBut(song, part.id));
    }
    return mixes;
}

/// A folder that goes with it.
struct Folder {
    std::filesystem::path path =
        std::filesystem::temp_directory_path() / ("bench-mixes-" + std::to_string(getpid()));
    ~Folder() { std::filesystem::remove_all(path); }
};

Recipe practiceFiles() {
    Recipe recipe;
    recipe.full = false;
    recipe.front = recipe.alone = recipe.without = true;
    recipe.format = SoundFormat::Wav16;
    recipe.rate = rate;
    return recipe;
}

/// Writes all mixes of songs as files, so many songs at a time; gives the time taken.
double writeFiles(const std::vector<Song>& songs, const Catalogue& catalogue, int jobs) {
    const Recipe recipe = practiceFiles();
    std::vector<SongExport> set;
    std::set<std::string> taken;
    for (const Song& song : songs) {
        const int number = static_cast<int>(set.size()) + 1;
        set.push_back({song, itemsFor(song, recipe, wantedBy(recipe), "bench", number, taken), number});
    }
    const Folder folder;
    SetExportOptions options;
    options.each = optionsOf(recipe, folder.path);
    options.jobs = jobs;
    return wallSeconds([&] { (void)writeSet(set, catalogue, options); });
}

} // namespace

int main(int count, char** words) {
    if (count < 3) return std::fprintf(stderr, "Usage: bench-mixes FONT.sf2 FILE.mid…\n"), 1;
    const Catalogue catalogue = scanFonts({words[1], {}, {}}, houseFontId);
    for (int i = 2; i < count; ++i) {
        const auto song = openSong(words[i]);
        if (!song) continue;
        InstrumentBank bank(rate);
        const auto plan = makePlan(song.value(), catalogue, matchSong(song.value(), catalogue), bank);
        std::size_t samples = 0;
        std::vector<MixOrder> orders;
        for (const Song& mix : practiceMixes(song.value()))
            orders.push_back({mix, [&](std::span<const float> block) {
                                  samples += block.size();
                                  return true;
                              }});
        double wall = 1e9;
        std::size_t frames = 0;
        Synth dry(words[1], false), wet(words[1], true);
        const auto seconds = cpuSecondsInTurns(
            5, {[&] {
                    samples = 0;
                    wall = std::min(wall, wallSeconds([&] { renderMixes(*plan, orders); }));
                    frames = samples / 2 / orders.size();
                },
                [&] { playThrough(dry, words[i], frames); }, [&] { playThrough(wet, words[i], frames); }});
        if (least(seconds[1]) < least(seconds[0]) / 20) {
            std::printf("%-28s its player does not play it\n", song.value().title.c_str());
            continue;
        }
        std::printf("%-28s %zu mixes: %.3f s of processor, %.3f s of time; its player once: %.3f s, with "
                    "reverberation %.3f s: %.2f and %.2f times\n",
                    song.value().title.c_str(), orders.size(), least(seconds[0]), wall, least(seconds[1]),
                    least(seconds[2]), middleRatio(seconds[0], seconds[1]),
                    middleRatio(seconds[0], seconds[2]));
        std::fflush(stdout);
    }
    std::vector<Song> songs;
    for (int i = 2; i < count; ++i)
        if (auto song = openSong(words[i])) songs.push_back(std::move(song.value()));
    if (songs.empty()) return 0;
    double seconds = 0;
    const double cpu = cpuSeconds(2, [&] { seconds = writeFiles({songs[0]}, catalogue, 2); });
    std::printf("%-28s as files at -18 LUFS: %.3f s of processor, %.3f s of time\n", songs[0].title.c_str(),
                cpu, seconds);
    if (songs.size() < 2) return 0;
    const double one = writeFiles(songs, catalogue, 1), two = writeFiles(songs, catalogue, 2);
    std::printf("%zu songs as files: %.2f s by one thread, %.2f s by two: %.2f times as fast (aim 1.7)\n",
                songs.size(), one, two, one / two);
    return 0;
}
