#include "files/project.h"

#include "midi/text.h"
#include "song/levels.h"

#include <algorithm>
#include <nlohmann/json.hpp>

namespace cobbleway {
namespace {

using nlohmann::json;

constexpr std::string_view alphabet =
    "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/"; // RFC 4648, 4

std::string base64(std::span<const std::uint8_t> bytes) {
    std::string text;
    text.reserve((bytes.size() + 2) / 3 * 4);
    for (std::size_t i = 0; i < bytes.size(); i += 3) {
        const auto at = [&](std::size_t k) -> unsigned { return i + k < bytes.size() ? bytes[i + k] : 0; };
        const unsigned word = (at(0) << 16) | (at(1) << 8) | at(2);
        for (unsigned k = 0; k < 4; ++k)
            text += i + k > bytes.size() ? '=' : alphabet[(word >> (18 - 6 * k)) & 63];
    }
    return text;
}

std::optional<std::vector<std::uint8_t>> fromBase64(std::string_view text) {
    std::vector<std::uint8_t> bytes;
    unsigned word = 0, bits = 0;
    for (const char c : text) {
        if (c == '=') break;
        const auto value = alphabet.find(c);
        if (value == std::string_view::npos) return std::nullopt;
        word = (word << 6) | static_cast<unsigned>(value);
        bits += 6;
        if (bits < 8) continue;
        bits -= 8;
        bytes.push_back(static_cast<std::uint8_t>(word >> bits));
    }
    return bytes;
}

const char* roleName(Role role) { return role == Role::Lead ? "lead" : (role == Role::Off ? "off" : "back"); }

json partJson(const Part& part) {
    json j = {{"id", part.id},
              {"name", part.name},
              {"nameGiven", part.nameGiven},
              {"colour", part.colour},
              {"levelDb", part.levelDb},
              {"pan", part.pan},
              {"octaves", part.octaves},
              {"role", roleName(part.role)},
              {"droppedControllers", part.droppedControllers}};
    if (part.programGiven) j["programGiven"] = part.programGiven->value;
    if (part.chosen)
        j["chosen"] = {{"font", part.chosen->font},
                       {"bank", part.chosen->bank},
                       {"program", part.chosen->program},
                       {"name", part.chosen->name}};
    return j;
}

json songJson(const Song& song) {
    json parts = json::array();
    for (const Part& part : song.parts) parts.push_back(partJson(part));
    return {{"file", song.source->name}, {"midi", base64(song.source->midi.pool)},
            {"title", song.title},       {"parts", parts},
            {"keyShift", song.keyShift}, {"backDb", song.backDb},
            {"room", song.room},         {"settled", song.settled}};
}

/// Reads a part's decisions over the part that the file gives. Numbers are held within their ranges.
void takePart(Part& part, const json& j) {
    part.name = validUtf8(j.at("name").get<std::string>());
    part.nameGiven = j.at("nameGiven").get<bool>();
    part.colour = std::clamp(j.at("colour").get<int>(), 0, 11);
    part.levelDb = std::clamp(j.at("levelDb").get<double>(), lowestLevelDb, highestLevelDb);
    part.pan = std::clamp(j.at("pan").get<double>(), -1.0, 1.0);
    part.octaves = std::clamp(j.at("octaves").get<int>(), -5, 5);
    const auto role = j.at("role").get<std::string>();
    part.role = role == "lead" ? Role::Lead : (role == "off" ? Role::Off : Role::Back);
    part.droppedControllers = j.at("droppedControllers").get<std::set<std::uint8_t>>();
    if (j.contains("programGiven"))
        part.programGiven = Program{static_cast<std::uint8_t>(j["programGiven"].get<int>() & 0x7F)};
    if (j.contains("chosen")) {
        const json& c = j["chosen"];
        part.chosen = SoundRef{c.at("font").get<std::string>(), c.at("bank").get<int>(),
                               c.at("program").get<int>(), c.at("name").get<std::string>()};
    }
}

Result<Song> songFrom(const json& j, const std::string& where) {
    auto bytes = fromBase64(j.at("midi").get_ref<const std::string&>());
    if (!bytes) return Error{"A song in the project is damaged.", where, "Open an older copy."};
    auto source = readMidi(std::move(*bytes), validUtf8(j.at("file").get<std::string>()));
    if (!source) return source.error();
    Song song = makeSong(std::make_shared<const SourceFile>(std::move(source.value())));
    song.title = validUtf8(j.at("title").get<std::string>());
    song.keyShift = std::clamp(j.at("keyShift").get<int>(), -24, 24);
    song.backDb = std::clamp(j.at("backDb").get<double>(), -40.0, 0.0);
    song.room = std::clamp(j.at("room").get<double>(), 0.0, 1.0);
    song.settled = j.at("settled").get<std::set<std::string>>();
    std::vector<Part> ordered;
    for (const json& p : j.at("parts")) {
        const auto id = p.at("id").get<int>();
        const auto at = std::find_if(song.parts.begin(), song.parts.end(),
                                     [id](const Part& part) { return part.id == id; });
        if (at == song.parts.end()) continue;
        takePart(*at, p);
        ordered.push_back(std::move(*at));
        song.parts.erase(at);
    }
    std::move(song.parts.begin(), song.parts.end(),
              std::back_inserter(ordered)); // none that the file has is lost
    song.parts = std::move(ordered);
    return song;
}

Result<SongSet> setFrom(const json& j, const std::string& where) {
    if (j.value("format", "") != "cobbleway")
        return Error{"This is not a Cobbleway project.", where,
                     "Choose a file that ends in .cobbleway, or add MIDI files as songs."};
    if (j.value("version", 0) > projectVersion)
        return Error{"The project was made by a newer Cobbleway.", where, "Update Cobbleway to open it."};
    SongSet set;
    set.name = validUtf8(j.at("name").get<std::string>());
    for (const json& s : j.at("songs")) {
        auto song = songFrom(s, where);
        if (!song) return song.error();
        set.songs.emplace_back(std::move(song.value()));
    }
    return set;
}

} // namespace

std::string projectText(const SongSet& set) {
    json songs = json::array();
    for (const auto& song : set.songs) songs.push_back(songJson(*song));
    const json project = {
        {"format", "cobbleway"}, {"version", projectVersion}, {"name", set.name}, {"songs", songs}};
    return project.dump(1, ' ', false, json::error_handler_t::replace) + "\n";
}

Result<SongSet> parseProject(const std::string& text, const std::string& where) {
    try { // the JSON library's way to say no; it goes no further
        return setFrom(json::parse(text), where);
    } catch (const json::exception& problem) {
        return Error{std::string("The project is damaged: ") + problem.what() + ".", where,
                     "Open an older copy of it."};
    }
}

Result<Done> saveProject(const SongSet& set, const std::filesystem::path& path) {
    return writeFile(path, projectText(set));
}

Result<SongSet> openProject(const std::filesystem::path& path) {
    auto bytes = readFile(path);
    if (!bytes) return bytes.error();
    return parseProject(std::string(bytes.value().begin(), bytes.value().end()), path.string());
}

} // namespace cobbleway
