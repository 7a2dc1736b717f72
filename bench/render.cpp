/// Rendering a file, against libfluidsynth's own file player with the same font and settings in the same run.
/// Aims: at most 1.05 times its processor time, and on two processors 0.65 times by the clock. Usage:
/// bench-render FONT.sf2 FILE.mid…
#include "measure.h"
#include "synth.h"

#include "files/songfile.h"
#include "sound/render.h"

#include <algorithm>
#include <chrono>
#include <cstdio>

using namespace cobbleway;

int main(int count, char** words) {
    if (count < 3) return std::fprintf(stderr, "Usage: bench-render FONT.sf2 FILE.mid…\n"), 1;
    const Catalogue catalogue = scanFonts({words[1], {}, {}}, houseFontId);
    double oursAll = 0, theirsAll = 0, clockAll = 0;
    for (int i = 2; i < count; ++i) {
        const auto song = openSong(words[i]);
        if (!song) continue;
        InstrumentBank bank(rate);
        const auto plan = makePlan(song.value(), catalogue, matchSong(song.value(), catalogue), bank);
        std::size_t samples = 0;
        Song dry = song.value();
        dry.room = 0;
        const MixOrder order{dry, [&](std::span<const float> block) {
                                 samples += block.size();
                                 return true;
                             }};
        double clock = 1e9;
        Synth synth(words[1], false);
        const auto seconds = cpuSecondsInTurns(3, {[&] {
                                                       samples = 0;
                                                       const auto begun = std::chrono::steady_clock::now();
                                                       renderMixes(*plan, {order});
                                                       const std::chrono::duration<double> passed =
                                                           std::chrono::steady_clock::now() - begun;
                                                       clock = std::min(clock, passed.count());
                                                   },
                                                   [&] { playThrough(synth, words[i], samples / 2); }});
        const double ours = least(seconds[0]), theirs = least(seconds[1]);
        if (theirs < ours / 10) { // a file that its player does not read
            std::printf("%-40s its player does not play it\n", song.value().title.c_str());
            continue;
        }
        oursAll += ours;
        theirsAll += theirs;
        clockAll += clock;
        std::printf("%-40s ours %.3f s, its player %.3f s: %.3f times, by the clock %.3f\n",
                    song.value().title.c_str(), ours, theirs, middleRatio(seconds[0], seconds[1]),
                    clock / theirs);
    }
    std::printf("all: %.3f times its time, by the clock %.3f\n", oursAll / theirsAll, clockAll / theirsAll);
    return 0;
}
