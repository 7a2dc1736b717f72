/// libfluidsynth's own file player, set as ours plays.
#pragma once
#include "sound/fontinstrument.h"

#include <cstddef>
#include <fluidsynth.h>

inline constexpr int rate = 44100;

struct Synth {
    fluid_settings_t* settings = new_fluid_settings();
    fluid_synth_t* synth = nullptr;
    Synth(const char* font, bool reverberation) {
        fluid_settings_setnum(settings, "synth.sample-rate", rate);
        fluid_settings_setnum(settings, "synth.gain", cobbleway::fontGain);
        fluid_settings_setint(settings, "synth.reverb.active", reverberation);
        fluid_settings_setint(settings, "synth.chorus.active", 0);
        fluid_settings_setint(settings, "synth.polyphony", cobbleway::fontVoices);
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
inline void playThrough(Synth& with, const char* file, std::size_t frames) {
    fluid_player_t* player = new_fluid_player(with.synth);
    fluid_player_add(player, file);
    fluid_player_play(player);
    float left[512], right[512];
    for (std::size_t done = 0; done < frames; done += 512)
        fluid_synth_write_float(with.synth, 512, left, 0, 1, right, 0, 1);
    fluid_player_stop(player);
    delete_fluid_player(player);
}
