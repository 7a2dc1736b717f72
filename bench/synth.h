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

/// A file that the library's player plays, as far as it is asked to.
class PlayerRun {
  public:
    PlayerRun(Synth& with, const char* file) : m_synth(with.synth), m_player(new_fluid_player(with.synth)) {
        fluid_player_add(m_player, file);
        fluid_player_play(m_player);
    }
    ~PlayerRun() {
        fluid_player_stop(m_player);
        delete_fluid_player(m_player);
    }
    PlayerRun(const PlayerRun&) = delete;
    PlayerRun& operator=(const PlayerRun&) = delete;

    void play(std::size_t frames) {
        float left[512], right[512];
        for (m_owed += frames; m_owed >= 512; m_owed -= 512)
            fluid_synth_write_float(m_synth, 512, left, 0, 1, right, 0, 1);
    }

  private:
    fluid_synth_t* m_synth;
    fluid_player_t* m_player;
    std::size_t m_owed = 0; ///< frames asked for and not yet played
};

inline void playThrough(Synth& with, const char* file, std::size_t frames) {
    PlayerRun(with, file).play(frames);
}
