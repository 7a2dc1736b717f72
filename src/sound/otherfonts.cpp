#include "sound/otherfonts.h"

#include "sound/fluidhandles.h"

#include <algorithm>

namespace cobbleway {
namespace {

std::vector<Preset> presetsOf(fluid_sfont_t* font) {
    std::vector<Preset> presets;
    fluid_sfont_iteration_start(font);
    while (fluid_preset_t* preset = fluid_sfont_iteration_next(font)) {
        const int bank = fluid_preset_get_banknum(preset), program = fluid_preset_get_num(preset);
        const char* name = fluid_preset_get_name(preset);
        if (bank <= kitBank && program < 128)
            presets.push_back({bank, program, name ? name : "", {}, {{0, 127}}});
    }
    std::stable_sort(presets.begin(), presets.end(), [](const Preset& a, const Preset& b) {
        return a.bank != b.bank ? a.bank < b.bank : a.program < b.program;
    });
    return presets;
}

} // namespace

Result<SoundFont> readOtherFont(const std::filesystem::path& path) {
    const Error refused{{"error.other-font"}, path.string(), {"now.use-sf2"}};
    const FluidSettings settings(new_fluid_settings());
    fluid_settings_setint(settings.get(), "synth.dynamic-sample-loading", 1);
    fluid_settings_setint(settings.get(), "synth.lock-memory", 0);
    const FluidSynth synth(new_fluid_synth(settings.get()));
    const int id = synth ? fluid_synth_sfload(synth.get(), path.c_str(), 0) : FLUID_FAILED;
    fluid_sfont_t* loaded = id == FLUID_FAILED ? nullptr : fluid_synth_get_sfont_by_id(synth.get(), id);
    if (!loaded) return refused;
    SoundFont font;
    font.id = path.string();
    font.name = path.stem().string();
    font.path = path;
    std::error_code error;
    font.size = std::filesystem::file_size(path, error);
    font.presets = presetsOf(loaded);
    font.version = "DLS";
    if (font.presets.empty()) return refused;
    return font;
}

} // namespace cobbleway
