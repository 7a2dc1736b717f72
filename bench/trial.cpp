/// Trying sounds: how long a change of a part's sound takes until it is heard, with everything loaded. The
/// plan is made beside the audio thread; what the output holds ready is heard first.
/// Usage: bench-trial FONT.sf2 FILE.mid…
#include "files/songfile.h"
#include "song/shape/edits.h"
#include "sound/audiooutput.h"
#include "sound/plan.h"

#include <algorithm>
#include <chrono>
#include <cstdio>

using namespace cobbleway;

int main(int count, char** words) {
    if (count < 3) return std::fprintf(stderr, "Usage: bench-trial FONT.sf2 FILE.mid…\n"), 1;
    const Catalogue catalogue = scanFonts({words[1], {}, {}}, houseFontId);
    const SoundFont& font = *catalogue.fonts().front();
    using Clock = std::chrono::steady_clock;
    constexpr double block = static_cast<double>(liveFrames) / liveRate;
    double most = 0, sum = 0;
    int tried = 0;
    for (int i = 2; i < count; ++i) {
        const auto read = openSong(words[i]);
        if (!read) continue;
        const Song& song = read.value();
        InstrumentBank bank(liveRate, {.slotStep = 16, .live = true, .pluginBundle = {}});
        std::shared_ptr<Plan> plan = makePlan(song, catalogue, matchSong(song, catalogue), bank);
        for (const Part& part : song.parts)
            for (const Preset& preset : font.presets) {
                if (part.aside || preset.isKit() != part.source.drums) continue;
                const Song heard = edits::chooseSound(
                    song, part.id, {font.id, preset.bank, preset.program, preset.name, SoundKind::Preset, 0});
                const auto start = Clock::now();
                plan = makePlan(heard, catalogue, matchSong(heard, catalogue), bank, plan.get());
                const double took = std::chrono::duration<double>(Clock::now() - start).count();
                most = std::max(most, took);
                sum += took;
                ++tried;
            }
    }
    const auto held = static_cast<int>(HeldBlocks::Listening);
    std::printf("%d sounds tried in %d songs: planned in %.1f ms (at most %.1f); heard after %.0f ms (at "
                "most %.0f)\n",
                tried, count - 2, sum / std::max(1, tried) * 1e3, most * 1e3,
                (sum / std::max(1, tried) + (held - 0.5) * block) * 1e3, (most + held * block) * 1e3);
    return 0;
}
