#include "cli/given.h"

#include "cli/ground.h"
#include "cli/writing.h"
#include "files/folders.h"
#include "files/pluginscan.h"
#include "files/project.h"
#include "files/shipped.h"
#include "files/songfile.h"
#include "song/match/match.h"
#include "sound/midisink.h"

#include <algorithm>
#include <array>
#include <cstdio>

namespace cobbleway::cli {

namespace {

constexpr const char* inputName = "standard input";

/// All that comes on the standard input, up to 1 GiB.
std::vector<std::uint8_t> readInput() {
    constexpr std::size_t most = std::size_t{1} << 30;
    std::vector<std::uint8_t> bytes;
    std::array<std::uint8_t, 65536> piece;
    for (std::size_t got;
         bytes.size() < most && (got = std::fread(piece.data(), 1, piece.size(), stdin)) > 0;)
        bytes.insert(bytes.end(), piece.begin(), piece.begin() + static_cast<std::ptrdiff_t>(got));
    return bytes;
}

bool isProjectText(const std::vector<std::uint8_t>& bytes) {
    const auto first = std::find_if(bytes.begin(), bytes.end(), [](std::uint8_t c) { return c > ' '; });
    return first != bytes.end() && *first == '{';
}

} // namespace

Given songsOf(const std::vector<std::string>& files) {
    Given given;
    const auto refuse = [&](const std::string& file, const Error& error) {
        given.problems.push_back({error.what, file, error.whatNow});
    };
    for (const std::string& file : files) {
        const bool comesIn = file == standardStream;
        std::vector<std::uint8_t> bytes = comesIn ? readInput() : std::vector<std::uint8_t>();
        if (comesIn ? isProjectText(bytes) : isProject(file)) {
            auto set = comesIn ? parseProject(std::string(bytes.begin(), bytes.end()), inputName)
                               : openProject(file);
            if (!set) {
                refuse(file, set.error());
                continue;
            }
            if (given.set.empty()) given.set = set.value().name;
            given.fonts.insert(given.fonts.end(), set.value().fonts.begin(), set.value().fonts.end());
            for (const auto& song : set.value().songs) {
                Song own = *song;
                if (own.fontOrder.empty()) own.fontOrder = set.value().fontOrder;
                given.songs.push_back(std::move(own));
            }
        } else if (auto song = comesIn ? songOfBytes(std::move(bytes), inputName) : openSong(file); song)
            given.songs.push_back(std::move(song.value()));
        else
            refuse(file, song.error());
    }
    return given;
}

Result<Song> songOf(const std::string& file, const Arguments& arguments, std::vector<FontMemory>* fonts) {
    Given given = songsOf({file});
    if (!given.problems.empty()) return given.problems.front();
    if (fonts) fonts->insert(fonts->end(), given.fonts.begin(), given.fonts.end());
    if (given.songs.empty()) return Error{{"cli.empty-set"}, file, {"now.other-file"}};
    std::size_t number = 1;
    if (arguments.has("--song")) {
        const auto named = parseNumbers(arguments.value("--song"));
        if (!named) return named.error();
        number = static_cast<std::size_t>(named.value().front());
    } else if (given.songs.size() > 1) {
        return Error{{"cli.which-song", {{"songs", given.songs.size()}}}, file, {"cli.give-song"}};
    }
    if (number > given.songs.size())
        return Error{{"cli.which-song", {{"songs", given.songs.size()}}}, file, {"cli.give-song"}};
    return std::move(given.songs[number - 1]);
}

namespace {

/// Whether something beside soundfonts plays in the song.
bool hasOthers(const Song& song) {
    if (!song.effects.empty()) return true;
    return std::any_of(song.parts.begin(), song.parts.end(), [](const Part& part) {
        bool any = !part.mix.effects.empty();
        forEachSound(part.sound,
                     [&](const SoundRef& sound) { any = any || sound.kind != SoundKind::Preset; });
        return any;
    });
}

PluginScan scan() {
    PluginScanOptions options;
    options.helper = pluginHelper();
    options.bundle = shippedPlugins();
    options.cache = pluginCache();
    return listPlugins(options);
}

} // namespace

Result<Catalogue> soundsFor(const Arguments& arguments, std::span<const Song> songs,
                            const std::vector<FontMemory>& remembered) {
    auto catalogue = catalogueOf(arguments);
    if (!catalogue) return catalogue;
    Catalogue all = catalogue.value().withMoved(remembered);
    if (!std::any_of(songs.begin(), songs.end(), hasOthers)) return all;
    PluginScan found = scan();
    return all.withPlugins(std::move(found.usable), std::move(found.setAside)).withPorts(midiOutputs());
}

std::vector<Error> missingIn(const Song& song, const Catalogue& catalogue) {
    std::vector<Error> missing;
    const auto effects = [&](const std::vector<Effect>& chain, const std::string& where) {
        for (const Effect& effect : chain)
            if (effect.on && !catalogue.plugin(effect.uri))
                missing.push_back({{"cli.no-effect", {{"effect", effect.name}}}, where, {}});
    };
    const auto sounds = [&](const std::optional<SoundRef>& chosen, const Match& match,
                            const std::string& where) {
        if (!chosen || match.how == How::ByHand) return;
        missing.push_back({{"cli.no-sound",
                            {{"sound", chosen->name},
                             {"instead", match.sound ? match.sound->name : inWords({"sheet.no-sound"})}}},
                           where,
                           {}});
    };
    const auto matches = matchSong(song, catalogue);
    for (std::size_t i = 0; i < song.parts.size(); ++i) {
        const Part& part = song.parts[i];
        if (part.aside) continue;
        const std::string where = song.title + ", " + part.name;
        sounds(part.sound.chosen, matches[i].first(), where);
        for (std::size_t s = 0; s < part.sound.stretches.size(); ++s)
            sounds(part.sound.stretches[s].sound, matches[i].stretches[s], where);
        for (std::size_t l = 0; l < part.sound.layers.size(); ++l)
            sounds(part.sound.layers[l].sound, matches[i].layers[l], where);
        effects(part.mix.effects, where);
    }
    effects(song.effects, song.title);
    return missing;
}

bool mayPlay(const Arguments& arguments, const std::vector<Error>& missing) {
    for (const Error& error : missing) fail(error);
    if (missing.empty() || arguments.has("--stand-ins")) return true;
    fail({{"cli.missing"}, "", {"cli.allow-stand-ins"}});
    return false;
}

} // namespace cobbleway::cli
