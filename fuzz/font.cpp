/// Any bytes at all as a soundfont's headers: read or refused, and every preset can be asked.
#include "insist.h"

#include "font/soundfont.h"

#include <string>
#include <sys/mman.h>
#include <unistd.h>

using namespace cobbleway;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const int file = memfd_create("any.sf2", 0);
    if (file < 0) return 0;
    const bool whole = write(file, data, size) == static_cast<ssize_t>(size);
    if (whole) {
        const auto font = readSoundFont("/proc/self/fd/" + std::to_string(file));
        insist(font.ok() || !font.error().what.empty(), "it says why");
        if (font)
            for (const Preset& preset : font.value().presets) {
                insist(preset.bank >= 0 && preset.bank <= 128 && preset.program >= 0 && preset.program < 128,
                       "numbers are in range");
                for (int key = 0; key < 128; ++key)
                    if (const auto sound = soundOn(font.value(), preset, Key{static_cast<std::uint8_t>(key)}))
                        (void)keySoundName(*sound);
            }
    }
    close(file);
    return 0;
}
