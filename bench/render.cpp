/// Rendering a file, against libfluidsynth's own file player with the same font and settings.
/// Processor: both on one thread, a third of a second of ours and the same of its in turns, so that whatever
/// slows the machine slows both. Clock: with as many threads as there are processors, against one player; and
/// what two players at once take, since processors that share a core or its memory slow each other. Aims: at
/// most 1.05 times its processor time, and on two processors 0.65 times by the clock, where two players at
/// once take no longer than one. Usage: bench-render FONT.sf2 FILE.mid…
#include "measure.h"
#include "synth.h"

#include "files/songfile.h"
#include "sound/render.h"

#include <cstdio>
#include <thread>

using namespace cobbleway;

namespace {

struct Measured {
    double ours = 0, theirs = 0;                      ///< processor seconds on one thread
    double clock = 0, playerClock = 0, bothClock = 0; ///< seconds: ours, one player, two at once
    std::size_t frames = 0;
};

/// What this song's levels are, with no room: the player has none.
Song dry(Song song) {
    song.room = 0;
    return song;
}

void measureInTurns(Plan& plan, const Song& song, const char* font, const char* file, Measured& into) {
    constexpr std::size_t turn =
        16384; // frames; in shorter ones each clears the other's samples from the cache
    Synth synth(font, false);
    PlayerRun player(synth, file);
    double mark = 0;
    std::size_t owed = 0;
    const MixOrder order{dry(song), [&](std::span<const float> block) {
                             if ((owed += block.size() / 2) < turn) return true;
                             const double rendered = threadSeconds();
                             player.play(owed);
                             into.ours += rendered - mark;
                             into.frames += owed;
                             owed = 0;
                             mark = threadSeconds();
                             into.theirs += mark - rendered;
                             return true;
                         }};
    RenderOptions alone;
    alone.workers.own = 1;
    mark = threadSeconds();
    renderMixes(plan, {order}, alone);
}

void measureByClock(Plan& plan, const Song& song, const char* font, const char* file, Measured& into) {
    constexpr int most = 6;
    const MixOrder order{dry(song), [](std::span<const float>) { return true; }};
    Synth one(font, false), other(font, false);
    into.clock = undisturbedSeconds(most, [&] { renderMixes(plan, {order}); });
    into.playerClock = undisturbedSeconds(most, [&] { playThrough(one, file, into.frames); });
    into.bothClock = undisturbedSeconds(most, [&] {
        const std::jthread beside([&] { playThrough(other, file, into.frames); });
        playThrough(one, file, into.frames);
    });
}

void print(const char* title, const Measured& is) {
    std::printf(
        "%-48s ours %.3f s, its player %.3f s: %.3f times, by the clock %.3f (two players at once: %.3f)\n",
        title, is.ours, is.theirs, is.ours / is.theirs, is.clock / is.playerClock,
        is.bothClock / is.playerClock);
}

} // namespace

int main(int count, char** words) {
    if (count < 3) return std::fprintf(stderr, "Usage: bench-render FONT.sf2 FILE.mid…\n"), 1;
    const Catalogue catalogue = scanFonts({words[1], {}, {}}, houseFontId);
    Measured all;
    for (int i = 2; i < count; ++i) {
        const auto song = openSong(words[i]);
        if (!song) continue;
        InstrumentBank bank(rate);
        const auto plan = makePlan(song.value(), catalogue, matchSong(song.value(), catalogue), bank);
        Measured measured;
        measureInTurns(*plan, song.value(), words[1], words[i], measured);
        if (measured.theirs < measured.ours / 10) { // a file that its player does not read
            std::printf("%-48s its player does not play it\n", song.value().title.c_str());
            continue;
        }
        measureByClock(*plan, song.value(), words[1], words[i], measured);
        print(song.value().title.c_str(), measured);
        for (const auto field : {&Measured::ours, &Measured::theirs, &Measured::clock, &Measured::playerClock,
                                 &Measured::bothClock})
            all.*field += measured.*field;
    }
    print("all (aims 1.05 and, on two processors, 0.65)", all);
    return 0;
}
