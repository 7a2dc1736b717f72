/// How soon a compressed font is ready for a song: from nothing, and with its samples in the cache, against
/// libfluidsynth, which decodes the samples of the presets that are chosen. Processor time of all threads.
/// Aims: at most 0.4 times libfluidsynth's the first time, 0.05 times after.
/// Usage: bench-font FONT.sf3 FILE.mid
#include "measure.h"

#include "files/samplecache.h"
#include "files/songfile.h"
#include "sound/fluidhandles.h"
#include "sound/plan.h"

#include <cstdio>
#include <set>

using namespace cobbleway;

namespace {

double theirSeconds(const char* font, const std::set<std::pair<int, int>>& sounds) {
    return cpuSeconds(2, [&] {
        const FluidSettings settings(new_fluid_settings());
        fluid_settings_setint(settings.get(), "synth.dynamic-sample-loading", 1);
        fluid_settings_setint(settings.get(), "synth.lock-memory", 0);
        const FluidSynth synth(new_fluid_synth(settings.get()));
        const int id = fluid_synth_sfload(synth.get(), font, 0);
        int channel = 0;
        for (const auto& [bank, program] : sounds)
            fluid_synth_program_select(synth.get(), channel++ % 16, id, bank, program);
    });
}

} // namespace

int main(int count, char** words) {
    if (count < 3) return std::fprintf(stderr, "Usage: bench-font FONT.sf3 FILE.mid\n"), 1;
    const auto song = openSong(words[2]);
    auto font = readSoundFont(words[1]);
    if (!song || !font) return std::fprintf(stderr, "A file cannot be read.\n"), 1;
    font.value().id = houseFontId;
    const Catalogue all({std::make_shared<SoundFont>(std::move(font.value()))}, houseFontId);
    const auto matches = matchSong(song.value(), all);
    std::set<std::pair<int, int>> sounds;
    const std::filesystem::path folder =
        std::filesystem::temp_directory_path() / ("bench-font-" + std::to_string(getpid()));
    const auto ready = [&] {
        InstrumentBank bank(
            48000,
            {.live = true, .pluginBundle = {}, .samples = std::make_shared<FolderSampleCache>(folder)});
        const auto plan = makePlan(song.value(), all, matches, bank);
        for (const PlanPart& part : plan->parts)
            for (const InstrumentSound& sound : part.sounds) sounds.insert({sound.bank, sound.program});
    };
    const double first = cpuSeconds(3, [&] {
        std::filesystem::remove_all(folder);
        ready();
    });
    const double again = cpuSeconds(3, ready);
    std::filesystem::remove_all(folder);
    const double theirs = theirSeconds(words[1], sounds);
    std::printf(
        "compressed font ready for %zu sounds: %.2f s of processor, again %.2f s; libfluidsynth %.2f s: "
        "ratio %.3f (aim 0.4), again %.3f (aim 0.05)\n",
        sounds.size(), first, again, theirs, first / theirs, again / theirs);
}
