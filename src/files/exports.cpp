#include "files/exports.h"

#include "files/shipped.h"
#include "song/edits.h"

#include <algorithm>
#include <set>

namespace cobbleway {
namespace {

using Kind = ExportItem::Kind;

std::string unlike(const std::string& stem, const char* ending, std::set<std::string>& taken) {
    std::string name = stem + ending;
    for (int number = 2; !taken.insert(name).second; ++number)
        name = stem + " " + std::to_string(number) + ending;
    return name;
}

ExportOutcome outcomeOf(std::size_t item, const Result<Done>& done) {
    return {item, done.ok(), {}, done ? "" : done.error().message()};
}

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
    std::set<std::string> taken;
    const std::string stem = fileNameFrom(song.title);
    const auto add = [&](Kind kind, PartId part, const std::string& label, const std::string& name,
                         const char* ending) {
        items.push_back({kind, part, label, unlike(fileNameFrom(name), ending, taken)});
    };
    add(Kind::MidiTracks, 0, "Whole song, one track a part (type 1)", stem, ".mid");
    add(Kind::MidiSingle, 0, "Whole song on one track (type 0)", stem + " - one track", ".mid");
    for (const Part& part : song.parts)
        if (!part.aside)
            add(Kind::MidiPart, part.id, part.name + " in a file of its own", stem + " - " + part.name,
                ".mid");
    add(Kind::Full, 0, "Whole song, as it is mixed now", stem + " - full", ".wav");
    for (const Part& part : song.parts) {
        if (part.aside) continue;
        add(Kind::Front, part.id, part.name + " in front", stem + " - " + part.name + " in front", ".wav");
        add(Kind::Alone, part.id, part.name + " alone", stem + " - " + part.name + " alone", ".wav");
        add(Kind::Without, part.id, "All but " + part.name, stem + " - without " + part.name, ".wav");
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

std::vector<ExportOutcome> writeExports(const Song& song, const Catalogue& catalogue,
                                        const std::vector<ExportItem>& items, const ExportOptions& options) {
    std::vector<ExportOutcome> outcomes(items.size());
    std::vector<std::unique_ptr<WavWriter>> writers(items.size());
    std::vector<MixOrder> orders;
    std::error_code error;
    std::filesystem::create_directories(options.folder, error);
    for (std::size_t i = 0; i < items.size(); ++i) {
        const auto path = options.folder / items[i].fileName;
        outcomes[i].item = i;
        if (items[i].isMidi()) {
            outcomes[i] = outcomeOf(i, writeMidiItem(song, items[i], path));
            continue;
        }
        auto writer = WavWriter::open(path, options.rate);
        if (!writer) {
            outcomes[i].message = writer.error().message();
            continue;
        }
        writers[i] = std::move(writer.value());
        orders.push_back({songFor(song, items[i]), [to = writers[i].get()](std::span<const float> samples) {
                              return to->write(samples);
                          }});
    }
    if (orders.empty()) return outcomes;
    InstrumentBank bank(options.rate, {.pluginBundle = shippedPlugins()});
    const auto plan = makePlan(song, catalogue, matchSong(song, catalogue), bank);
    const RenderEnd end = renderMixes(*plan, orders, {options.pace, options.stop, options.progress});
    if (options.silent)
        for (const Error& problem : problemsOf(*plan)) options.silent(problem);
    for (std::size_t i = 0; i < items.size(); ++i) {
        if (!writers[i]) continue;
        if (end == RenderEnd::Stopped && options.stop.stop_requested()) {
            outcomes[i].message = "Stopped before it was finished.";
            continue; // the writer is destroyed and leaves nothing
        }
        const auto measured = writers[i]->finish();
        outcomes[i].written = measured.ok();
        if (measured)
            outcomes[i].measured = measured.value();
        else
            outcomes[i].message = measured.error().message();
    }
    return outcomes;
}

} // namespace cobbleway
