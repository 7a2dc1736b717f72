#include "cli/commands.h"

#include "cli/export.h"
#include "cli/listing.h"
#include "cli/render.h"
#include "cli/rewrite.h"

#include <algorithm>

namespace cobbleway::cli {
namespace {

const OptionSpec json{"--json", "", "tell it as JSON"};
const OptionSpec replace{"--replace", "", "write over files that are there already"};
const OptionSpec song{"--song", "N", "which song of a set, from 1"};
const OptionSpec font{"--font", "F", "the soundfont that plays; else the system's, or the house font"};
const OptionSpec then{"--then", "G", "a soundfont for what the first lacks"};
const OptionSpec standIns{"--stand-ins", "", "let other sounds play for those that are missing"};
const OptionSpec quiet{"--quiet", "", "tell nothing but what went wrong"};

CommandSpec exportCommand() {
    return {"export",
            "FILE… --into DIR",
            "sound, MIDI and other files of songs or sets, all in one go",
            {{"--into", "DIR", "the folder to write to"},
             {"--recipe", "F.json", "what to write, as kept by Cobbleway; other options change it"},
             {"--mixes", "M,…", "of full, now, front, alone, without, kept; or none"},
             {"--stems", "", "each part as loud as in the mix"},
             {"--parts", "N,…", "only these parts, from 1"},
             {"--midi", "M,…", "of whole, heard, parts; and 0 or 1 for the type"},
             {"--keep-place", "", "MIDI of some bars stays where it is in the song"},
             {"--notes-only", "", "MIDI of notes and names alone, for other programs' sounds"},
             {"--file-per-port", "", "more than 16 channels as a MIDI file for each port"},
             {"--sheet", "", "a page that tells of each part"},
             {"--lyrics", "", "the words, also with their times"},
             {"--playlists", "", "a play list for each folder"},
             {"--format", "F", "wav16, wav24, wav32f, flac, ogg, opus or mp3"},
             {"--rate", "HZ", "samples a second"},
             {"--level", "L", "mixed, peak, -16, -18 or -23 (LUFS)"},
             {"--gain", "G", "file: each as loud as asked; song: parts keep their balance"},
             {"--trim", "", "begin with the first note, end where the last has died away"},
             {"--count-in", "BARS", "bars to count before, 0 to 8"},
             {"--click", "", "a click on each beat"},
             {"--pace", "P,…", "percent of the tempo, 25 to 200"},
             {"--key", "N", "semitones up or down, -12 to 12"},
             {"--bars", "A-B", "only these bars"},
             {"--sections", "", "a file for each section"},
             {"--names", "PATTERN", "of {set} {n} {song} {part} {mix} {pace}; a / makes a folder"},
             {"--folders", "F", "none, song or part"},
             font,
             then,
             {"--jobs", "N", "how many threads work"},
             replace,
             standIns,
             quiet,
             json},
            {"export *.mid --into out --mixes full,without --format mp3",
             "export choir.cobbleway --into out --mixes front,alone --folders part --count-in 1",
             "export song.mid --into out --mixes none --midi parts --sections"},
            exportSongs};
}

std::vector<CommandSpec> table() {
    return {
        {"inspect",
         "FILE…",
         "what each file holds, what was repaired, what is left to decide",
         {font, then, json},
         {"inspect song.mid", "inspect *.mid --json"},
         inspect},
        {"sections",
         "FILE",
         "the sections of a song with their bars and seconds",
         {song, json},
         {"sections song.mid"},
         sections},
        {"split",
         "IN OUT.mid",
         "MIDI of type 1, a track for each part",
         {{"--part", "N", "the part to split into lines, from 1"},
          {"--lines", "K", "into how many, top to bottom, 2 to 8"},
          song,
          font,
          then,
          replace},
         {"split song.mid split.mid", "split choir.mid voices.mid --part 2 --lines 4",
          "split - - < in.mid > out.mid"},
         [](const Arguments& a) { return rewrite(a, Layout::TrackPerPart); }},
        {"join",
         "IN OUT.mid",
         "MIDI of type 0, all on one track",
         {song, font, then, replace},
         {"join song.mid one.mid"},
         [](const Arguments& a) { return rewrite(a, Layout::SingleTrack); }},
        {"parts",
         "IN FOLDER",
         "a MIDI file for each part",
         {song, font, then, replace},
         {"parts song.mid parts/"},
         parts},
        {"match",
         "FILE",
         "the sound that each part gets, and why",
         {{"--all", "", "all that could play it"}, song, font, then, json},
         {"match song.mid --font big.sf2"},
         match},
        {"fonts",
         "",
         "the sounds of a soundfont",
         {font, then, {"--keys", "", "what is on each key of its kits"}, json},
         {"fonts --font big.sf2 --keys"},
         fonts},
        {"drums",
         "FILE",
         "the notes of each drum part, their names, and which are silent in the kit",
         {{"--fit", "OUT.mid", "write a file in which those play the nearest that sounds"},
          song,
          font,
          then,
          replace,
          json},
         {"drums song.mid", "drums song.mid --fit fitted.mid"},
         drums},
        {"names",
         "FILE",
         "a list of drum names (text, CSV, MIDI name document)",
         {{"--list", "N", "which list of the file, from 1"},
          {"--meant", "", "the drum that each name means"},
          {"--write", "OUT", "write it as .txt, .csv or .midnam"},
          replace,
          json},
         {"names kit.midnam --write kit.csv"},
         names},
        {"instruments",
         "",
         "LV2 instruments and effects, and whether they can be used",
         {json},
         {"instruments"},
         instruments},
        {"render",
         "IN OUT",
         "a sound file of a song or of a mix of it, by the ending of OUT",
         {{"--part", "N,…", "only these parts"},
          {"--without", "N,…", "all but these"},
          {"--front", "N", "this one in front"},
          {"--stems", "DIR", "each part in a file, too"},
          {"--dry", "", "without the room (reverb)"},
          {"--rate", "HZ", "samples a second"},
          {"--format", "F", "as of export; for - and for WAV of 16 bit or floats"},
          song,
          font,
          then,
          replace,
          standIns,
          quiet},
         {"render song.mid song.flac", "render song.mid - --format wav16 | aplay",
          "render song.mid alto.mp3 --part 2"},
         render},
        exportCommand(),
    };
}

constexpr const char* notes = R"(
FILE and IN can be MIDI files or sets of Cobbleway, and - for what comes on the standard input; OUT can be -
for the standard output. A set plays what it was made with; what is missing of that is told, and no sound is
written unless --stand-ins allows other sounds in its place.
A file that is there already is written over only with --replace; the one that is read never is.
Parts, tracks, channels and programs of a file count from 1; bank and program of a soundfont and key numbers
from 0.
Exit: 0 when every file gave something, 1 when one did not, 2 when the command cannot be understood.
)";

/// Two columns, the second begun where the first is done.
std::string rows(const std::vector<std::pair<std::string, std::string>>& all, std::size_t width) {
    std::string text;
    for (const auto& [first, second] : all) {
        // Letters are counted, not bytes: "…" is three.
        const auto letters = static_cast<std::size_t>(
            std::count_if(first.begin(), first.end(), [](char c) { return (c & 0xC0) != 0x80; }));
        text += "  " + first +
                (letters < width ? std::string(width - letters, ' ') : "\n" + std::string(width + 2, ' '));
        text += second + "\n";
    }
    return text;
}

} // namespace

const std::vector<CommandSpec>& commands() {
    static const std::vector<CommandSpec> all = table();
    return all;
}

std::string helpText() {
    std::vector<std::pair<std::string, std::string>> lines;
    for (const CommandSpec& command : commands()) lines.emplace_back(command.name, command.help);
    return "cobbleway-cli: MIDI files, sorted out, without a window\n\nUsage: cobbleway-cli COMMAND …\n\n" +
           rows(lines, 13) + "\n" +
           rows({{"COMMAND --help", "its options, with examples"}, {"--version", "the version"}}, 16) + notes;
}

std::string helpText(const CommandSpec& command) {
    std::vector<std::pair<std::string, std::string>> lines;
    for (const OptionSpec& option : command.options)
        lines.emplace_back(option.name + (option.value.empty() ? "" : " " + option.value), option.help);
    std::string text = "Usage: cobbleway-cli " + command.name +
                       (command.words.empty() ? "" : " " + command.words) + " [OPTION…]\n\n" + command.help +
                       "\n\n" + rows(lines, 20) + "\nExamples:\n";
    for (const std::string& example : command.examples) text += "  cobbleway-cli " + example + "\n";
    return text;
}

} // namespace cobbleway::cli
