#include "files/exports.h"

#include "files/exportwords.h"
#include "files/lyricstext.h"
#include "files/notenames.h"
#include "files/partsheet.h"
#include "files/pluginhost.h"
#include "files/samplecache.h"
#include "files/shipped.h"
#include "song/derived.h"
#include "song/out/heardsounds.h"

#include <algorithm>
#include <map>

namespace cobbleway {

using Kind = ExportItem::Kind;
namespace fs = std::filesystem;

std::vector<fs::path> alreadyThere(const std::vector<ExportItem>& items, const fs::path& folder) {
    std::vector<fs::path> there;
    std::error_code error;
    for (const ExportItem& item : items)
        if (fs::exists(folder / item.fileName, error)) there.push_back(folder / item.fileName);
    return there;
}

namespace {

/// Where an item goes; none when it is to be left.
std::optional<fs::path> pathFor(const Song& song, const ExportItem& item, const ExportOptions& options) {
    const auto path = options.folder / item.fileName;
    std::error_code error;
    if (!fs::exists(path, error)) return path;
    if (options.existing == Existing::Leave) return std::nullopt;
    return options.existing == Existing::Number || isSourceOf(song, path) ? freePath(path) : path;
}

DrumNames drumNamesOf(const Song& song, const Part& part, const Catalogue& catalogue) {
    DrumNames names;
    Derived derived;
    const auto view = derived.drums(song, part, catalogue);
    for (const DrumNote& note : view->notes) names[note.key.value] = note.name;
    return names;
}

/// `said`: the song as MIDI files say it (withHeardPrograms()).
Result<Done> writeMidiItem(const Song& said, const ExportItem& item, const ExportOptions& options,
                           const fs::path& path) {
    MidiOrder order;
    order.layout = options.midi.singleTrack ? Layout::SingleTrack : Layout::TrackPerPart;
    order.part = item.part;
    order.asHeard = item.kind == Kind::MidiHeard;
    order.stretch = stretchOf(said, item, options);
    order.keepsPlace = options.midi.keepsPlace;
    order.notesOnly = options.midi.notesOnly;
    if (item.port >= 0) order.port = item.port;
    return writeSong(said, order, path);
}

/// An item that is neither a sound file nor MIDI.
Result<Done> writeText(const Song& song, const Catalogue& catalogue, const ExportItem& item,
                       const fs::path& path) {
    const Part* part = item.part ? song.part(item.part) : nullptr;
    if (item.part && !part) return Error{{"error.part-gone"}, path.string(), {}};
    switch (item.kind) {
    case Kind::Timed: return writeFile(path, timedLyrics(song));
    case Kind::Lyrics: return writeFile(path, lyricsText(song));
    case Kind::DrumNames: return writeNames(drumNamesOf(song, *part, catalogue), part->name, path);
    default: return writeFile(path, partSheet(song, catalogue));
    }
}

/// The same in seconds at the song's own tempo.
std::pair<double, double> secondsStretchOf(const Song& song, const ExportItem& item,
                                           const ExportOptions& options) {
    const auto stretch = stretchOf(song, item, options);
    if (!stretch) return {0, song.seconds()};
    return {song.tempo->seconds(stretch->first), song.tempo->seconds(stretch->second)};
}

/// Writes sound items of one pace and stretch in one pass; `places` are their numbers among all.
void writePass(const Song& song, const Catalogue& catalogue, const std::vector<ExportItem>& items,
               const std::vector<std::size_t>& places, const ExportOptions& options,
               const RenderOptions& render, std::vector<ExportOutcome>& outcomes) {
    std::vector<SoundFileOrder> orders;
    orders.reserve(places.size());
    for (const std::size_t place : places)
        orders.push_back({outcomes[place].path, songFor(song, items[place]), options.format,
                          tagsOf(song, items[place], options), items[place].kind == Kind::Stem});
    InstrumentBank bank(
        options.rate,
        {.pluginBundle = shippedPlugins(), .samples = sampleCache(), .makePlugins = pluginProcesses()});
    const auto plan = makePlan(song, catalogue, matchSong(song, catalogue), bank);
    const auto results = writeSoundFiles(*plan, orders, render, options.finish, options.memory);
    if (options.silent)
        for (const Error& problem : problemsOf(*plan)) options.silent(problem);
    for (std::size_t i = 0; i < results.size(); ++i) {
        ExportOutcome& outcome = outcomes[places[i]];
        outcome.written = results[i].ok();
        if (results[i])
            outcome.measured = results[i].value();
        else
            outcome.error = results[i].error();
    }
}

void writeSounds(const Song& song, const Catalogue& catalogue, const std::vector<ExportItem>& items,
                 const std::vector<std::size_t>& places, const ExportOptions& options,
                 std::vector<ExportOutcome>& outcomes) {
    std::map<std::pair<double, int>, std::vector<std::size_t>> passes; // by pace and section
    for (const std::size_t place : places)
        passes[{paceOf(items[place], options), items[place].section}].push_back(place);
    std::size_t done = 0;
    for (const auto& [pass, here] : passes) {
        const auto [from, to] = secondsStretchOf(song, items[here.front()], options);
        RenderOptions render{pass.first, options.stop, {}, from, to, options.workers};
        if (options.progress)
            render.progress = [&](double share) {
                options.progress((static_cast<double>(done) + share) / static_cast<double>(passes.size()));
            };
        writePass(song, catalogue, items, here, options, render, outcomes);
        ++done;
    }
}

} // namespace

std::vector<ExportOutcome> writeExports(const Song& song, const Catalogue& catalogue,
                                        const std::vector<ExportItem>& items, const ExportOptions& options) {
    std::vector<ExportOutcome> outcomes(items.size());
    std::vector<std::size_t> sounds;
    std::optional<Song> said;   // as MIDI files say it, once one is asked for
    std::set<fs::path> cleared; // of what programs left there that were ended by force
    for (std::size_t i = 0; i < items.size(); ++i) {
        ExportOutcome& outcome = outcomes[i];
        outcome.item = i;
        const fs::path place = (options.folder / items[i].fileName).parent_path();
        const auto folder = makeFolder(place);
        if (folder && cleared.insert(place).second) removeAbandoned(place);
        if (!folder) {
            outcome.error = folder.error();
            continue;
        }
        const auto path = pathFor(song, items[i], options);
        if (!path) {
            outcome.error = {{"error.left"}, {}, {}};
            continue;
        }
        outcome.path = *path;
        if (items[i].isSound()) {
            sounds.push_back(i);
        } else if (options.stop.stop_requested()) {
            outcome.error = {{"error.stopped"}, {}, {}};
        } else {
            if (items[i].isMidi() && !said)
                said = withTrackNames(withHeardPrograms(song, matchSong(song, catalogue), catalogue));
            const auto done = items[i].isMidi() ? writeMidiItem(*said, items[i], options, *path)
                                                : writeText(song, catalogue, items[i], *path);
            outcome.written = done.ok();
            if (!done) outcome.error = done.error();
        }
    }
    if (!sounds.empty()) writeSounds(song, catalogue, items, sounds, options, outcomes);
    return outcomes;
}

double secondsOf(const Song& song, const ExportItem& item, const ExportOptions& options) {
    if (!item.isSound()) return 0;
    const auto [from, to] = secondsStretchOf(song, item, options);
    return (to - from) * 100 / paceOf(item, options);
}

std::uintmax_t bytesNeeded(const Song& song, const std::vector<ExportItem>& items,
                           const ExportOptions& options) {
    constexpr double tail = 3;
    const auto perSecond = [&] {
        const double frames = 2.0 * options.rate;
        switch (options.format) {
        case SoundFormat::Wav16: return frames * 2;
        case SoundFormat::Wav24: return frames * 3;
        case SoundFormat::Wav32Float: return frames * 4;
        case SoundFormat::Flac: return frames * 1.9;
        case SoundFormat::OggVorbis:
        case SoundFormat::Opus:
        case SoundFormat::Mp3: break;
        }
        return 30000.0;
    }();
    const double onTheWay = options.finish.waits() ? 8.0 * options.rate : 0;
    double bytes = 0;
    for (const ExportItem& item : items)
        bytes += item.isSound() ? (secondsOf(song, item, options) + tail) * (perSecond + onTheWay) : 20000;
    return static_cast<std::uintmax_t>(bytes);
}

std::optional<Error> foreseen(const fs::path& folder, std::uintmax_t bytes) {
    if (const auto made = makeFolder(folder); !made) return made.error();
    if (auto problem = AtomicFile::refusalIn(folder)) return problem;
    std::error_code error;
    const auto space = fs::space(folder, error);
    if (!error && space.available < bytes)
        return Error{{"error.room", {{"needed", bytes / 1000000 + 1}, {"free", space.available / 1000000}}},
                     folder.string(),
                     {"now.smaller"}};
    return std::nullopt;
}

ExportOptions optionsOf(const Recipe& recipe, const fs::path& folder) {
    ExportOptions options;
    options.folder = folder;
    options.format = recipe.format;
    const auto rates = ratesOf(recipe.format);
    const bool can =
        isLossless(recipe.format) || std::find(rates.begin(), rates.end(), recipe.rate) != rates.end();
    options.rate = can ? recipe.rate : rates.back();
    options.finish = recipe.finish;
    options.firstBar = recipe.firstBar;
    options.lastBar = recipe.lastBar;
    options.midi = recipe.midiForm;
    return options;
}

} // namespace cobbleway
