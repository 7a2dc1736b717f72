#include "cli/render.h"

#include "cli/describe.h"
#include "cli/given.h"
#include "cli/ground.h"
#include "cli/writing.h"
#include "files/pluginhost.h"
#include "files/samplecache.h"
#include "files/shipped.h"
#include "files/soundexport.h"
#include "song/model/levels.h"
#include "sound/render.h"
#include "words/letters.h"

#include <algorithm>
#include <charconv>
#include <cstdio>

namespace cobbleway::cli {
namespace {

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

/// The format that --format names; an error when it is none, or the file has another's ending.
Result<SoundFormat> formatNamed(const Arguments& arguments, const std::filesystem::path& path) {
    const std::string id = arguments.value("--format");
    const auto there = soundFormats();
    std::vector<Message> ids;
    ids.reserve(there.size());
    for (const SoundFormat format : there) {
        const bool fits =
            path == standardStream || inSmallLetters(path.extension().string()) == formatEnding(format);
        if (fits && id == formatId(format)) return format;
        if (fits) ids.push_back(Message::verbatim(std::string(formatId(format))));
    }
    return Error{{"cli.cannot-be", {{"option", std::string("--format")}, {"text", id}}},
                 path.string(),
                 {"cli.give-format", {{"formats", std::move(ids)}}}};
}

/// The format that a file's ending names, or --format.
Result<SoundFormat> formatOf(const Arguments& arguments, const std::filesystem::path& path) {
    if (arguments.has("--format")) return formatNamed(arguments, path);
    if (path == standardStream) return SoundFormat::Wav24;
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

/// The first order goes to the standard output, the others to their files.
std::vector<Result<Measured>> renderOut(Plan& plan, std::vector<SoundFileOrder> orders,
                                        const RenderOptions& options) {
    std::vector<Result<Measured>> results;
    const auto done =
        throughFile(std::string(formatEnding(orders.front().format)),
                    [&](const std::filesystem::path& file) -> Result<Done> {
                        orders.front().path = file;
                        results = writeSoundFiles(plan, orders, options);
                        return results.front() ? Result<Done>(Done{}) : Result<Done>(results.front().error());
                    });
    if (results.empty()) results.emplace_back(done.error());
    if (!done) results.front() = done.error();
    return results;
}

} // namespace

int render(const Arguments& arguments) {
    if (arguments.words.size() != 2) return fail({{"cli.two-files"}, "", {"cli.see-help"}}, 2);
    if (const auto may = mayWrite(arguments, arguments.words[1]); !may) return fail(may.error());
    const bool out = arguments.words[1] == standardStream;
    const auto format = formatOf(arguments, arguments.words[1]);
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
    InstrumentBank bank(
        rate.value(),
        {.pluginBundle = shippedPlugins(), .samples = sampleCache(), .makePlugins = pluginProcesses()});
    const auto plan =
        makePlan(song.value(), catalogue.value(), matchSong(song.value(), catalogue.value()), bank);
    RenderOptions options;
    options.progress = progressFor(arguments);
    const auto results =
        out ? renderOut(*plan, orders.value(), options) : writeSoundFiles(*plan, orders.value(), options);
    for (const Error& error : problemsOf(*plan)) std::fprintf(stderr, "%s\n", error.message().c_str());
    int code = 0;
    for (std::size_t i = 0; i < results.size(); ++i) {
        if (!results[i]) {
            code = fail(results[i].error());
            continue;
        }
        const Measured& measured = results[i].value();
        if (!out && !arguments.has("--quiet"))
            std::printf("%s  %s  peak %.1f dBFS  %.1f LUFS\n", orders.value()[i].path.c_str(),
                        timeText(measured.seconds).c_str(), measured.peakDb, measured.lufs);
    }
    return code;
}

} // namespace cobbleway::cli
