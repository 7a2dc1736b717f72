/// How a soundfont sounds: its samples and all that its zones say of them (SoundFont 2.04, 7 to 9).
#pragma once
#include "font/fontlists.h"

#include <filesystem>
#include <memory>

namespace cobbleway {

/// Where a sample's data lies in the file, and how it is played. Frames are 16-bit values.
struct FontSample {
    std::uint64_t offset = 0; ///< of its data in the file, in bytes
    std::uint64_t bytes = 0;  ///< of it; of uncompressed ones with those after its end that a loop may reach
    std::uint64_t lowBytes = 0; ///< offset of the lower eight bits of its values (6.2), in bytes; 0: none
    std::uint32_t frames = 0;   ///< its length; of a compressed one only decoding tells it
    std::uint32_t loopStart = 0, loopEnd = 0; ///< frames after its start; the end is the first not played
    std::uint32_t rate = 44100;               ///< Hz
    std::uint8_t rootKey = 60;                ///< 0–127
    std::int8_t correction = 0;               ///< cents
    bool compressed = false;                  ///< an Ogg Vorbis stream (SF3)
};

/// A font's presets, each a list of voices: what one sample does for keys and velocities.
struct FontVoices {
    struct Voice {
        KeyRange keys, velocities;
        std::uint32_t presetZone = 0, instrumentZone = 0; ///< indexes into `zones`
        std::uint16_t sample = 0;                         ///< index into `samples`
        [[nodiscard]] bool sounds(int key, int velocity) const {
            return fontlists::holds(keys, key) && fontlists::holds(velocities, velocity);
        }
    };
    struct Preset {
        int bank = 0, program = 0;
        std::string name;
        std::vector<Voice> voices; ///< in the font's order
    };
    std::vector<FontSample> samples;
    std::vector<fontlists::ZoneSaid> zones; ///< of instruments and presets
    std::vector<Preset> presets;            ///< by bank, then program; of two with one number the first

    [[nodiscard]] const Preset* find(int bank, int program) const;
};

/// Reads them from the font's lists; samples are not touched. Of damaged lists all that can be used is, and
/// nothing that it gives points outside the file. Fails as readSoundFont() does, and for other formats (DLS).
Result<FontVoices> readFontVoices(const std::filesystem::path& path);
Result<FontVoices> readFontVoices(std::span<const std::uint8_t> file, const std::string& where);

} // namespace cobbleway
