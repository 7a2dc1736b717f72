#include "cli/rewrite.h"

#include "cli/given.h"
#include "cli/ground.h"
#include "cli/writing.h"
#include "files/project.h"
#include "files/songfile.h"
#include "song/out/heardsounds.h"
#include "song/shape/splits.h"

#include <cstdio>

namespace cobbleway::cli {
namespace {

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

} // namespace

int rewrite(const Arguments& arguments, Layout layout) {
    if (arguments.words.size() != 2) return fail({{"cli.two-files"}, "", {"cli.see-help"}}, 2);
    const auto song = songToWrite(arguments);
    if (!song) return fail(song.error());
    if (const auto may = mayWrite(arguments, arguments.words[1]); !may) return fail(may.error());
    const auto shaped = withLines(song.value(), arguments);
    if (!shaped) return fail(shaped.error(), 2);
    const auto written = writeMidiTo(shaped.value(), {.layout = layout}, arguments.words[1]);
    return written ? 0 : fail(written.error());
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

} // namespace cobbleway::cli
