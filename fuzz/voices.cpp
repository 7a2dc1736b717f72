/// Any bytes at all as a soundfont that plays: what is read lies within them, and what sounds is a number.
#include "insist.h"

#include "sound/fontinstrument.h"

#include <cmath>
#include <string>
#include <sys/mman.h>
#include <unistd.h>

using namespace cobbleway;

namespace {

void play(Instrument& instrument, const FontVoices& voices) {
    std::array<float, maxFrames> left{}, right{};
    const StereoBlock block{left.data(), right.data()};
    int played = 0;
    for (const auto& preset : voices.presets) {
        if (++played > 4) return;
        instrument.choose(0, {nullptr, preset.bank, preset.program, 0});
        for (const std::uint8_t key : {0, 60, 127}) instrument.play(0, 0x90, key, 100);
        for (int i = 0; i < 4; ++i) instrument.render({&block, 1}, maxFrames);
        instrument.release(0);
    }
}

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const auto voices = readFontVoices({data, size}, "any.sf2");
    if (!voices) return 0;
    for (const FontSample& sample : voices.value().samples) {
        insist(sample.offset <= size && sample.bytes <= size - sample.offset, "its data lies in the file");
        insist(sample.compressed || sample.frames * std::uint64_t{2} <= sample.bytes,
               "it is not longer than its data");
    }
    const int file = memfd_create("any.sf2", 0);
    if (file < 0) return 0;
    if (write(file, data, size) == static_cast<ssize_t>(size))
        if (const auto instrument = loadFontInstrument("/proc/self/fd/" + std::to_string(file), 1, 22050))
            play(*instrument.value(), voices.value());
    close(file);
    return 0;
}
