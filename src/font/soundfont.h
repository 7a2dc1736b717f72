/// What a soundfont offers, read from its headers alone (SoundFont 2.04 technical specification).
#pragma once
#include "midi/event.h"
#include "midi/result.h"

#include <filesystem>
#include <string>
#include <vector>

namespace cobbleway {

/// Keys from lowest to highest, both included, 0–127.
struct KeyRange {
    int lowest = 0;
    int highest = 127;
    bool operator==(const KeyRange&) const = default;
};

/// The bank in which soundfonts keep drum kits (SoundFont 2.04, 7.2).
inline constexpr int kitBank = 128;

struct Preset {
    int bank = 0;    ///< 0–127, or 128 for percussion
    int program = 0; ///< 0–127
    std::string name;
    /// Keys that sound: where a preset zone and an instrument zone with a sample both cover the key. In
    /// order, apart from each other. Empty for a preset that never sounds.
    std::vector<KeyRange> ranges;

    [[nodiscard]] bool isKit() const { return bank == kitBank; }
    [[nodiscard]] bool plays(Key key) const;
    [[nodiscard]] KeyRange span() const; ///< lowest to highest key that sounds; 0–127 when none does
    bool operator==(const Preset&) const = default;
};

/// A soundfont's headers as a value.
struct SoundFont {
    std::string id;   ///< stands for the font in projects: "house", or the file's path
    std::string name; ///< for people: the font's own name, else the file's
    std::filesystem::path path;
    std::uint64_t size = 0;      ///< bytes
    std::vector<Preset> presets; ///< by bank, then program; of two with one number the first

    /// The preset with this bank and program, or null. Valid as long as the font.
    [[nodiscard]] const Preset* find(int bank, int program) const;
};

/// Reads the headers of an SF2 or SF3 file by memory map; samples are not touched. Lists that are damaged
/// give the presets that can still be read; fails when the file cannot be opened or holds no preset lists.
Result<SoundFont> readSoundFont(const std::filesystem::path& path);

} // namespace cobbleway
