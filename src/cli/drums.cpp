#include "cli/drums.h"

#include "midi/gm.h"

#include <algorithm>

namespace cobbleway::cli {
namespace {

Json kitJson(const SoundRef& sound, const Catalogue& catalogue) {
    const SoundFont* font = catalogue.font(sound.font);
    return {{"font", font ? font->name : sound.font},
            {"bank", sound.bank},
            {"program", sound.program},
            {"name", sound.name}};
}

Json noteJson(const DrumNote& note) {
    return {{"key", note.key.value},
            {"name", note.name},
            {"from", nameFromWord(note.from)},
            {"piece", pieceName(note.piece)},
            {"hits", note.hits},
            {"lowest_velocity", note.lowestVelocity},
            {"highest_velocity", note.highestVelocity},
            {"silent", note.silent > 0},
            {"plays", note.plays.value},
            {"instead", note.instead
                            ? Json{{"key", note.instead->key.value}, {"why", inWords(note.instead->why)}}
                            : Json(nullptr)}};
}

Json meantJson(const std::string& name) {
    const auto meant = drumMeant(name);
    if (!meant) return nullptr;
    return {{"gm", meant->gm.value}, {"piece", pieceName(meant->piece)}, {"sure", meant->sure}};
}

} // namespace

Json drumsJson(const Song& song, const Catalogue& catalogue) {
    Json parts = Json::array();
    const auto matches = matchSong(song, catalogue);
    const Catalogue ordered = catalogueFor(song, catalogue);
    for (std::size_t i = 0; i < matches.size(); ++i) {
        const Part& part = song.parts[i];
        if (!part.source.drums || part.aside) continue;
        const PartKit kit = partKitOf(matches[i], ordered);
        const DrumHits hits = drumHitsOf(song, part.source, part.recipe);
        Json notes = Json::array(), kits = Json::array();
        for (const DrumNote& note : drumNotesOf(part, matches[i], kit, hits)) notes.push_back(noteJson(note));
        for (const KitFit& fit : kitsFor(part, hits, ordered)) {
            kits.push_back(kitJson(fit.sound, ordered));
            kits.back()["sounding_hits"] = fit.sounding;
        }
        parts.push_back({{"index", i + 1},
                         {"name", part.name},
                         {"kit", kit.sound ? kitJson(*kit.sound, ordered) : Json(nullptr)},
                         {"kits", kits},
                         {"notes", notes}});
    }
    return parts;
}

std::string drumsText(const Json& parts) {
    if (parts.empty()) return "There is no drum part.\n";
    std::string text;
    for (const Json& p : parts) {
        text += std::to_string(p["index"].get<int>()) + "  " + p["name"].get<std::string>() + ", " +
                (p["kit"].is_null() ? std::string("no kit plays it") : p["kit"]["name"].get<std::string>()) +
                "\n";
        for (const Json& n : p["notes"]) {
            text += "  " + std::to_string(n["key"].get<int>()) + " " + n["name"].get<std::string>() + ": " +
                    std::to_string(n["hits"].get<int>()) + " hits, velocities range from " +
                    std::to_string(n["lowest_velocity"].get<int>()) + " to " +
                    std::to_string(n["highest_velocity"].get<int>());
            if (n["plays"] != n["key"]) text += ", plays " + std::to_string(n["plays"].get<int>());
            if (n["silent"].get<bool>()) text += ", silent";
            if (!n["instead"].is_null()) text += "; " + n["instead"]["why"].get<std::string>();
            text += "\n";
        }
        int all = 0;
        for (const Json& n : p["notes"]) all += n["hits"].get<int>();
        for (std::size_t i = 0; i < p["kits"].size() && i < 5; ++i)
            text += "  kit: " + p["kits"][i]["name"].get<std::string>() + " (" +
                    p["kits"][i]["font"].get<std::string>() + ") sounds " +
                    std::to_string(p["kits"][i]["sounding_hits"].get<int>()) + " of " + std::to_string(all) +
                    " hits\n";
    }
    return text;
}

Json namesJson(const NameFile& file, std::size_t list, bool meant) {
    Json names = Json::array(), repaired = Json::array(), titles = Json::array();
    for (const auto& [key, name] : file.lists[list].names) {
        names.push_back({{"key", key}, {"name", name}});
        if (meant) names.back()["meant"] = meantJson(name);
    }
    for (const RepairedLine& line : file.repaired)
        repaired.push_back({{"line", line.line}, {"what", inWords(line.what)}});
    for (const NameList& each : file.lists) titles.push_back(each.title);
    return {{"format", nameFormatWord(file.format)},
            {"list", file.lists[list].title},
            {"lists", titles},
            {"names", names},
            {"mended", repaired}};
}

std::string namesText(const Json& names) {
    std::string text;
    for (const Json& n : names["names"]) {
        text += std::to_string(n["key"].get<int>()) + " " + n["name"].get<std::string>();
        if (n.contains("meant"))
            text += n["meant"].is_null()
                        ? std::string("  (no drum that is known)")
                        : "  (" + std::to_string(n["meant"]["gm"].get<int>()) + " " +
                              std::string(drumName(Key{n["meant"]["gm"].get<std::uint8_t>()})) +
                              (n["meant"]["sure"].get<bool>() ? ")" : ", or another)");
        text += "\n";
    }
    for (const Json& m : names["mended"])
        text += "line " + std::to_string(m["line"].get<int>()) + ": " + m["what"].get<std::string>() + "\n";
    if (names["lists"].size() > 1) {
        text += "This is one of " + std::to_string(names["lists"].size()) +
                " lists; choose another with --list:\n";
        for (std::size_t i = 0; i < names["lists"].size(); ++i)
            text += "  " + std::to_string(i + 1) + " " + names["lists"][i].get<std::string>() + "\n";
    }
    return text;
}

} // namespace cobbleway::cli
