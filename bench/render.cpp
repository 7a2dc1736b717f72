/// Rendering a file, against libfluidsynth's own file player with the same font and settings in the same run.
/// Aim: at most 1.05 times its time. Usage: bench-render FONT.sf2 FILE.mid…
#include "measure.h"

#include "files/songfile.h"
#include "sound/fontinstrument.h"
#include "sound/render.h"

#include <cstdio>
#include <fluidsynth.h>

using namespace cobbleway;

namespace {

constexpr int rate = 44100;

struct Synth {
    fluid_settings_t* settings = new_fluid_settings();
    fluid_synth_t* synth = nullptr;
    explicit Synth(const char* font) {
        fluid_settings_setnum(settings, "synth.sample-rate", rate);
        fluid_settings_setnum(settings, "synth.gain", fontGain);
        fluid_settings_setint(settings, "synth.reverb.active", 0);
        fluid_settings_setint(settings, "synth.chorus.active", 0);
        fluid_settings_setint(settings, "synth.polyphony", fontVoices);
        fluid_settings_setint(settings, "synth.lock-memory", 0);
        fluid_settings_setstr(settings, "player.timing-source", "sample");
        synth = new_fluid_synth(settings);
        fluid_synth_sfload(synth, font, 1);
    }
    ~Synth() {
        delete_fluid_synth(synth);
        delete_fluid_settings(settings);
    }
    Synth(const Synth&) = delete;
    Synth& operator=(const Synth&) = delete;
};

/// Plays a file through the library's player until it ends.
void playThrough(Synth& with, const char* file, std::size_t frames) {
    fluid_player_t* player = new_fluid_player(with.synth);
    fluid_player_add(player, file);
    fluid_player_play(player);
    float left[512], right[512];
    for (std::size_t done = 0; done < frames; done += 512)
        fluid_synth_write_float(with.synth, 512, left, 0, 1, right, 0, 1);
    fluid_player_stop(player);
    delete_fluid_player(player);
}

} // namespace

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
        Synth synth(words[1]);
        const double theirs = cpuSeconds(3, [&] { playThrough(synth, words[i], samples / 2); });
        oursAll += ours;
        theirsAll += theirs;
        std::printf("%-40s ours %.3f s, its player %.3f s: %.3f times\n", song.value().title.c_str(), ours,
                    theirs, ours / theirs);
    }
    std::printf("all: %.3f times its time\n", oursAll / theirsAll);
    return 0;
}
