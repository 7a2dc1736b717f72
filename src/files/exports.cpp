#include "files/exports.h"

#include "files/shipped.h"
#include "song/shape/edits.h"

#include <algorithm>
#include <set>

namespace cobbleway {
namespace {

using Kind = ExportItem::Kind;

/// Names that no disk takes for one another.
class Names {
  public:
    std::string take(const std::string& stem, const char* ending) {
        std::string name = stem + ending;
        for (int number = 2; !m_taken.insert(inSmallLetters(name)).second; ++number)
            name = stem + " " + std::to_string(number) + ending;
        return name;
    }

  private:
    std::set<std::string> m_taken;
};

Result<Done> writeMidiItem(const Song& song, const ExportItem& item, const std::filesystem::path& path) {
    if (item.kind != Kind::MidiPart)
        return writeSong(song, item.kind == Kind::MidiTracks ? Layout::TrackPerPart : Layout::SingleTrack,
                         path);
    const Part* part = song.part(item.part);
    return part ? writePart(song, *part, path) : Error{"The part is not there any more.", path.string(), ""};
}

} // namespace

std::vector<ExportItem> exportItems(const Song& song) {
    std::vector<ExportItem> items;
    Names names;
    const std::string stem = fileNameFrom(song.title, 80);
    const auto add = [&](Kind kind, PartId part, const std::string& label, const std::string& name,
                         const char* ending) {
        items.push_back({kind, part, label, names.take(name, ending)});
    };
    add(Kind::MidiTracks, 0, "Whole song, one track a part (type 1)", stem, ".mid");
    add(Kind::MidiSingle, 0, "Whole song on one track (type 0)", stem + " - one track", ".mid");
    const auto partName = [](const Part& part) { return fileNameFrom(part.name, 80); };
    for (const Part& part : song.parts)
        if (!part.aside)
            add(Kind::MidiPart, part.id, part.name + " in a file of its own", stem + " - " + partName(part),
                ".mid");
    add(Kind::Full, 0, "Whole song, as it is mixed now", stem + " - full", ".wav");
    for (const Part& part : song.parts) {
        if (part.aside) continue;
        add(Kind::Front, part.id, part.name + " in front", stem + " - " + partName(part) + " in front",
            ".wav");
        add(Kind::Alone, part.id, part.name + " alone", stem + " - " + partName(part) + " alone", ".wav");
        add(Kind::Without, part.id, "All but " + part.name, stem + " - without " + partName(part), ".wav");
    }
    return items;
}

Song songFor(const Song& song, const ExportItem& item) {
    switch (item.kind) {
    case Kind::Front: return edits::putInFront(song, item.part);
    case Kind::Alone: return edits::onlyPart(song, item.part);
    case Kind::Without: return edits::allBut(song, item.part);
    case Kind::MidiTracks:
    case Kind::MidiSingle:
    case Kind::MidiPart:
    case Kind::Full: break;
    }
    return song;
}

std::vector<std::filesystem::path> alreadyThere(const std::vector<ExportItem>& items,
                                                const std::filesystem::path& folder) {
    std::vector<std::filesystem::path> there;
    std::error_code error;
    for (const ExportItem& item : items)
        if (std::filesystem::exists(folder / item.fileName, error)) there.push_back(folder / item.fileName);
    return there;
}

namespace {

/// Where an item goes; none when it is to be left.
std::optional<std::filesystem::path> pathFor(const Song& song, const ExportItem& item,
                                             const ExportOptions& options) {
    const auto path = options.folder / item.fileName;
    std::error_code error;
    if (!std::filesystem::exists(path, error)) return path;
    if (options.existing == Existing::Leave) return std::nullopt;
    return options.existing == Existing::Number || isSourceOf(song, path) ? freePath(path) : path;
}

/// Writes sound items in one pass; `places` are their numbers among all.
void writeSounds(const Song& song, const Catalogue& catalogue, const std::vector<SoundFileOrder>& orders,
                 const std::vector<std::size_t>& places, const ExportOptions& options,
                 std::vector<ExportOutcome>& outcomes) {
    InstrumentBank bank(options.rate, {.pluginBundle = shippedPlugins()});
    const auto plan = makePlan(song, catalogue, matchSong(song, catalogue), bank);
    const auto results = writeSoundFiles(*plan, orders, {options.pace, options.stop, options.progress});
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

} // namespace

std::vector<ExportOutcome> writeExports(const Song& song, const Catalogue& catalogue,
                                        const std::vector<ExportItem>& items, const ExportOptions& options) {
    std::vector<ExportOutcome> outcomes(items.size());
    std::vector<SoundFileOrder> orders;
    std::vector<std::size_t> places;
    const auto folder = makeFolder(options.folder);
    for (std::size_t i = 0; i < items.size(); ++i) {
        outcomes[i].item = i;
        if (!folder) {
            outcomes[i].message = folder.error().message();
            continue;
        }
        const auto path = pathFor(song, items[i], options);
        if (!path) {
            outcomes[i].message = "Left as it was: a file of this name is there.";
            continue;
        }
        outcomes[i].path = *path;
        if (items[i].isMidi()) {
            const auto done = writeMidiItem(song, items[i], *path);
            outcomes[i].written = done.ok();
            if (!done) outcomes[i].message = done.error().message();
        } else {
            orders.push_back({*path, songFor(song, items[i])});
            places.push_back(i);
        }
    }
    if (!orders.empty()) writeSounds(song, catalogue, orders, places, options, outcomes);
    return outcomes;
}

} // namespace cobbleway
