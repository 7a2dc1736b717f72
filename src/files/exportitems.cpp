#include "files/exportwords.h"
#include "files/lyricstext.h"
#include "files/namepattern.h"
#include "song/heard/keysignature.h"
#include "song/heard/lyrics.h"
#include "song/model/levels.h"
#include "song/out/tomidi.h"
#include "song/shape/edits.h"
#include "song/shape/mixes.h"
#include "words/letters.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>

namespace cobbleway {

using Kind = ExportItem::Kind;

std::string mixWord(const ExportItem& item) {
    switch (item.kind) {
    case Kind::Midi:
    case Kind::MidiPart: return {};
    case Kind::MidiHeard: return "as heard";
    case Kind::Full: return "full";
    case Kind::Now: return "as practised";
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

std::string keyOf(const ExportItem& item) {
    const char* kind = [&] {
        switch (item.kind) {
        case Kind::Midi: return "midi";
        case Kind::MidiHeard: return "midi-heard";
        case Kind::MidiPart: return "midi-part";
        case Kind::Full: return "full";
        case Kind::Now: return "now";
        case Kind::Front: return "front";
        case Kind::Alone: return "alone";
        case Kind::Without: return "without";
        case Kind::Stem: return "stem";
        case Kind::Kept: return "kept";
        case Kind::Timed: return "timed-words";
        case Kind::Lyrics: return "words";
        case Kind::DrumNames: return "drum-names";
        case Kind::Sheet: break;
        }
        return "sheet";
    }();
    return kind + (item.part ? " " + std::to_string(item.part) : "") +
           (item.mix.empty() ? "" : " " + item.mix);
}

std::string partName(const Song& song, PartId id) {
    const Part* part = song.part(id);
    return part ? part->name : std::string();
}

std::string paceWord(double pace) {
    const double rounded = std::round(pace * 10) / 10;
    std::string text = std::to_string(rounded);
    text.erase(text.find_last_not_of('0') + 1);
    if (text.ends_with('.')) text.pop_back();
    return text + "%";
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
    tags.copyright = copyrightOf(song);
    tags.key = signatureKey(song);
    tags.words = lyricsText(song);
    const auto [from, to] = stretchOf(song, item, options).value_or(std::pair(Tick{0}, song.end));
    tags.bpm = static_cast<int>(std::lround(song.tempo->bpm(from) * pace / 100));
    for (const Section& section : song.sections)
        if (section.end > from && section.start < to)
            tags.chapters.push_back(
                {(song.tempo->seconds(std::max(section.start, from)) - song.tempo->seconds(from)) * 100 /
                     pace,
                 section.name});
    if (tags.chapters.size() == 1) tags.chapters.clear(); // the whole file is that one
    return tags;
}

std::optional<std::pair<Tick, Tick>> stretchOf(const Song& song, const ExportItem& item,
                                               const ExportOptions& options) {
    if (item.section >= 0 && item.section < static_cast<int>(song.sections.size())) {
        const Section& section = song.sections[static_cast<std::size_t>(item.section)];
        return std::pair(section.start, section.end);
    }
    if (options.stretch) return options.stretch;
    if (options.firstBar <= 1 && options.lastBar <= 0) return std::nullopt;
    const Tick from = options.firstBar > 1 ? std::min(song.tempo->barStart(options.firstBar), song.end) : 0;
    const Tick to =
        options.lastBar > 0 ? std::min(song.tempo->barStart(options.lastBar + 1), song.end) : song.end;
    return std::pair(from, std::max(from, to));
}

namespace {

/// Names that no disk takes for one another.
class Names {
  public:
    explicit Names(std::set<std::string>& taken) : m_taken(taken) {}
    std::string take(const std::string& stem, std::string_view ending) {
        const auto numbered = [&](int number) {
            return stem + (number > 1 ? " " + std::to_string(number) : "") + std::string(ending);
        };
        const auto isTaken = [&](int number) { return m_taken.contains(inSmallLetters(numbered(number))); };
        int taken = 0, free = 1; // numbers follow each other, so that thousands of one name are soon passed
        for (; isTaken(free); free *= 2) taken = free;
        while (free - taken > 1) {
            const int between = taken + (free - taken) / 2;
            (isTaken(between) ? taken : free) = between;
        }
        m_taken.insert(inSmallLetters(numbered(free)));
        return numbered(free);
    }

  private:
    std::set<std::string>& m_taken;
};

std::string_view endingOf(Kind kind, SoundFormat format) {
    switch (kind) {
    case Kind::Midi:
    case Kind::MidiHeard:
    case Kind::MidiPart: return ".mid";
    case Kind::Timed: return ".lrc";
    case Kind::Lyrics:
    case Kind::DrumNames: return ".txt";
    case Kind::Sheet: return ".html";
    default: return formatEnding(format);
    }
}

std::string labelOf(const Song& song, const ExportItem& item) {
    const auto id = [&] {
        switch (item.kind) {
        case Kind::Midi: return "item.midi";
        case Kind::MidiHeard: return "item.midi-heard";
        case Kind::MidiPart: return "item.midi-part";
        case Kind::Full: return "item.full";
        case Kind::Now: return "item.now";
        case Kind::Front: return "mix.front";
        case Kind::Alone: return "mix.alone";
        case Kind::Without: return "mix.without";
        case Kind::Stem: return "item.stem";
        case Kind::Kept: return "item.kept";
        case Kind::Timed: return "item.timed-words";
        case Kind::Lyrics: return "item.words";
        case Kind::DrumNames: return "item.drum-names";
        case Kind::Sheet: break;
        }
        return "item.sheet";
    }();
    return inWords({id, {Argument("part", partName(song, item.part)), Argument("mix", item.mix)}});
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

/// A pattern with its words filled in; what an empty word leaves between separators goes. Braces in what is
/// filled in mean nothing.
std::string filled(const std::string& wanted, const std::map<std::string, std::string>& words) {
    std::string pattern;
    eachPiece(
        wanted, [&](const std::string& text) { pattern += text; },
        [&](const std::string& name) {
            const auto word = words.find(name);
            pattern += word == words.end() ? "{" + name + "}" : word->second;
        });
    const auto replaceAll = [&](const std::string& from, const std::string& to) {
        for (std::size_t at = 0; (at = pattern.find(from, at)) != std::string::npos;)
            pattern.replace(at, from.size(), to);
    };
    replaceAll("  ", " ");
    replaceAll("- -", "-");
    replaceAll("()", "");
    replaceAll("[]", "");
    const auto trim = [](const std::string& text) {
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
    const std::string port = item.port >= 0 ? "port " + std::to_string(item.port + 1) : "";
    if (recipe.names.empty()) {
        std::string stem = plainStem(song, item);
        if (!port.empty()) stem += " - " + port;
        if (!section.empty()) stem += " - " + fileNameFrom(section, 60);
        return pace.empty() ? stem : stem + " " + pace;
    }
    const auto flat = [](std::string text) { // a name is no folder
        std::replace(text.begin(), text.end(), '/', '-');
        return text;
    };
    std::string mix = mixWord(item);
    if (!port.empty()) mix += (mix.empty() ? "" : ", ") + port;
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

/// The ports that each get a file of an item; −1: one file for all.
std::vector<int> portsFor(const Song& song, const ExportItem& item, const Recipe& recipe) {
    const bool all = item.kind == Kind::Midi || item.kind == Kind::MidiHeard;
    if (!all || !recipe.midiForm.filePerPort) return {-1};
    auto ports = portsOf(song);
    return ports.size() > 1 ? ports : std::vector<int>{-1};
}

/// The same of sections.
std::vector<int> sectionsFor(const Song& song, const Recipe& recipe) {
    if (!recipe.sections || song.sections.empty()) return {-1};
    std::vector<int> sections(song.sections.size());
    std::iota(sections.begin(), sections.end(), 0);
    return sections;
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
    add(Kind::Midi);
    add(Kind::MidiHeard);
    for (const Part& part : song.parts)
        if (!part.aside) add(Kind::MidiPart, part.id);
    add(Kind::Full);
    add(Kind::Now);
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
        case Kind::Midi: return recipe.midi;
        case Kind::MidiHeard: return recipe.midiHeard;
        case Kind::MidiPart: return recipe.midiParts;
        case Kind::Full: return recipe.full;
        case Kind::Now: return recipe.now;
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
        if (!item.isSound() && !item.isMidi()) {
            add(std::move(item));
            continue;
        }
        for (const double pace : item.isSound() ? recipe.paces : std::vector<double>{100})
            for (const int port : portsFor(song, item, recipe))
                for (const int section : sectionsFor(song, recipe)) {
                    item.pace = pace;
                    item.port = port;
                    item.section = section;
                    add(item);
                }
    }
    return items;
}

Song songFor(const Song& song, const ExportItem& item) {
    switch (item.kind) {
    case Kind::Full: return wholeBand(song);
    case Kind::Front: return edits::putInFront(song, item.part);
    case Kind::Alone: return edits::onlyPart(song, item.part);
    case Kind::Without: return edits::allBut(song, item.part);
    case Kind::Stem: return stemOf(song, item.part);
    case Kind::Kept: return edits::useMix(song, item.mix);
    default: return song;
    }
}

} // namespace cobbleway
