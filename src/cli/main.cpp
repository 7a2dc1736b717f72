/// cobbleway-cli: the work of Cobbleway without a window.
#include "cli/arguments.h"
#include "cli/describe.h"
#include "cli/drums.h"
#include "cli/export.h"
#include "cli/given.h"
#include "cli/ground.h"
#include "files/folders.h"
#include "files/pluginscan.h"
#include "files/project.h"
#include "files/shipped.h"
#include "files/songfile.h"
#include "files/soundexport.h"
#include "midi/thrown.h"
#include "song/model/levels.h"
#include "song/out/heardsounds.h"
#include "song/shape/splits.h"
#include "sound/render.h"
#include "words/letters.h"

#include <algorithm>
#include <charconv>
#include <cstdio>
#include <functional>

namespace cobbleway::cli {
namespace {

constexpr const char* help = R"(cobbleway-cli: MIDI files, sorted out, without a window

  inspect FILE… [--font F] [--json]   what each file holds, what was repaired, what is left to decide
  split IN OUT.mid [--part N --lines K]
                                      type 1, a track a part; a part split into lines, top to bottom
  join IN OUT.mid                     type 0, all on one track
  parts IN FOLDER                     a MIDI file for each part
  match FILE [--font F] [--all] [--json]
                                      the sound that each part gets, and why; all that could play it
  fonts [--font F] [--keys] [--json]  the sounds of a soundfont; the name on each key of its kits
  drums FILE [--font F] [--fit OUT.mid] [--json]
                                      the notes of each drum part, what they are called, which are silent in
                                      the kit; with --fit a file in which those play the nearest that sounds
  names FILE [--list N] [--meant] [--write OUT] [--json]
                                      a list of drum names (text, CSV, MIDI name document), what was repaired
                                      in it, the drum that each name means; written as .txt, .csv or .midnam
  instruments [--json]                LV2 instruments and effects, and whether they can be used
  render IN OUT [--font F] [--then G] [--part N,…] [--without N,…] [--front N] [--rate HZ] [--stems DIR]
         [--dry] [--stand-ins]        a sound file of the whole song or of a mix of it, by the ending of OUT
                                      (.wav, .flac, .ogg, .opus, .mp3); --dry: without the room (reverb)
  export FILE… --into DIR             sound, MIDI and other files of songs or projects, all in one go:
         [--recipe F.json]            what to write, as kept by Cobbleway; options change it
         [--mixes full,front,alone,without,kept] [--stems] [--parts N,…] [--midi 0|1|parts]
         [--sheet] [--lyrics] [--playlists]
         [--format wav16|wav24|wav32f|flac|ogg|opus|mp3] [--rate HZ]
         [--level mixed|peak|-16|-18|-23] [--gain song|file] [--trim] [--count-in BARS] [--click]
         [--pace P,…] [--key N] [--bars A-B] [--sections] [--names PATTERN] [--folders none|song|part]
         [--font F] [--then G] [--jobs N] [--replace] [--stand-ins] [--json]

IN and FILE of inspect, split, join, parts, match, render and export can be a set of Cobbleway, too; of one
with several songs --song N takes one (export and inspect take all). It is played by what the set uses. What
is missing of that is told, and nothing is written unless --stand-ins allows other sounds in its place.
A file that is there already is written over only with --replace; the one that is read never is.
Parts, tracks, channels and programs of a file count from 1; bank and program of a soundfont and key
numbers from 0. Without --font the system's default soundfont plays, else the house font; --then names one
that plays what the first lacks.
Exit: 0 when every file gave something, 1 when one did not, 2 when the command cannot be understood.
)";

int inspect(const Arguments& arguments) {
    if (arguments.words.empty()) return fail({{"cli.no-file"}, "", {"cli.see-help"}}, 2);
    const auto catalogue = catalogueOf(arguments);
    if (!catalogue) return fail(catalogue.error());
    Json all = Json::array();
    int code = 0;
    for (const std::string& file : arguments.words) {
        const Given given = songsOf({file});
        for (const Error& problem : given.problems) code = fail(problem);
        for (const Song& song : given.songs) {
            all.push_back(inspectJson(file, song, catalogue.value()));
            if (!arguments.has("--json")) std::fputs(inspectText(all.back()).c_str(), stdout);
        }
    }
    if (arguments.has("--json"))
        std::printf("%s\n", all.dump(1, ' ', false, Json::error_handler_t::replace).c_str());
    return code;
}

/// Whether a file may be written: not over the one that is read, and over another only with --replace.
Result<Done> mayWrite(const Arguments& arguments, const std::filesystem::path& path) {
    std::error_code error;
    if (!std::filesystem::exists(path, error)) return Done{};
    if (std::filesystem::equivalent(path, arguments.words[0], error))
        return Error{{"cli.same-file"}, path.string(), {"cli.other-name"}};
    if (arguments.has("--replace")) return Done{};
    return Error{{"cli.is-there"}, path.string(), {"cli.replace"}};
}

/// A part split into lines by --part and --lines; the song as it is without them.
Result<Song> withLines(const Song& song, const Arguments& arguments) {
    if (!arguments.has("--part") && !arguments.has("--lines")) return song;
    const Error missing{{"cli.lines"}, song.source->name, {"cli.give-lines"}};
    if (!arguments.has("--part") || !arguments.has("--lines")) return missing;
    const auto part = parseNumbers(arguments.value("--part")),
               lines = parseNumbers(arguments.value("--lines"));
    if (!part) return part.error();
    if (!lines) return lines.error();
    const auto number = static_cast<std::size_t>(part.value().front());
    if (part.value().size() != 1 || lines.value().size() != 1 || number > song.parts.size() ||
        lines.value().front() < 2 || lines.value().front() > 8)
        return missing;
    const Part& whole = song.parts[number - 1];
    const Split split = splitIntoLines(song, whole, lines.value().front());
    if (split.used() < 2) return Error{{"error.split-nothing"}, whole.name, {"now.other-part"}};
    return edits::split(song, whole.id, split);
}

/// The song that is given; of a set with the programs that are heard (withHeardPrograms()).
Result<Song> songToWrite(const Arguments& arguments) {
    std::vector<FontMemory> fonts;
    auto song = songOf(arguments.words[0], arguments, &fonts);
    if (!song) return song;
    if (!isProject(arguments.words[0])) return withTrackNames(song.value());
    const auto catalogue = soundsFor(arguments, {&song.value(), 1}, fonts);
    if (!catalogue) return catalogue.error();
    return withTrackNames(
        withHeardPrograms(song.value(), matchSong(song.value(), catalogue.value()), catalogue.value()));
}

int rewrite(const Arguments& arguments, Layout layout) {
    if (arguments.words.size() != 2) return fail({{"cli.two-files"}, "", {"cli.see-help"}}, 2);
    const auto song = songToWrite(arguments);
    if (!song) return fail(song.error());
    if (const auto may = mayWrite(arguments, arguments.words[1]); !may) return fail(may.error());
    const auto shaped = withLines(song.value(), arguments);
    if (!shaped) return fail(shaped.error(), 2);
    const auto written = writeSong(shaped.value(), {.layout = layout}, arguments.words[1]);
    return written ? 0 : fail(written.error());
}

/// "03 Lead cornet.mid": a part's number, from 1, and name.
std::string numberedName(std::size_t number, const Part& part, const char* ending) {
    return (number < 10 ? "0" : "") + std::to_string(number) + " " + fileNameFrom(part.name) + ending;
}

int parts(const Arguments& arguments) {
    if (arguments.words.size() != 2) return fail({{"cli.file-and-folder"}, "", {"cli.see-help"}}, 2);
    const auto song = songToWrite(arguments);
    if (!song) return fail(song.error());
    const std::filesystem::path folder = arguments.words[1];
    if (const auto made = makeFolder(folder); !made) return fail(made.error());
    const auto& all = song.value().parts;
    for (std::size_t i = 0; i < all.size(); ++i)
        if (const auto may = mayWrite(arguments, folder / numberedName(i + 1, all[i], ".mid"));
            !all[i].aside && !may)
            return fail(may.error());
    for (std::size_t i = 0; i < all.size(); ++i) {
        if (all[i].aside) continue;
        const std::string name = numberedName(i + 1, all[i], ".mid");
        const auto written = writeSong(song.value(), {.part = all[i].id}, folder / name);
        if (!written) return fail(written.error());
        std::printf("%s\n", name.c_str());
    }
    return 0;
}

int match(const Arguments& arguments) {
    if (arguments.words.size() != 1) return fail({{"cli.one-file"}, "", {"cli.see-help"}}, 2);
    std::vector<FontMemory> fonts;
    const auto song = songOf(arguments.words[0], arguments, &fonts);
    if (!song) return fail(song.error());
    const auto catalogue = soundsFor(arguments, {&song.value(), 1}, fonts);
    if (!catalogue) return fail(catalogue.error());
    const Json parts = matchJson(song.value(), catalogue.value(), arguments.has("--all"));
    std::printf("%s\n", arguments.has("--json")
                            ? parts.dump(1, ' ', false, Json::error_handler_t::replace).c_str()
                            : matchText(parts).c_str());
    return 0;
}

int fonts(const Arguments& arguments) {
    const auto catalogue = catalogueOf(arguments);
    if (!catalogue) return fail(catalogue.error());
    const SoundFont* font = catalogue.value().defaultFont();
    if (!font) return fail({{"cli.no-font"}, "", {"cli.name-font"}});
    if (arguments.has("--keys")) {
        const Json kits = fontKeysJson(*font);
        std::printf("%s\n", arguments.has("--json")
                                ? kits.dump(1, ' ', false, Json::error_handler_t::replace).c_str()
                                : fontKeysText(kits).c_str());
    } else if (arguments.has("--json"))
        std::printf("%s\n", fontJson(*font).dump(1, ' ', false, Json::error_handler_t::replace).c_str());
    else
        std::fputs(fontText(*font).c_str(), stdout);
    return 0;
}

int instruments(const Arguments& arguments) {
    PluginScanOptions options;
    options.helper = pluginHelper();
    options.bundle = shippedPlugins();
    options.cache = pluginCache();
    options.state = stateFolder();
    const Json list = instrumentsJson(scanPlugins(options));
    std::printf("%s\n", arguments.has("--json")
                            ? list.dump(1, ' ', false, Json::error_handler_t::replace).c_str()
                            : instrumentsText(list).c_str());
    return 0;
}

int drums(const Arguments& arguments) {
    if (arguments.words.size() != 1) return fail({{"cli.one-file"}, "", {"cli.see-help"}}, 2);
    const auto catalogue = catalogueOf(arguments);
    if (!catalogue) return fail(catalogue.error());
    const auto song = openSong(arguments.words[0]);
    if (!song) return fail(song.error());
    if (arguments.has("--fit")) {
        const std::filesystem::path out = arguments.value("--fit");
        if (const auto may = mayWrite(arguments, out); !may) return fail(may.error());
        const Layout layout =
            song.value().source->midi.type == 0 ? Layout::SingleTrack : Layout::TrackPerPart;
        const auto written =
            writeSong(edits::fitKits(song.value(), catalogue.value()), {.layout = layout}, out);
        if (!written) return fail(written.error());
    }
    const Json parts = drumsJson(song.value(), catalogue.value());
    if (arguments.has("--json"))
        print(parts);
    else
        std::fputs(drumsText(parts).c_str(), stdout);
    return 0;
}

int names(const Arguments& arguments) {
    if (arguments.words.size() != 1) return fail({{"cli.one-file"}, "", {"cli.see-help"}}, 2);
    const auto file = readNames(arguments.words[0]);
    if (!file) return fail(file.error());
    std::size_t list = 0;
    if (arguments.has("--list")) {
        const auto number = parseNumbers(arguments.value("--list"));
        if (!number) return fail(number.error(), 2);
        list = static_cast<std::size_t>(number.value().front()) - 1;
        if (list >= file.value().lists.size())
            return fail({{"cli.no-list", {{"number", list + 1}, {"lists", file.value().lists.size()}}},
                         arguments.words[0],
                         {"cli.see-lists"}},
                        2);
    }
    if (arguments.has("--write")) {
        const std::filesystem::path out = arguments.value("--write");
        if (const auto may = mayWrite(arguments, out); !may) return fail(may.error());
        const NameList& chosen = file.value().lists[list];
        const auto written = writeNames(chosen.names, chosen.title, out);
        if (!written) return fail(written.error());
    }
    const Json all = namesJson(file.value(), list, arguments.has("--meant"));
    if (arguments.has("--json"))
        print(all);
    else
        std::fputs(namesText(all).c_str(), stdout);
    return 0;
}

/// Sets roles by --part, --without and --front.
Result<Song> withRoles(Song song, const Arguments& arguments) {
    const auto change = [&](const char* option, const std::function<void(Part&, bool)>& set) -> Result<Done> {
        if (!arguments.has(option)) return Done{};
        const auto numbers = parseNumbers(arguments.value(option));
        if (!numbers) return numbers.error();
        for (const int number : numbers.value())
            if (number > static_cast<int>(song.parts.size()))
                return Error{{"cli.no-part", {{"number", number}, {"parts", song.parts.size()}}},
                             song.source->name,
                             {"cli.list-parts"}};
        for (std::size_t i = 0; i < song.parts.size(); ++i)
            set(song.parts[i], std::find(numbers.value().begin(), numbers.value().end(),
                                         static_cast<int>(i) + 1) != numbers.value().end());
        return Done{};
    };
    const auto only =
        change("--part", [](Part& part, bool named) { part.mix.role = named ? part.mix.role : Role::Off; });
    if (!only) return only.error();
    const auto without = change(
        "--without", [](Part& part, bool named) { part.mix.role = named ? Role::Off : part.mix.role; });
    if (!without) return without.error();
    const auto front =
        change("--front", [](Part& part, bool named) { part.mix.role = named ? Role::Lead : part.mix.role; });
    if (!front) return front.error();
    return song;
}

/// The format that a file's ending names.
Result<SoundFormat> formatOf(const std::filesystem::path& path) {
    if (inSmallLetters(path.extension().string()) == ".wav") return SoundFormat::Wav24;
    std::vector<Message> endings;
    for (const SoundFormat format : soundFormats()) {
        const std::string ending(formatEnding(format));
        if (inSmallLetters(path.extension().string()) == ending) return format;
        if (endings.empty() || inWords(endings.back()) != ending)
            endings.push_back(Message::verbatim(ending));
    }
    return Error{{"cli.no-ending"}, path.string(), {"cli.give-format", {{"formats", std::move(endings)}}}};
}

Result<int> rateOf(const Arguments& arguments, SoundFormat format) {
    if (!arguments.has("--rate")) return std::min(48000, ratesOf(format).back());
    const std::string text = arguments.value("--rate");
    int rate = 0;
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), rate);
    if (error != std::errc{} || end != text.data() + text.size() || rate < 8000 || rate > 96000)
        return Error{{"cli.no-rate", {{"text", text}}}, "", {"cli.give-rate"}};
    const auto rates = ratesOf(format);
    const bool free = format == SoundFormat::Wav24 || format == SoundFormat::Flac;
    if (!free && std::find(rates.begin(), rates.end(), rate) == rates.end())
        return Error{{"cli.format-rate", {{"format", std::string(formatName(format))}, {"rate", rate}}},
                     "",
                     {"cli.give-rates", {{"first", rates.front()}, {"last", rates.back()}}}};
    return rate;
}

/// The mix, and stems when asked for, as files to be written in one pass.
Result<std::vector<SoundFileOrder>> ordersOf(const Song& song, const Arguments& arguments,
                                             SoundFormat format) {
    std::vector<SoundFileOrder> orders = {{arguments.words[1], song, format}};
    const std::string ending(formatEnding(format));
    if (!arguments.has("--stems")) return orders;
    const std::filesystem::path folder = arguments.value("--stems");
    if (const auto made = makeFolder(folder); !made) return made.error();
    for (std::size_t i = 0; i < song.parts.size(); ++i)
        if (!song.parts[i].aside)
            orders.push_back({folder / numberedName(i + 1, song.parts[i], ending.c_str()),
                              stemOf(song, song.parts[i].id), format});
    return orders;
}

int render(const Arguments& arguments) {
    if (arguments.words.size() != 2) return fail({{"cli.two-files"}, "", {"cli.see-help"}}, 2);
    if (const auto may = mayWrite(arguments, arguments.words[1]); !may) return fail(may.error());
    const auto format = formatOf(arguments.words[1]);
    if (!format) return fail(format.error(), 2);
    const auto rate = rateOf(arguments, format.value());
    if (!rate) return fail(rate.error(), 2);
    std::vector<FontMemory> fonts;
    const auto read = songOf(arguments.words[0], arguments, &fonts);
    if (!read) return fail(read.error());
    const auto catalogue = soundsFor(arguments, {&read.value(), 1}, fonts);
    if (!catalogue) return fail(catalogue.error());
    if (!mayPlay(arguments, missingIn(read.value(), catalogue.value()))) return 1;
    auto song = withRoles(read.value(), arguments);
    if (!song) return fail(song.error(), 2);
    if (arguments.has("--dry")) song.value().room = 0;
    const auto orders = ordersOf(song.value(), arguments, format.value());
    if (!orders) return fail(orders.error());
    for (const SoundFileOrder& order : orders.value())
        if (const auto may = mayWrite(arguments, order.path); !may) return fail(may.error());
    InstrumentBank bank(rate.value(), {.pluginBundle = shippedPlugins()});
    const auto plan =
        makePlan(song.value(), catalogue.value(), matchSong(song.value(), catalogue.value()), bank);
    const auto results = writeSoundFiles(*plan, orders.value());
    for (const Error& error : problemsOf(*plan)) std::fprintf(stderr, "%s\n", error.message().c_str());
    int code = 0;
    for (std::size_t i = 0; i < results.size(); ++i) {
        if (!results[i]) {
            code = fail(results[i].error());
            continue;
        }
        const Measured& measured = results[i].value();
        std::printf("%s  %s  peak %.1f dBFS  %.1f LUFS\n", orders.value()[i].path.c_str(),
                    timeText(measured.seconds).c_str(), measured.peakDb, measured.lufs);
    }
    return code;
}

int run(const std::vector<std::string>& given) {
    if (given.empty() || given[0] == "--help" || given[0] == "help") {
        std::fputs(help, given.empty() ? stderr : stdout);
        return given.empty() ? 2 : 0;
    }
    struct Command {
        const char* name;
        std::vector<std::string> options;
        std::function<int(const Arguments&)> work;
    };
    const std::vector<Command> commands = {
        {"inspect", {"--json!", "--font"}, inspect},
        {"split",
         {"--replace!", "--part", "--lines", "--song", "--font", "--then"},
         [](const Arguments& a) { return rewrite(a, Layout::TrackPerPart); }},
        {"join",
         {"--replace!", "--song", "--font", "--then"},
         [](const Arguments& a) { return rewrite(a, Layout::SingleTrack); }},
        {"parts", {"--replace!", "--song", "--font", "--then"}, parts},
        {"match", {"--json!", "--font", "--then", "--all!", "--song"}, match},
        {"fonts", {"--json!", "--font", "--keys!"}, fonts},
        {"drums", {"--json!", "--font", "--then", "--fit", "--replace!"}, drums},
        {"names", {"--json!", "--list", "--meant!", "--write", "--replace!"}, names},
        {"instruments", {"--json!"}, instruments},
        {"render",
         {"--font", "--then", "--part", "--without", "--front", "--rate", "--stems", "--replace!", "--dry!",
          "--song", "--stand-ins!"},
         render},
        {"export", exportOptions(), exportSongs},
    };
    const auto command =
        std::find_if(commands.begin(), commands.end(), [&](const Command& c) { return given[0] == c.name; });
    if (command == commands.end())
        return fail({{"cli.no-command", {{"command", given[0]}}}, "", {"cli.see-help"}}, 2);
    const auto arguments = parseArguments({given.begin() + 1, given.end()}, command->options);
    return arguments ? command->work(arguments.value()) : fail(arguments.error(), 2);
}

} // namespace
} // namespace cobbleway::cli

int main(int count, char** words) {
    try {
        return cobbleway::cli::run({words + 1, words + count});
    } catch (...) { return cobbleway::cli::fail(cobbleway::thrownError(std::current_exception())); }
}
