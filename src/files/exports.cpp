#include "files/exports.h"

#include "files/lyricstext.h"
#include "files/notenames.h"
#include "files/partsheet.h"
#include "files/shipped.h"
#include "song/derived.h"
#include "song/heard/lyrics.h"
#include "song/model/levels.h"
#include "song/shape/edits.h"
#include "song/shape/mixes.h"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <map>
#include <mutex>
#include <set>
#include <thread>
#include <unistd.h>

namespace cobbleway {
namespace {

using Kind = ExportItem::Kind;
namespace fs = std::filesystem;

/// Names that no disk takes for one another.
class Names {
  public:
    explicit Names(std::set<std::string>& taken) : m_taken(taken) {}
    std::string take(const std::string& stem, std::string_view ending) {
        std::string name = stem + std::string(ending);
        for (int number = 2; !m_taken.insert(inSmallLetters(name)).second; ++number)
            name = stem + " " + std::to_string(number) + std::string(ending);
        return name;
    }

  private:
    std::set<std::string>& m_taken;
};

std::string_view endingOf(Kind kind, SoundFormat format) {
    switch (kind) {
    case Kind::MidiTracks:
    case Kind::MidiSingle:
    case Kind::MidiPart: return ".mid";
    case Kind::Timed: return ".lrc";
    case Kind::Lyrics:
    case Kind::DrumNames: return ".txt";
    case Kind::Sheet: return ".html";
    default: return formatEnding(format);
    }
}

/// "full", "in front": what tells the item from others of its part.
std::string mixWord(const ExportItem& item) {
    switch (item.kind) {
    case Kind::MidiTracks:
    case Kind::MidiPart: return {};
    case Kind::MidiSingle: return "one track";
    case Kind::Full: return "full";
    case Kind::Front: return "in front";
    case Kind::Alone: return "alone";
    case Kind::Without: return "without";
    case Kind::Stem: return "stem";
    case Kind::Kept: return item.mix;
    case Kind::Timed: return "words with times";
    case Kind::Lyrics: return "words";
    case Kind::DrumNames: return "drum names";
    case Kind::Sheet: break;
    }
    return "part sheet";
}

std::string partName(const Song& song, PartId id) {
    const Part* part = song.part(id);
    return part ? part->name : std::string();
}

std::string labelOf(const Song& song, const ExportItem& item) {
    const std::string part = partName(song, item.part);
    switch (item.kind) {
    case Kind::MidiTracks: return "Whole song, one track a part (type 1)";
    case Kind::MidiSingle: return "Whole song on one track (type 0)";
    case Kind::MidiPart: return part + " in a file of its own";
    case Kind::Full: return "Whole song, as it is mixed now";
    case Kind::Front: return part + " in front";
    case Kind::Alone: return part + " alone";
    case Kind::Without: return "All but " + part;
    case Kind::Stem: return part + " as a stem";
    case Kind::Kept: return "Mix: " + item.mix;
    case Kind::Timed: return "Words with their times";
    case Kind::Lyrics: return "Words";
    case Kind::DrumNames: return "Drum names of " + part;
    case Kind::Sheet: break;
    }
    return "Part sheet";
}

/// "Lantern Quay - Clarinets in front", as files are named without a pattern.
std::string plainStem(const Song& song, const ExportItem& item) {
    const std::string stem = fileNameFrom(song.title, 80);
    const std::string part = item.part ? fileNameFrom(partName(song, item.part), 80) : "";
    const std::string mix = mixWord(item);
    if (item.kind == Kind::Without) return stem + " - without " + part;
    if (part.empty()) return mix.empty() ? stem : stem + " - " + fileNameFrom(mix, 80);
    return stem + " - " + part + (mix.empty() ? "" : " " + mix);
}

std::string paceWord(double pace) {
    const double rounded = std::round(pace * 10) / 10;
    std::string text = std::to_string(rounded);
    text.erase(text.find_last_not_of('0') + 1);
    if (text.ends_with('.')) text.pop_back();
    return text + "%";
}

/// A pattern with its words filled in; what an empty word leaves between separators goes.
std::string filled(std::string pattern, const std::map<std::string, std::string>& words) {
    for (const auto& [word, value] : words)
        for (std::size_t at = 0; (at = pattern.find("{" + word + "}", at)) != std::string::npos;) {
            pattern.replace(at, word.size() + 2, value);
            at += value.size();
        }
    const auto replaceAll = [&](const std::string& from, const std::string& to) {
        for (std::size_t at = 0; (at = pattern.find(from, at)) != std::string::npos;)
            pattern.replace(at, from.size(), to);
    };
    replaceAll("  ", " ");
    replaceAll("- -", "-");
    replaceAll("()", "");
    replaceAll("[]", "");
    const auto trim = [](std::string text) {
        const auto first = text.find_first_not_of(" -_,"), last = text.find_last_not_of(" -_,");
        return first == std::string::npos ? std::string() : text.substr(first, last - first + 1);
    };
    return trim(pattern);
}

/// Each folder of a path made safe.
std::string safePath(const std::string& path) {
    std::string safe;
    for (std::size_t at = 0; at <= path.size();) {
        const std::size_t end = std::min(path.find('/', at), path.size());
        const std::string piece = fileNameFrom(path.substr(at, end - at));
        if (!piece.empty() && piece != "." && piece != "..") safe += (safe.empty() ? "" : "/") + piece;
        at = end + 1;
    }
    return safe;
}

std::string stemBy(const Song& song, const ExportItem& item, const Recipe& recipe, const std::string& set,
                   int number) {
    const bool several = recipe.paces.size() > 1 || recipe.paces.front() != 100;
    const std::string pace = item.isSound() && several ? paceWord(item.pace) : "";
    const std::string section =
        item.section >= 0 ? song.sections[static_cast<std::size_t>(item.section)].name : "";
    if (recipe.names.empty()) {
        std::string stem = plainStem(song, item);
        if (!section.empty()) stem += " - " + fileNameFrom(section, 60);
        return pace.empty() ? stem : stem + " " + pace;
    }
    const auto flat = [](std::string text) { // a name is no folder
        std::replace(text.begin(), text.end(), '/', '-');
        return text;
    };
    std::string mix = mixWord(item);
    if (!section.empty()) mix += (mix.empty() ? "" : ", ") + section;
    return filled(recipe.names, {{"set", flat(set)},
                                 {"n", (number < 10 ? "0" : "") + std::to_string(number)},
                                 {"song", flat(song.title)},
                                 {"part", flat(partName(song, item.part))},
                                 {"mix", flat(mix)},
                                 {"pace", pace}});
}

std::string folderBy(const Song& song, const ExportItem& item, Folders folders) {
    if (folders == Folders::Song) return fileNameFrom(song.title) + "/";
    if (folders == Folders::Part)
        return (item.part ? fileNameFrom(partName(song, item.part)) : "Whole song") + "/";
    return {};
}

bool hasDrumNames(const Part& part) { return part.source.drums; }

} // namespace

std::vector<ExportItem> exportItems(const Song& song, SoundFormat format) {
    std::vector<ExportItem> items;
    std::set<std::string> taken;
    Names names(taken);
    const auto add = [&](Kind kind, PartId part = 0, const std::string& mix = {}) {
        ExportItem item{kind, part, {}, {}, mix, 100, -1};
        item.label = labelOf(song, item);
        item.fileName = names.take(plainStem(song, item), endingOf(kind, format));
        items.push_back(std::move(item));
    };
    add(Kind::MidiTracks);
    add(Kind::MidiSingle);
    for (const Part& part : song.parts)
        if (!part.aside) add(Kind::MidiPart, part.id);
    add(Kind::Full);
    for (const KeptMix& mix : song.mixes) add(Kind::Kept, 0, mix.name);
    for (const Part& part : song.parts)
        if (!part.aside)
            for (const Kind kind : {Kind::Front, Kind::Alone, Kind::Without, Kind::Stem}) add(kind, part.id);
    if (!lyricLines(song).empty()) {
        add(Kind::Timed);
        add(Kind::Lyrics);
    }
    for (const Part& part : song.parts)
        if (!part.aside && hasDrumNames(part)) add(Kind::DrumNames, part.id);
    add(Kind::Sheet);
    return items;
}

std::function<bool(const ExportItem&)> wantedBy(const Recipe& recipe, const std::vector<PartId>& only) {
    return [recipe, only](const ExportItem& item) {
        if (item.part && !only.empty() && std::find(only.begin(), only.end(), item.part) == only.end())
            return false;
        switch (item.kind) {
        case Kind::MidiTracks: return recipe.midiTracks;
        case Kind::MidiSingle: return recipe.midiSingle;
        case Kind::MidiPart: return recipe.midiParts;
        case Kind::Full: return recipe.full;
        case Kind::Front: return recipe.front;
        case Kind::Alone: return recipe.alone;
        case Kind::Without: return recipe.without;
        case Kind::Stem: return recipe.stems;
        case Kind::Kept: return recipe.kept;
        case Kind::Timed:
        case Kind::Lyrics: return recipe.lyrics;
        case Kind::DrumNames: return recipe.drumNames;
        case Kind::Sheet: break;
        }
        return recipe.sheet;
    };
}

std::vector<ExportItem> itemsFor(const Song& song, const Recipe& recipe,
                                 const std::function<bool(const ExportItem&)>& wanted, const std::string& set,
                                 int number, std::set<std::string>& taken) {
    std::vector<ExportItem> items;
    Names names(taken);
    const auto add = [&](ExportItem item) {
        std::string stem =
            safePath(folderBy(song, item, recipe.folders) + stemBy(song, item, recipe, set, number));
        if (stem.empty() || stem.ends_with('/')) stem += "Song";
        item.fileName = names.take(stem, endingOf(item.kind, recipe.format));
        items.push_back(std::move(item));
    };
    for (ExportItem& item : exportItems(song, recipe.format)) {
        if (!wanted(item)) continue;
        if (!item.isSound()) {
            add(std::move(item));
            continue;
        }
        for (const double pace : recipe.paces) {
            item.pace = pace;
            item.section = -1;
            if (!recipe.sections || song.sections.empty()) add(item);
            for (int i = 0; recipe.sections && i < static_cast<int>(song.sections.size()); ++i) {
                item.section = i;
                add(item);
            }
        }
    }
    return items;
}

Song songFor(const Song& song, const ExportItem& item) {
    switch (item.kind) {
    case Kind::Front: return edits::putInFront(song, item.part);
    case Kind::Alone: return edits::onlyPart(song, item.part);
    case Kind::Without: return edits::allBut(song, item.part);
    case Kind::Stem: return stemOf(song, item.part);
    case Kind::Kept: return edits::useMix(song, item.mix);
    default: return song;
    }
}

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
    for (const DrumNote& note : view->notes)
        names[note.key.value] = note.name;
    return names;
}

/// An item that is no sound file.
Result<Done> writeText(const Song& song, const Catalogue& catalogue, const ExportItem& item,
                       const fs::path& path) {
    const Part* part = item.part ? song.part(item.part) : nullptr;
    if (item.part && !part) return Error{"The part is not there any more.", path.string(), ""};
    switch (item.kind) {
    case Kind::MidiTracks: return writeSong(song, Layout::TrackPerPart, path);
    case Kind::MidiSingle: return writeSong(song, Layout::SingleTrack, path);
    case Kind::MidiPart: return writePart(song, *part, path);
    case Kind::Timed: return writeFile(path, timedLyrics(song));
    case Kind::Lyrics: return writeFile(path, lyricsText(song));
    case Kind::DrumNames: return writeNames(drumNamesOf(song, *part, catalogue), part->name, path);
    default: return writeFile(path, partSheet(song, catalogue));
    }
}

/// The stretch of the song that an item has, in seconds at its own tempo.
std::pair<double, double> stretchOf(const Song& song, const ExportItem& item, const ExportOptions& options) {
    if (item.section >= 0 && item.section < static_cast<int>(song.sections.size())) {
        const Section& section = song.sections[static_cast<std::size_t>(item.section)];
        return {song.tempo->seconds(section.start), song.tempo->seconds(section.end)};
    }
    if (options.stretch)
        return {song.tempo->seconds(options.stretch->first), song.tempo->seconds(options.stretch->second)};
    const double end = song.seconds();
    const double from =
        options.firstBar > 1 ? song.tempo->seconds(song.tempo->barStart(options.firstBar)) : 0;
    const double to =
        options.lastBar > 0 ? song.tempo->seconds(song.tempo->barStart(options.lastBar + 1)) : end;
    return {std::min(from, end), std::clamp(to, std::min(from, end), end)};
}

double paceOf(const ExportItem& item, const ExportOptions& options) {
    return std::clamp(item.pace * options.pace / 100, 25.0, 200.0);
}

SoundTags tagsOf(const Song& song, const ExportItem& item, const ExportOptions& options) {
    SoundTags tags;
    const std::string part = partName(song, item.part), mix = mixWord(item);
    tags.title = song.title + (part.empty() ? "" : " - " + part) +
                 (mix.empty() || item.kind == Kind::Full ? "" : (part.empty() ? " - " : " ") + mix);
    tags.album = options.album;
    tags.track = options.track;
    const double pace = paceOf(item, options);
    if (pace != 100) tags.comment = "Pace " + paceWord(pace);
    return tags;
}

/// Writes sound items of one pace and stretch in one pass; `places` are their numbers among all.
void writePass(const Song& song, const Catalogue& catalogue, const std::vector<ExportItem>& items,
               const std::vector<std::size_t>& places, const ExportOptions& options,
               const RenderOptions& render, std::vector<ExportOutcome>& outcomes) {
    std::vector<SoundFileOrder> orders;
    for (const std::size_t place : places)
        orders.push_back({outcomes[place].path, songFor(song, items[place]), options.format,
                          tagsOf(song, items[place], options), items[place].kind == Kind::Stem});
    InstrumentBank bank(options.rate, {.pluginBundle = shippedPlugins()});
    const auto plan = makePlan(song, catalogue, matchSong(song, catalogue), bank);
    const auto results = writeSoundFiles(*plan, orders, render, options.finish);
    if (options.silent)
        for (const Error& problem : problemsOf(*plan)) options.silent(problem);
    for (std::size_t i = 0; i < results.size(); ++i) {
        ExportOutcome& outcome = outcomes[places[i]];
        outcome.written = results[i].ok();
        if (results[i])
            outcome.measured = results[i].value();
        else
            outcome.message = results[i].error().message();
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
        const auto [from, to] = stretchOf(song, items[here.front()], options);
        RenderOptions render{pass.first, options.stop, {}, from, to, options.threads};
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
    for (std::size_t i = 0; i < items.size(); ++i) {
        ExportOutcome& outcome = outcomes[i];
        outcome.item = i;
        const auto folder = makeFolder((options.folder / items[i].fileName).parent_path());
        if (!folder) {
            outcome.message = folder.error().message();
            continue;
        }
        const auto path = pathFor(song, items[i], options);
        if (!path) {
            outcome.message = "Left as it was: a file of this name is there.";
            continue;
        }
        outcome.path = *path;
        if (items[i].isSound()) {
            sounds.push_back(i);
        } else if (options.stop.stop_requested()) {
            outcome.message = "Stopped before it was begun.";
        } else {
            const auto done = writeText(song, catalogue, items[i], *path);
            outcome.written = done.ok();
            if (!done) outcome.message = done.error().message();
        }
    }
    if (!sounds.empty()) writeSounds(song, catalogue, items, sounds, options, outcomes);
    return outcomes;
}

double secondsOf(const Song& song, const ExportItem& item, const ExportOptions& options) {
    if (!item.isSound()) return 0;
    const auto [from, to] = stretchOf(song, item, options);
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
    if (access(folder.c_str(), W_OK) != 0)
        return Error{"Nothing may be written into this folder.", folder.string(), "Choose another folder."};
    std::error_code error;
    const auto space = fs::space(folder, error);
    if (!error && space.available < bytes)
        return Error{"There is too little room: about " + std::to_string(bytes / 1000000 + 1) +
                         " MB are needed, and " + std::to_string(space.available / 1000000) + " MB are free.",
                     folder.string(), "Choose another folder, fewer files, or a smaller format."};
    return std::nullopt;
}

namespace {

/// The play lists of all folders that got sound files.
std::vector<ExportOutcome> writePlaylists(const std::vector<SongExport>& songs, const SetOutcome& made,
                                          const ExportOptions& options) {
    std::map<fs::path, std::string> lists;
    for (std::size_t s = 0; s < songs.size(); ++s)
        for (const ExportOutcome& outcome : made.songs[s]) {
            const ExportItem& item = songs[s].items[outcome.item];
            if (!outcome.written || !item.isSound()) continue;
            std::string& list = lists[outcome.path.parent_path()];
            if (list.empty()) list = "#EXTM3U\n";
            list += "#EXTINF:" + std::to_string(std::lround(outcome.measured.seconds)) + "," +
                    tagsOf(songs[s].song, item, options).title + "\n" + outcome.path.filename().string() +
                    "\n";
        }
    std::vector<ExportOutcome> outcomes;
    for (const auto& [folder, text] : lists) {
        ExportOutcome outcome;
        outcome.path =
            folder / (folder == options.folder ? "Play list.m3u8" : folder.filename().string() + ".m3u8");
        std::error_code error;
        if (fs::exists(outcome.path, error) && options.existing == Existing::Number)
            outcome.path = freePath(outcome.path);
        const auto done = writeFile(outcome.path, text);
        outcome.written = done.ok();
        if (!done) outcome.message = done.error().message();
        outcomes.push_back(std::move(outcome));
    }
    return outcomes;
}

} // namespace

SetOutcome writeSet(const std::vector<SongExport>& songs, const Catalogue& catalogue,
                    const SetExportOptions& options) {
    SetOutcome made;
    made.songs.resize(songs.size());
    std::mutex lock;
    std::vector<double> progress(songs.size(), 0);
    std::atomic<std::size_t> next{0};
    const int cores = static_cast<int>(std::max(1U, std::thread::hardware_concurrency()));
    const int jobs = std::clamp(options.jobs, 1, static_cast<int>(std::max<std::size_t>(1, songs.size())));
    const auto work = [&] {
        for (std::size_t i = next++; i < songs.size(); i = next++) {
            ExportOptions each = options.each;
            each.track = songs[i].number;
            each.threads = std::max(1, cores / jobs);
            each.progress = [&, i](double share) {
                if (!options.progress) return;
                const std::lock_guard hold(lock);
                progress[i] = share;
                double sum = 0;
                for (const double one : progress) sum += one;
                options.progress(sum / static_cast<double>(progress.size()));
            };
            each.silent = [&, i](const Error& error) {
                const std::lock_guard hold(lock);
                if (options.silent) options.silent(i, error);
            };
            made.songs[i] = writeExports(songs[i].song, catalogue, songs[i].items, each);
            each.progress(1);
            const std::lock_guard hold(lock);
            if (options.done) options.done(i, made.songs[i]);
        }
    };
    {
        std::vector<std::jthread> helpers;
        for (int i = 1; i < jobs; ++i) helpers.emplace_back(work);
        work();
    }
    if (options.playlists && !options.each.stop.stop_requested())
        made.playlists = writePlaylists(songs, made, options.each);
    return made;
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
    return options;
}

} // namespace cobbleway
