/// What a soundfont offers, read from its headers alone (SoundFont 2.04 technical specification).
#pragma once
#include "midi/event.h"
#include "midi/result.h"
#include "words/message.h"

#include <filesystem>
#include <optional>
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

/// What sounds on some keys at some velocities: one sample of one instrument (SoundFont 2.04, 7.3 and 7.7).
struct Zone {
    KeyRange keys;
    KeyRange velocities;              ///< 0–127, both included
    std::uint16_t instrument = 0;     ///< index into SoundFont::instruments
    std::uint16_t sample = 0;         ///< index into SoundFont::samples
    std::uint8_t rootKey = 60;        ///< the key at which the sample sounds as it was recorded, 0–127
    double cents = 0;                 ///< tuning on top: coarse, fine and the sample's own correction
    std::int16_t decay = -12000;      ///< to the sustain level, as if that were silence; timecents
    std::int16_t sustain = 0;         ///< how far a held note dies away, centibels; 1000 is silence
    std::int16_t release = -12000;    ///< from full level to silence, timecents
    std::uint16_t exclusiveClass = 0; ///< a note ends those of the same class in its channel; 0 for none
    float sampleSeconds = 0; ///< how long its sample is, at the pitch it was recorded at; 0: it is looped
    bool operator==(const Zone&) const = default;
};

struct Preset {
    int bank = 0;    ///< 0–127, or 128 for percussion
    int program = 0; ///< 0–127
    std::string name;
    std::vector<Zone> zones; ///< only those that sound, in the font's order
    /// Keys that sound: where a preset zone and an instrument zone with a sample both cover the key. In
    /// order, apart from each other. Empty for a preset that never sounds.
    std::vector<KeyRange> ranges;

    [[nodiscard]] bool isKit() const { return bank == kitBank; }
    [[nodiscard]] bool plays(Key key) const;
    [[nodiscard]] KeyRange span() const; ///< lowest to highest key that sounds; 0–127 when none does
    bool operator==(const Preset&) const = default;
};

/// About how long a zone sounds for a note held `held` seconds, in seconds: the volume envelope falls by 100
/// dB in its decay time and in its release time (SoundFont 2.04, 8.1.2, generators 36 to 38 and 54).
double soundingTime(const Zone& zone, double held);

/// A soundfont's headers as a value.
struct SoundFont {
    std::string id;   ///< stands for the font in projects: "house", or the file's path
    std::string name; ///< for people: the font's own name, else the file's
    std::filesystem::path path;
    std::uint64_t size = 0;      ///< bytes
    std::vector<Preset> presets; ///< by bank, then program; of two with one number the first
    std::vector<std::string> instruments, samples; ///< names, by index
    std::string version;                           ///< of the format: "2.01", "2.04"; empty when not said
    bool compressed = false;                       ///< SF3: its samples are Ogg Vorbis
    bool has24Bit = false;                         ///< samples have their lower eight bits too (2.04, 6.2)
    std::uint64_t digest = 0;    ///< of the preset lists; tells a font that moved from another
    std::vector<Message> damage; ///< what could not be used, a sentence each

    /// The preset with this bank and program, or null. Valid as long as the font.
    [[nodiscard]] const Preset* find(int bank, int program) const;
};

/// What a preset plays on a key: the names of instrument and sample.
struct KeySound {
    std::string instrument, sample;
    bool operator==(const KeySound&) const = default;
};

/// The first zone's that covers the key at a velocity; none where nothing sounds.
std::optional<KeySound> soundOn(const SoundFont& font, const Preset& preset, Key key,
                                Velocity velocity = Velocity{100});

/// A name for people for what sounds on a key of a kit: the sample's name without the marks of left and
/// right, underlines and numbers of recordings.
std::string keySoundName(const KeySound& sound);

/// Reads the headers of an SF2 or SF3 file by memory map; samples are not touched. Of damaged lists all
/// that can still be used is; the rest is reported. Fails when the file cannot be opened or holds no preset
/// lists.
Result<SoundFont> readSoundFont(const std::filesystem::path& path);

} // namespace cobbleway
