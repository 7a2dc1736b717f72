#include "midi/gm.h"

#include <array>

namespace cobbleway {
namespace {

constexpr std::array<std::string_view, 128> programs = {"Acoustic Grand Piano",
                                                        "Bright Acoustic Piano",
                                                        "Electric Grand Piano",
                                                        "Honky-tonk Piano",
                                                        "Electric Piano 1",
                                                        "Electric Piano 2",
                                                        "Harpsichord",
                                                        "Clavi",
                                                        "Celesta",
                                                        "Glockenspiel",
                                                        "Music Box",
                                                        "Vibraphone",
                                                        "Marimba",
                                                        "Xylophone",
                                                        "Tubular Bells",
                                                        "Dulcimer",
                                                        "Drawbar Organ",
                                                        "Percussive Organ",
                                                        "Rock Organ",
                                                        "Church Organ",
                                                        "Reed Organ",
                                                        "Accordion",
                                                        "Harmonica",
                                                        "Tango Accordion",
                                                        "Acoustic Guitar (nylon)",
                                                        "Acoustic Guitar (steel)",
                                                        "Electric Guitar (jazz)",
                                                        "Electric Guitar (clean)",
                                                        "Electric Guitar (muted)",
                                                        "Overdriven Guitar",
                                                        "Distortion Guitar",
                                                        "Guitar harmonics",
                                                        "Acoustic Bass",
                                                        "Electric Bass (finger)",
                                                        "Electric Bass (pick)",
                                                        "Fretless Bass",
                                                        "Slap Bass 1",
                                                        "Slap Bass 2",
                                                        "Synth Bass 1",
                                                        "Synth Bass 2",
                                                        "Violin",
                                                        "Viola",
                                                        "Cello",
                                                        "Contrabass",
                                                        "Tremolo Strings",
                                                        "Pizzicato Strings",
                                                        "Orchestral Harp",
                                                        "Timpani",
                                                        "String Ensemble 1",
                                                        "String Ensemble 2",
                                                        "SynthStrings 1",
                                                        "SynthStrings 2",
                                                        "Choir Aahs",
                                                        "Voice Oohs",
                                                        "Synth Voice",
                                                        "Orchestra Hit",
                                                        "Trumpet",
                                                        "Trombone",
                                                        "Tuba",
                                                        "Muted Trumpet",
                                                        "French Horn",
                                                        "Brass Section",
                                                        "SynthBrass 1",
                                                        "SynthBrass 2",
                                                        "Soprano Sax",
                                                        "Alto Sax",
                                                        "Tenor Sax",
                                                        "Baritone Sax",
                                                        "Oboe",
                                                        "English Horn",
                                                        "Bassoon",
                                                        "Clarinet",
                                                        "Piccolo",
                                                        "Flute",
                                                        "Recorder",
                                                        "Pan Flute",
                                                        "Blown Bottle",
                                                        "Shakuhachi",
                                                        "Whistle",
                                                        "Ocarina",
                                                        "Lead 1 (square)",
                                                        "Lead 2 (sawtooth)",
                                                        "Lead 3 (calliope)",
                                                        "Lead 4 (chiff)",
                                                        "Lead 5 (charang)",
                                                        "Lead 6 (voice)",
                                                        "Lead 7 (fifths)",
                                                        "Lead 8 (bass + lead)",
                                                        "Pad 1 (new age)",
                                                        "Pad 2 (warm)",
                                                        "Pad 3 (polysynth)",
                                                        "Pad 4 (choir)",
                                                        "Pad 5 (bowed)",
                                                        "Pad 6 (metallic)",
                                                        "Pad 7 (halo)",
                                                        "Pad 8 (sweep)",
                                                        "FX 1 (rain)",
                                                        "FX 2 (soundtrack)",
                                                        "FX 3 (crystal)",
                                                        "FX 4 (atmosphere)",
                                                        "FX 5 (brightness)",
                                                        "FX 6 (goblins)",
                                                        "FX 7 (echoes)",
                                                        "FX 8 (sci-fi)",
                                                        "Sitar",
                                                        "Banjo",
                                                        "Shamisen",
                                                        "Koto",
                                                        "Kalimba",
                                                        "Bag pipe",
                                                        "Fiddle",
                                                        "Shanai",
                                                        "Tinkle Bell",
                                                        "Agogo",
                                                        "Steel Drums",
                                                        "Woodblock",
                                                        "Taiko Drum",
                                                        "Melodic Tom",
                                                        "Synth Drum",
                                                        "Reverse Cymbal",
                                                        "Guitar Fret Noise",
                                                        "Breath Noise",
                                                        "Seashore",
                                                        "Bird Tweet",
                                                        "Telephone Ring",
                                                        "Helicopter",
                                                        "Applause",
                                                        "Gunshot"};

constexpr std::array<std::string_view, 16> families = {
    "Piano", "Chromatic", "Organ", "Guitar", "Bass",    "Strings", "Ensemble",   "Brass",
    "Reed",  "Pipe",      "Lead",  "Pad",    "Effects", "World",   "Percussive", "Sounds"};

constexpr int firstDrum = 27;
constexpr std::array<std::string_view, 61> drums = {"High Q",          "Slap",           "Scratch Push",
                                                    "Scratch Pull",    "Sticks",         "Square Click",
                                                    "Metronome Click", "Metronome Bell", "Acoustic Bass Drum",
                                                    "Bass Drum 1",     "Side Stick",     "Acoustic Snare",
                                                    "Hand Clap",       "Electric Snare", "Low Floor Tom",
                                                    "Closed Hi Hat",   "High Floor Tom", "Pedal Hi-Hat",
                                                    "Low Tom",         "Open Hi-Hat",    "Low-Mid Tom",
                                                    "Hi Mid Tom",      "Crash Cymbal 1", "High Tom",
                                                    "Ride Cymbal 1",   "Chinese Cymbal", "Ride Bell",
                                                    "Tambourine",      "Splash Cymbal",  "Cowbell",
                                                    "Crash Cymbal 2",  "Vibraslap",      "Ride Cymbal 2",
                                                    "Hi Bongo",        "Low Bongo",      "Mute Hi Conga",
                                                    "Open Hi Conga",   "Low Conga",      "High Timbale",
                                                    "Low Timbale",     "High Agogo",     "Low Agogo",
                                                    "Cabasa",          "Maracas",        "Short Whistle",
                                                    "Long Whistle",    "Short Guiro",    "Long Guiro",
                                                    "Claves",          "Hi Wood Block",  "Low Wood Block",
                                                    "Mute Cuica",      "Open Cuica",     "Mute Triangle",
                                                    "Open Triangle",   "Shaker",         "Jingle Bell",
                                                    "Belltree",        "Castanets",      "Mute Surdo",
                                                    "Open Surdo"};

// As a band would call them.
constexpr std::array<std::string_view, 128> plainPrograms = {"Grand piano",
                                                             "Bright piano",
                                                             "Electric grand",
                                                             "Honky-tonk piano",
                                                             "Electric piano",
                                                             "Electric piano (FM)",
                                                             "Harpsichord",
                                                             "Clavi",
                                                             "Celesta",
                                                             "Glockenspiel",
                                                             "Music box",
                                                             "Vibraphone",
                                                             "Marimba",
                                                             "Xylophone",
                                                             "Tubular bells",
                                                             "Dulcimer",
                                                             "Drawbar organ",
                                                             "Percussive organ",
                                                             "Rock organ",
                                                             "Church organ",
                                                             "Reed organ",
                                                             "Accordion",
                                                             "Harmonica",
                                                             "Tango accordion",
                                                             "Nylon guitar",
                                                             "Steel guitar",
                                                             "Jazz guitar",
                                                             "Clean guitar",
                                                             "Muted guitar",
                                                             "Overdriven guitar",
                                                             "Distorted guitar",
                                                             "Guitar harmonics",
                                                             "Acoustic bass",
                                                             "Fingered bass",
                                                             "Picked bass",
                                                             "Fretless bass",
                                                             "Slap bass",
                                                             "Slap bass",
                                                             "Synth bass",
                                                             "Synth bass",
                                                             "Violin",
                                                             "Viola",
                                                             "Cello",
                                                             "Contrabass",
                                                             "Tremolo strings",
                                                             "Pizzicato strings",
                                                             "Harp",
                                                             "Timpani",
                                                             "Strings",
                                                             "Slow strings",
                                                             "Synth strings",
                                                             "Synth strings",
                                                             "Choir aahs",
                                                             "Voice oohs",
                                                             "Synth voice",
                                                             "Orchestra hit",
                                                             "Trumpet",
                                                             "Trombone",
                                                             "Tuba",
                                                             "Muted trumpet",
                                                             "French horn",
                                                             "Brass section",
                                                             "Synth brass",
                                                             "Synth brass",
                                                             "Soprano sax",
                                                             "Alto sax",
                                                             "Tenor sax",
                                                             "Baritone sax",
                                                             "Oboe",
                                                             "English horn",
                                                             "Bassoon",
                                                             "Clarinet",
                                                             "Piccolo",
                                                             "Flute",
                                                             "Recorder",
                                                             "Pan flute",
                                                             "Blown bottle",
                                                             "Shakuhachi",
                                                             "Whistle",
                                                             "Ocarina",
                                                             "Square lead",
                                                             "Sawtooth lead",
                                                             "Calliope lead",
                                                             "Chiff lead",
                                                             "Charang lead",
                                                             "Voice lead",
                                                             "Fifths lead",
                                                             "Bass and lead",
                                                             "New age pad",
                                                             "Warm pad",
                                                             "Polysynth pad",
                                                             "Choir pad",
                                                             "Bowed pad",
                                                             "Metallic pad",
                                                             "Halo pad",
                                                             "Sweep pad",
                                                             "Rain",
                                                             "Soundtrack",
                                                             "Crystal",
                                                             "Atmosphere",
                                                             "Brightness",
                                                             "Goblins",
                                                             "Echoes",
                                                             "Sci-fi",
                                                             "Sitar",
                                                             "Banjo",
                                                             "Shamisen",
                                                             "Koto",
                                                             "Kalimba",
                                                             "Bagpipe",
                                                             "Fiddle",
                                                             "Shanai",
                                                             "Tinkle bell",
                                                             "Agogo",
                                                             "Steel drums",
                                                             "Woodblock",
                                                             "Taiko drum",
                                                             "Melodic tom",
                                                             "Synth drum",
                                                             "Reverse cymbal",
                                                             "Fret noise",
                                                             "Breath noise",
                                                             "Seashore",
                                                             "Bird tweet",
                                                             "Telephone",
                                                             "Helicopter",
                                                             "Applause",
                                                             "Gunshot"};

} // namespace

std::string_view programName(Program program) { return programs[program.value & 0x7FU]; }
std::string_view plainProgramName(Program program) { return plainPrograms[program.value & 0x7FU]; }
std::string_view familyName(int family) { return families[static_cast<std::size_t>(family) & 0x0FU]; }

std::string_view drumName(Key key) {
    const int index = key.value - firstDrum;
    return index < 0 || index >= static_cast<int>(drums.size()) ? std::string_view{}
                                                                : drums[static_cast<std::size_t>(index)];
}

std::string_view kitName(Program program) {
    switch (program.value) {
    case 0: return "Standard kit";
    case 8: return "Room kit";
    case 16: return "Power kit";
    case 24: return "Electronic kit";
    case 25: return "Analog kit";
    case 32: return "Jazz kit";
    case 40: return "Brush kit";
    case 48: return "Orchestra kit";
    case 56: return "SFX kit";
    default: return {};
    }
}

std::string keyName(Key key) {
    static constexpr std::array<const char*, 12> names = {"C",  "C#", "D",  "D#", "E",  "F",
                                                          "F#", "G",  "G#", "A",  "A#", "B"};
    return names[key.value % 12U] + std::to_string(key.value / 12 - 1);
}

DrumPiece pieceOf(Key key) {
    switch (key.value) {
    case 35:
    case 36: return DrumPiece::Kick;
    case 37:
    case 38:
    case 39:
    case 40: return DrumPiece::Snare;
    case 42:
    case 44:
    case 46: return DrumPiece::Hats;
    case 41:
    case 43:
    case 45:
    case 47:
    case 48:
    case 50: return DrumPiece::Toms;
    case 49:
    case 51:
    case 52:
    case 53:
    case 55:
    case 57:
    case 59: return DrumPiece::Cymbals;
    default: break;
    }
    return key.value >= 54 && key.value <= 87 ? DrumPiece::Percussion : DrumPiece::Other;
}

std::string_view pieceName(DrumPiece piece) {
    switch (piece) {
    case DrumPiece::Kick: return "kick";
    case DrumPiece::Snare: return "snare";
    case DrumPiece::Hats: return "hats";
    case DrumPiece::Toms: return "toms";
    case DrumPiece::Cymbals: return "cymbals";
    case DrumPiece::Percussion: return "percussion";
    case DrumPiece::Other: break;
    }
    return "other";
}

} // namespace cobbleway
