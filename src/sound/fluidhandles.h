/// What libfluidsynth gives, let go of when it goes out of scope. A synthesiser ends before its settings.
#pragma once
#include <fluidsynth.h>
#include <memory>

namespace cobbleway {

struct DeleteFluid {
    void operator()(fluid_settings_t* settings) const { delete_fluid_settings(settings); }
    void operator()(fluid_synth_t* synth) const { delete_fluid_synth(synth); }
};
using FluidSettings = std::unique_ptr<fluid_settings_t, DeleteFluid>;
using FluidSynth = std::unique_ptr<fluid_synth_t, DeleteFluid>;

} // namespace cobbleway
