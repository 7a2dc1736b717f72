/// All three practice mixes of each part of a song (in front, alone, without) from one pass, against one
/// render by libfluidsynth's own file player. Aim: for a song of ten parts at most twice its processor time,
/// on both cores. Usage: bench-mixes FONT.sf2 FILE.mid…
#include "measure.h"
#include "synth.h"

#include "files/songfile.h"
#include "song/shape/edits.h"
#include "sound/render.h"

#include <chrono>
#include <cstdio>

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
        const double ours = cpuSeconds(3, [&] {
            samples = 0;
            const auto start = std::chrono::steady_clock::now();
            renderMixes(*plan, orders);
            wall = std::min(wall,
                            std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count());
        });
        const std::size_t frames = samples / 2 / orders.size();
        Synth dry(words[1], false), wet(words[1], true);
        const double theirs = cpuSeconds(3, [&] { playThrough(dry, words[i], frames); });
        const double roomed = cpuSeconds(3, [&] { playThrough(wet, words[i], frames); });
        std::printf("%-28s %zu mixes: %.3f s of processor, %.3f s of time; its player once: %.3f s, with "
                    "reverberation "
                    "%.3f s: %.2f and %.2f times\n",
                    song.value().title.c_str(), orders.size(), ours, wall, theirs, roomed, ours / theirs,
                    ours / roomed);
    }
    return 0;
}
