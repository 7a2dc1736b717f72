#include "cli/listing.h"

#include "cli/describe.h"
#include "cli/drums.h"
#include "cli/given.h"
#include "cli/ground.h"
#include "cli/writing.h"
#include "files/folders.h"
#include "files/pluginscan.h"
#include "files/shipped.h"
#include "files/songfile.h"
#include "song/shape/edits.h"

#include <algorithm>
#include <cstdio>

namespace cobbleway::cli {

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
    if (arguments.has("--json")) print("inspect", all);
    return code;
}

int match(const Arguments& arguments) {
    if (arguments.words.size() != 1) return fail({{"cli.one-file"}, "", {"cli.see-help"}}, 2);
    std::vector<FontMemory> fonts;
    const auto song = songOf(arguments.words[0], arguments, &fonts);
    if (!song) return fail(song.error());
    const auto catalogue = soundsFor(arguments, {&song.value(), 1}, fonts);
    if (!catalogue) return fail(catalogue.error());
    const Json parts = matchJson(song.value(), catalogue.value(), arguments.has("--all"));
    if (arguments.has("--json"))
        print("match", parts);
    else
        std::printf("%s\n", matchText(parts).c_str());
    return 0;
}

int fonts(const Arguments& arguments) {
    const auto catalogue = catalogueOf(arguments);
    if (!catalogue) return fail(catalogue.error());
    const SoundFont* font = catalogue.value().defaultFont();
    if (!font) return fail({{"cli.no-font"}, "", {"cli.name-font"}});
    if (arguments.has("--keys")) {
        const Json kits = fontKeysJson(*font);
        if (arguments.has("--json"))
            print("fonts", kits);
        else
            std::printf("%s\n", fontKeysText(kits).c_str());
    } else if (arguments.has("--json"))
        print("fonts", fontJson(*font));
    else
        std::fputs(fontText(*font).c_str(), stdout);
    return 0;
}

int instruments(const Arguments& arguments) {
    PluginScanOptions options;
    options.helper = pluginHelper();
    options.bundle = shippedPlugins();
    options.cache = pluginCache();
    const Json list = instrumentsJson(scanPlugins(options));
    if (arguments.has("--json"))
        print("instruments", list);
    else
        std::printf("%s\n", instrumentsText(list).c_str());
    return 0;
}

int drums(const Arguments& arguments) {
    if (arguments.words.size() != 1) return fail({{"cli.one-file"}, "", {"cli.see-help"}}, 2);
    const auto catalogue = catalogueOf(arguments);
    if (!catalogue) return fail(catalogue.error());
    const auto song = songOf(arguments.words[0], arguments);
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
        print("drums", parts);
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
        print("names", all);
    else
        std::fputs(namesText(all).c_str(), stdout);
    return 0;
}

int sections(const Arguments& arguments) {
    if (arguments.words.size() != 1) return fail({{"cli.one-file"}, "", {"cli.see-help"}}, 2);
    const auto song = songOf(arguments.words[0], arguments);
    if (!song) return fail(song.error());
    const Json all = sectionsJson(song.value());
    if (arguments.has("--json"))
        print("sections", all);
    else
        std::fputs(sectionsText(all).c_str(), stdout);
    return 0;
}

} // namespace cobbleway::cli
