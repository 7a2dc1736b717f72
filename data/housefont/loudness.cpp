#include "loudness.h"

#include <algorithm>
#include <cmath>
#include <ebur128.h>
#include <fluidsynth.h>
#include <vector>

namespace fontmaker {
namespace {

constexpr int rate = 32000;

/// The loudest 400 ms (EBU R 128 momentary loudness) of a phrase of half-second notes.
double loudest(fluid_synth_t* synth, const std::vector<int>& keys) {
    ebur128_state* meter = ebur128_init(2, rate, EBUR128_MODE_M);
    double best = -70;
    std::vector<float> left(rate / 10), right(rate / 10), both(rate / 5);
    for (const int key : keys) {
        fluid_synth_noteon(synth, 0, key, 100);
        for (int tenth = 0; tenth < 6; ++tenth) {
            if (tenth == 5) fluid_synth_noteoff(synth, 0, key);
            fluid_synth_write_float(synth, rate / 10, left.data(), 0, 1, right.data(), 0, 1);
            for (std::size_t i = 0; i < left.size(); ++i) {
                both[2 * i] = left[i];
                both[2 * i + 1] = right[i];
            }
            ebur128_add_frames_float(meter, both.data(), left.size());
            double now = -70;
            if (ebur128_loudness_momentary(meter, &now) == EBUR128_SUCCESS && std::isfinite(now))
                best = std::max(best, now);
        }
        fluid_synth_all_sounds_off(synth, 0);
    }
    ebur128_destroy(&meter);
    return best;
}

} // namespace

std::map<std::pair<int, int>, double> measureLoudness(const std::filesystem::path& path) {
    std::map<std::pair<int, int>, double> levels;
    fluid_settings_t* settings = new_fluid_settings();
    fluid_settings_setnum(settings, "synth.sample-rate", rate);
    fluid_settings_setint(settings, "synth.reverb.active", 0);
    fluid_settings_setint(settings, "synth.chorus.active", 0);
    fluid_synth_t* synth = new_fluid_synth(settings);
    const int font = fluid_synth_sfload(synth, path.c_str(), 1);
    fluid_sfont_t* presets = fluid_synth_get_sfont_by_id(synth, font);
    fluid_sfont_iteration_start(presets);
    while (fluid_preset_t* preset = fluid_sfont_iteration_next(presets)) {
        const int bank = fluid_preset_get_banknum(preset), program = fluid_preset_get_num(preset);
        fluid_synth_program_select(synth, 0, font, bank, program);
        const bool low =
            bank == 0 && ((program >= 32 && program < 40) || program == 43 || program == 58 || program == 47);
        levels[{bank, program}] =
            loudest(synth, bank == 128 ? std::vector{36, 38, 42}
                                       : (low ? std::vector{36, 43, 48} : std::vector{60, 67, 72}));
    }
    delete_fluid_synth(synth);
    delete_fluid_settings(settings);
    return levels;
}

} // namespace fontmaker
