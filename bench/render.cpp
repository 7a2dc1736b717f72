/// Rendering a file, against libfluidsynth's own file player with the same font and settings in the same run.
/// Aim: at most 1.05 times its time. Usage: bench-render FONT.sf2 FILE.mid…
#include "measure.h"
#include "synth.h"

#include "files/songfile.h"
#include "sound/render.h"

#include <cstdio>

using namespace cobbleway;

int main(int count, char** words) {
    if (count < 3) return std::fprintf(stderr, "Usage: bench-render FONT.sf2 FILE.mid…\n"), 1;
    const Catalogue catalogue = scanFonts({words[1], {}, {}}, houseFontId);
    double oursAll = 0, theirsAll = 0;
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
        const double ours = cpuSeconds(3, [&] {
            samples = 0;
            renderMixes(*plan, {order});
        });
        Synth synth(words[1], false);
        const double theirs = cpuSeconds(3, [&] { playThrough(synth, words[i], samples / 2); });
        oursAll += ours;
        theirsAll += theirs;
        std::printf("%-40s ours %.3f s, its player %.3f s: %.3f times\n", song.value().title.c_str(), ours,
                    theirs, ours / theirs);
    }
    std::printf("all: %.3f times its time\n", oursAll / theirsAll);
    return 0;
}
