#include "cli/export.h"

#include "cli/describe.h"
#include "cli/given.h"
#include "cli/ground.h"
#include "cli/writing.h"
#include "files/exports.h"
#include "files/namepattern.h"
#include "song/shape/edits.h"

#include <algorithm>
#include <charconv>
#include <csignal>
#include <cstdio>
#include <nlohmann/json.hpp>
#include <sstream>
#include <thread>

namespace cobbleway::cli {
namespace {

using Kind = ExportItem::Kind;

/// A number between two, as the whole of a text.
template <class Number>
Result<Number> numberOf(const std::string& option, const std::string& text, Number low, Number high) {
    Number number{};
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), number);
    if (error != std::errc{} || end != text.data() + text.size() || number < low || number > high) {
        const auto shown = [](Number bound) { return (std::ostringstream() << bound).str(); };
        return Error{{"cli.cannot-be", {{"option", option}, {"text", text}}},
                     "",
                     {"cli.give-range", {{"low", shown(low)}, {"high", shown(high)}}}};
    }
    return number;
}

Error cannotBe(const char* option, const std::string& text, const char* give) {
    return {{"cli.cannot-be", {{"option", std::string(option)}, {"text", text}}}, "", {give}};
}

std::vector<std::string> listOf(const std::string& text) {
    std::vector<std::string> items;
    std::istringstream list(text);
    for (std::string item; std::getline(list, item, ',');) items.push_back(item);
    return items;
}

Result<Done> setMixes(Recipe& recipe, const std::string& text) {
    recipe.full = recipe.now = recipe.front = recipe.alone = recipe.without = recipe.kept = false;
    for (const std::string& mix : listOf(text)) {
        if (mix == "full")
            recipe.full = true;
        else if (mix == "front")
            recipe.front = true;
        else if (mix == "now")
            recipe.now = true;
        else if (mix == "alone")
            recipe.alone = true;
        else if (mix == "without")
            recipe.without = true;
        else if (mix == "kept")
            recipe.kept = true;
        else if (mix != "none")
            return Error{{"cli.no-mix", {{"mix", mix}}}, "", {"cli.give-mixes"}};
    }
    return Done{};
}

Result<Done> setMidi(Recipe& recipe, const std::string& text) {
    recipe.midi = recipe.midiHeard = recipe.midiParts = false;
    for (const std::string& kind : listOf(text)) {
        if (kind == "whole")
            recipe.midi = true;
        else if (kind == "heard")
            recipe.midiHeard = true;
        else if (kind == "parts")
            recipe.midiParts = true;
        else if (kind == "0" || kind == "1") // the type; of the whole song where nothing else is named
            recipe.midiForm.singleTrack = kind == "0";
        else
            return cannotBe("--midi", kind, "cli.give-midi");
    }
    if (!recipe.midiHeard && !recipe.midiParts) recipe.midi = true;
    return Done{};
}

Result<Done> setSound(Recipe& recipe, const Arguments& arguments) {
    if (arguments.has("--format")) {
        const auto format = formatOfId(arguments.value("--format"));
        const auto there = soundFormats();
        if (!format || std::find(there.begin(), there.end(), *format) == there.end()) {
            std::vector<Message> ids;
            ids.reserve(there.size());
            for (const SoundFormat one : there) ids.push_back(Message::verbatim(std::string(formatId(one))));
            return Error{{"cli.no-format", {{"format", arguments.value("--format")}}},
                         "",
                         {"cli.give-format", {{"formats", std::move(ids)}}}};
        }
        recipe.format = *format;
        if (!arguments.has("--rate")) recipe.rate = std::min(recipe.rate, ratesOf(*format).back());
    }
    if (arguments.has("--rate")) {
        const auto rate = numberOf("--rate", arguments.value("--rate"), 8000, 96000);
        if (!rate) return rate.error();
        recipe.rate = rate.value();
        const auto rates = ratesOf(recipe.format);
        if (!isLossless(recipe.format) && std::find(rates.begin(), rates.end(), recipe.rate) == rates.end())
            return Error{{"cli.format-rate",
                          {{"format", std::string(formatName(recipe.format))}, {"rate", recipe.rate}}},
                         "",
                         {"cli.give-rates", {{"first", rates.front()}, {"last", rates.back()}}}};
    }
    if (arguments.has("--level")) {
        const auto level = levelOfId(arguments.value("--level"));
        if (!level) return cannotBe("--level", arguments.value("--level"), "cli.give-level");
        recipe.finish.level = *level;
    }
    if (arguments.has("--gain")) {
        const std::string gain = arguments.value("--gain");
        if (gain != "song" && gain != "file") return cannotBe("--gain", gain, "cli.give-gain");
        recipe.finish.gainOfEach = gain == "file";
    }
    return Done{};
}

Result<Done> setPlace(Recipe& recipe, const Arguments& arguments) {
    if (arguments.has("--pace")) {
        recipe.paces.clear();
        for (const std::string& text : listOf(arguments.value("--pace"))) {
            const auto pace = numberOf("--pace", text, 25.0, 200.0);
            if (!pace) return pace.error();
            recipe.paces.push_back(pace.value());
        }
        if (recipe.paces.empty())
            return Error{{"cli.needs-value", {{"option", std::string("--pace")}}}, "", {"cli.see-help"}};
    }
    if (arguments.has("--key")) {
        std::string text = arguments.value("--key");
        if (text.starts_with('+')) text.erase(0, 1);
        const auto key = numberOf("--key", text, -12, 12);
        if (!key) return key.error();
        recipe.key = key.value();
    }
    if (arguments.has("--count-in")) {
        const auto bars = numberOf("--count-in", arguments.value("--count-in"), 0, 8);
        if (!bars) return bars.error();
        recipe.finish.countIn = bars.value();
    }
    if (arguments.has("--bars")) {
        const std::string text = arguments.value("--bars");
        const auto dash = text.find('-');
        const auto first = numberOf("--bars", text.substr(0, dash), 1, 1000000);
        const auto last =
            numberOf("--bars", dash == std::string::npos ? text : text.substr(dash + 1), 1, 1000000);
        if (!first || !last || last.value() < first.value()) return cannotBe("--bars", text, "cli.give-bars");
        recipe.firstBar = first.value();
        recipe.lastBar = last.value();
    }
    if (arguments.has("--folders")) {
        const std::string folders = arguments.value("--folders");
        if (folders != "none" && folders != "song" && folders != "part")
            return cannotBe("--folders", folders, "cli.give-folders");
        recipe.folders =
            folders == "song" ? Folders::Song : (folders == "part" ? Folders::Part : Folders::None);
    }
    return Done{};
}

/// The recipe named, or a new one, with what the options say.
Result<Recipe> recipeOf(const Arguments& arguments) {
    Recipe recipe;
    if (arguments.has("--recipe")) {
        const auto read = readRecipe(arguments.value("--recipe"));
        if (!read) return read.error();
        recipe = read.value();
    } else if (!arguments.has("--mixes") && (arguments.has("--midi") || arguments.has("--stems") ||
                                             arguments.has("--sheet") || arguments.has("--lyrics")))
        recipe.full = false; // who names other files alone wants those
    if (arguments.has("--mixes"))
        if (const auto set = setMixes(recipe, arguments.value("--mixes")); !set) return set.error();
    if (arguments.has("--midi"))
        if (const auto set = setMidi(recipe, arguments.value("--midi")); !set) return set.error();
    if (const auto set = setSound(recipe, arguments); !set) return set.error();
    if (const auto set = setPlace(recipe, arguments); !set) return set.error();
    const std::pair<const char*, bool*> ticks[] = {{"--stems", &recipe.stems},
                                                   {"--sheet", &recipe.sheet},
                                                   {"--lyrics", &recipe.lyrics},
                                                   {"--playlists", &recipe.playlists},
                                                   {"--trim", &recipe.finish.trim},
                                                   {"--click", &recipe.finish.click},
                                                   {"--sections", &recipe.sections},
                                                   {"--keep-place", &recipe.midiForm.keepsPlace},
                                                   {"--notes-only", &recipe.midiForm.notesOnly},
                                                   {"--file-per-port", &recipe.midiForm.filePerPort}};
    for (const auto& [option, tick] : ticks)
        if (arguments.has(option)) *tick = true;
    if (arguments.has("--names")) recipe.names = arguments.value("--names");
    if (const auto unknown = unknownNameWord(recipe.names))
        return Error{{"cli.no-word", {{"word", *unknown}}}, "", {"cli.give-words"}};
    return recipe;
}

const char* kindWord(Kind kind) {
    switch (kind) {
    case Kind::Midi:
    case Kind::MidiHeard:
    case Kind::MidiPart: return "midi";
    case Kind::Stem: return "stem";
    case Kind::Timed:
    case Kind::Lyrics: return "lyrics";
    case Kind::DrumNames: return "names";
    case Kind::Sheet: return "sheet";
    default: return "mix";
    }
}

std::string mixWordOf(const ExportItem& item) {
    switch (item.kind) {
    case Kind::Full: return "full";
    case Kind::Now: return "now";
    case Kind::MidiHeard: return "heard";
    case Kind::Front: return "front";
    case Kind::Alone: return "alone";
    case Kind::Without: return "without";
    case Kind::Kept: return item.mix;
    default: return {};
    }
}

Json outcomeJson(const SongExport& from, const ExportOutcome& outcome, const std::filesystem::path& folder) {
    const ExportItem& item = from.items[outcome.item];
    Json j = {{"file", (outcome.path.empty() ? std::filesystem::path(item.fileName)
                                             : std::filesystem::relative(outcome.path, folder))
                           .string()},
              {"song", from.song.title},
              {"kind", kindWord(item.kind)}};
    if (const std::string mix = mixWordOf(item); !mix.empty()) j["mix"] = mix;
    for (std::size_t i = 0; i < from.song.parts.size(); ++i)
        if (item.part && from.song.parts[i].id == item.part) j["part"] = i + 1;
    if (item.isSound()) j["pace"] = item.pace;
    if (item.section >= 0) j["section"] = from.song.sections[static_cast<std::size_t>(item.section)].name;
    if (!outcome.written) {
        j["error"] = outcome.error.message();
        j["said"] = messageJson(outcome.error.what);
        return j;
    }
    if (item.isSound()) {
        j["seconds"] = outcome.measured.seconds;
        j["peak_dbtp"] = outcome.measured.peakDb;
        j["lufs"] = outcome.measured.lufs;
    }
    std::error_code error;
    j["bytes"] = std::filesystem::file_size(outcome.path, error);
    return j;
}

/// Errors of files and sounds, as entries of the list that is given.
Json errorsJson(const std::vector<Error>& errors) {
    Json list = Json::array();
    for (const Error& problem : errors)
        list.push_back(
            {{"file", problem.where}, {"error", inWords(problem.what)}, {"said", messageJson(problem.what)}});
    return list;
}

std::stop_source& stopper() {
    static std::stop_source source;
    return source;
}

volatile std::sig_atomic_t interrupted = 0;

/// Stops the work when the program is interrupted: a signal may set a flag alone, so a thread looks at it.
class Interrupt {
  public:
    Interrupt() {
        std::signal(SIGINT, [](int) { interrupted = 1; });
        std::signal(SIGTERM, [](int) { interrupted = 1; });
        m_watch = std::jthread([](const std::stop_token& stop) {
            while (!stop.stop_requested()) {
                if (interrupted) stopper().request_stop();
                std::this_thread::sleep_for(std::chrono::milliseconds(20));
            }
        });
    }

  private:
    std::jthread m_watch;
};

Result<std::vector<SongExport>> whatToWrite(const Given& given, const Recipe& recipe,
                                            const Arguments& arguments) {
    std::vector<int> numbers;
    if (arguments.has("--parts")) {
        const auto parts = parseNumbers(arguments.value("--parts"));
        if (!parts) return parts.error();
        numbers = parts.value();
    }
    std::vector<SongExport> all;
    std::set<std::string> taken;
    for (std::size_t i = 0; i < given.songs.size(); ++i) {
        const Song& song = given.songs[i];
        std::vector<PartId> only;
        for (const int number : numbers) {
            if (number > static_cast<int>(song.parts.size()))
                return Error{{"cli.no-part", {{"number", number}, {"parts", song.parts.size()}}},
                             song.title,
                             {"cli.list-parts"}};
            only.push_back(song.parts[static_cast<std::size_t>(number) - 1].id);
        }
        const Song moved =
            recipe.key ? edits::setKeyShift(song, std::clamp(song.keyShift + recipe.key, -24, 24)) : song;
        const int place = static_cast<int>(i) + 1;
        auto items = itemsFor(moved, recipe, wantedBy(recipe, only), given.set, place, taken);
        all.push_back({moved, std::move(items), place});
    }
    return all;
}

} // namespace

int exportSongs(const Arguments& arguments) {
    if (arguments.words.empty()) return fail({{"cli.no-song"}, "", {"cli.see-help"}}, 2);
    if (!arguments.has("--into")) return fail({{"cli.no-into"}, "", {"cli.see-help"}}, 2);
    const auto recipe = recipeOf(arguments);
    if (!recipe) return fail(recipe.error(), 2);
    int jobs = static_cast<int>(std::max(1U, std::thread::hardware_concurrency()));
    if (arguments.has("--jobs")) {
        const auto wanted = numberOf("--jobs", arguments.value("--jobs"), 1, 64);
        if (!wanted) return fail(wanted.error(), 2);
        jobs = wanted.value();
    }
    const Given given = songsOf(arguments.words);
    const auto catalogue = soundsFor(arguments, given.songs, given.fonts);
    if (!catalogue) return fail(catalogue.error());
    for (const Error& problem : given.problems) fail(problem);
    if (given.songs.empty())
        return given.problems.empty() ? fail({{"cli.empty-set"}, arguments.words[0], {"now.other-file"}}) : 1;
    std::vector<Error> missing;
    for (const Song& song : given.songs)
        for (Error& error : missingIn(song, catalogue.value())) missing.push_back(std::move(error));
    if (!mayPlay(arguments, missing)) {
        if (arguments.has("--json")) print("export", errorsJson(missing));
        return 1;
    }
    const auto songs = whatToWrite(given, recipe.value(), arguments);
    if (!songs) return fail(songs.error(), 2);
    const std::filesystem::path folder = arguments.value("--into");
    SetExportOptions options;
    options.each = optionsOf(recipe.value(), folder);
    options.each.album = given.set;
    options.each.stop = stopper().get_token();
    options.each.existing = arguments.has("--replace") ? Existing::Replace : Existing::Leave;
    options.jobs = jobs;
    options.playlists = recipe.value().playlists;
    options.silent = [](std::size_t, const Error& error) {
        std::fprintf(stderr, "%s\n", error.message().c_str());
    };
    std::uintmax_t bytes = 0;
    for (const SongExport& song : songs.value()) bytes += bytesNeeded(song.song, song.items, options.each);
    if (const auto problem = foreseen(folder, bytes)) return fail(*problem);
    options.progress = progressFor(arguments);
    const Interrupt watch;
    const SetOutcome made = writeSet(songs.value(), catalogue.value(), options);
    Json list = errorsJson(given.problems);
    for (const Json& each : errorsJson(missing)) list.push_back(each);
    int code = given.problems.empty() ? 0 : 1;
    const auto tell = [&](const ExportOutcome& outcome, const std::string& name) {
        if (!outcome.written) {
            std::fprintf(stderr, "%s: %s\n", name.c_str(), outcome.error.message().c_str());
            code = 1;
        } else if (!arguments.has("--json") && !arguments.has("--quiet"))
            std::printf("%s\n", outcome.path.c_str());
    };
    for (std::size_t i = 0; i < made.songs.size(); ++i)
        for (const ExportOutcome& outcome : made.songs[i]) {
            list.push_back(outcomeJson(songs.value()[i], outcome, folder));
            tell(outcome, songs.value()[i].items[outcome.item].fileName);
        }
    for (const ExportOutcome& outcome : made.playlists) {
        list.push_back(
            {{"file", std::filesystem::relative(outcome.path, folder).string()}, {"kind", "playlist"}});
        if (!outcome.written) list.back()["error"] = outcome.error.message();
        tell(outcome, outcome.path.filename().string());
    }
    if (list.empty()) return fail({{"cli.nothing"}, "", {"cli.ask-for"}});
    if (arguments.has("--json")) print("export", list);
    return interrupted ? 1 : code;
}

} // namespace cobbleway::cli
