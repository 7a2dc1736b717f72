#include "files/project.h"

#include "midi/text.h"
#include "song/levels.h"
#include "song/timeedits.h"

#include <algorithm>
#include <cstdlib>
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

json shapeJson(const VelocityShape& shape) {
    return {{"scale", shape.scale}, {"offset", shape.offset}, {"compress", shape.compress}};
}

json soundJson(const SoundRef& sound) {
    json j = {{"name", sound.name}};
    switch (sound.kind) {
    case SoundKind::Plugin: j["plugin"] = sound.font; break;
    case SoundKind::Port:
        j["port"] = sound.font;
        j["channel"] = sound.channel;
        j["bank"] = sound.bank;
        j["program"] = sound.program;
        break;
    case SoundKind::Preset:
        j["font"] = sound.font;
        j["bank"] = sound.bank;
        j["program"] = sound.program;
        break;
    }
    return j;
}

SoundRef soundFrom(const json& j) {
    SoundRef sound;
    sound.name = validUtf8(j.at("name").get<std::string>());
    if (j.contains("plugin")) {
        sound.kind = SoundKind::Plugin;
        sound.font = j["plugin"].get<std::string>();
        return sound;
    }
    if (j.contains("port")) {
        sound.kind = SoundKind::Port;
        sound.font = j["port"].get<std::string>();
        sound.channel = j.at("channel").get<int>() & 0x0F;
    } else {
        sound.font = j.at("font").get<std::string>();
    }
    sound.bank = std::clamp(j.at("bank").get<int>(), 0, kitBank);
    sound.program = j.at("program").get<int>() & 0x7F;
    return sound;
}

json settingsJson(const PluginSettings& settings) {
    json j = json::object();
    if (!settings.controls.empty()) j["controls"] = settings.controls;
    if (!settings.preset.empty()) j["preset"] = settings.preset;
    if (!settings.state.empty()) j["state"] = settings.state;
    return j;
}

PluginSettings settingsFrom(const json& j) {
    PluginSettings settings;
    if (j.contains("controls")) settings.controls = j["controls"].get<std::map<std::string, float>>();
    settings.preset = j.value("preset", "");
    settings.state = j.value("state", "");
    return settings;
}

json effectsJson(const std::vector<Effect>& effects) {
    json list = json::array();
    for (const Effect& effect : effects)
        list.push_back({{"uri", effect.uri},
                        {"name", effect.name},
                        {"on", effect.on},
                        {"settings", settingsJson(effect.settings)}});
    return list;
}

std::vector<Effect> effectsFrom(const json& j) {
    std::vector<Effect> effects;
    for (const json& e : j)
        effects.push_back({e.at("uri").get<std::string>(), validUtf8(e.at("name").get<std::string>()),
                           settingsFrom(e.at("settings")), e.at("on").get<bool>()});
    return effects;
}

KeyRange rangeFrom(const json& j) {
    const int lowest = std::clamp(j.at(0).get<int>(), 0, 127);
    return {lowest, std::clamp(j.at(1).get<int>(), lowest, 127)};
}

/// What plays a part, and how it is mixed: only what differs from a part that was never touched.
void addSounds(json& j, const Part& part) {
    if (part.sound.chosen) j["chosen"] = soundJson(*part.sound.chosen);
    if (part.sound.settings != PluginSettings{}) j["settings"] = settingsJson(part.sound.settings);
    for (const SoundStretch& s : part.sound.stretches)
        j["stretches"].push_back({{"start", s.start}, {"end", s.end}, {"sound", soundJson(s.sound)}});
    for (const Layer& layer : part.sound.layers)
        j["layers"].push_back({{"sound", soundJson(layer.sound)},
                               {"settings", settingsJson(layer.settings)},
                               {"levelDb", layer.levelDb},
                               {"octaves", layer.octaves},
                               {"keys", {layer.keys.lowest, layer.keys.highest}}});
    if (part.recipe.folded) j["folded"] = {part.recipe.folded->lowest, part.recipe.folded->highest};
    if (part.mix.room != 1) j["room"] = part.mix.room;
    if (part.mix.roomBeforeLevel) j["roomBeforeLevel"] = true;
    if (part.mix.muted) j["muted"] = true;
    if (part.mix.solo) j["solo"] = true;
    if (!part.mix.effects.empty()) j["effects"] = effectsJson(part.mix.effects);
}

void takeSounds(Part& part, const json& j) {
    if (j.contains("chosen")) part.sound.chosen = soundFrom(j["chosen"]);
    if (j.contains("settings")) part.sound.settings = settingsFrom(j["settings"]);
    if (j.contains("stretches"))
        for (const json& s : j["stretches"]) {
            const SoundStretch stretch{s.at("start").get<Tick>(), s.at("end").get<Tick>(),
                                       soundFrom(s.at("sound"))};
            const Tick free = part.sound.stretches.empty() ? 0 : part.sound.stretches.back().end;
            if (stretch.start >= free && stretch.end > stretch.start) part.sound.stretches.push_back(stretch);
        }
    if (j.contains("layers"))
        for (const json& l : j["layers"])
            if (part.sound.layers.size() < mostLayers)
                part.sound.layers.push_back(
                    {soundFrom(l.at("sound")), settingsFrom(l.at("settings")),
                     std::clamp(l.at("levelDb").get<double>(), lowestLevelDb, highestLevelDb),
                     std::clamp(l.at("octaves").get<int>(), -4, 4), rangeFrom(l.at("keys"))});
    if (j.contains("folded")) part.recipe.folded = rangeFrom(j["folded"]);
    part.mix.room = std::clamp(j.value("room", 1.0), 0.0, 2.0);
    part.mix.roomBeforeLevel = j.value("roomBeforeLevel", false);
    part.mix.muted = j.value("muted", false);
    part.mix.solo = j.value("solo", false);
    if (j.contains("effects")) part.mix.effects = effectsFrom(j["effects"]);
}

/// Events as stretches: track (−1 for made ones), first index, count.
json eventsJson(const std::vector<EventRef>& refs) {
    json stretches = json::array();
    for (std::size_t i = 0; i < refs.size();) {
        std::size_t count = 1;
        while (i + count < refs.size() && refs[i + count].track == refs[i].track &&
               refs[i + count].index == refs[i].index + count)
            ++count;
        stretches.push_back(
            {refs[i].isMade() ? std::int64_t{-1} : std::int64_t{refs[i].track}, refs[i].index, count});
        i += count;
    }
    return stretches;
}

json partJson(const Part& part, const Part* asInFile) {
    json j = {{"id", part.id},
              {"name", part.name},
              {"nameGiven", part.nameGiven},
              {"colour", part.colour},
              {"levelDb", part.mix.levelDb},
              {"pan", part.mix.pan},
              {"octaves", part.recipe.octaves},
              {"role", roleName(part.mix.role)}};
    if (!asInFile || asInFile->source.events != part.source.events ||
        asInFile->source.port != part.source.port || asInFile->source.channel != part.source.channel ||
        asInFile->source.drums != part.source.drums || asInFile->aside != part.aside) {
        j["track"] = part.source.track;
        j["port"] = part.source.port;
        j["channel"] = part.source.channel.value;
        j["drums"] = part.source.drums;
        j["aside"] = part.aside;
        j["events"] = eventsJson(*part.source.events);
    }
    if (part.recipe.semitones) j["semitones"] = part.recipe.semitones;
    if (!part.sound.followsPrograms) j["followsPrograms"] = false;
    if (part.sound.programGiven) j["programGiven"] = part.sound.programGiven->value;
    for (const auto& [id, plan] : part.recipe.controllers)
        j["controllers"].push_back({{"controller", id}, {"drop", plan.drop}, {"tolerance", plan.tolerance}});
    if (part.recipe.velocity != VelocityShape{}) j["velocity"] = shapeJson(part.recipe.velocity);
    for (const auto& [key, shape] : part.recipe.keyVelocity) {
        j["keyVelocity"].push_back(shapeJson(shape));
        j["keyVelocity"].back()["key"] = key;
    }
    if (part.recipe.unisons != Unisons::KeepBoth)
        j["unisons"] = part.recipe.unisons == Unisons::Cut ? "cut" : "one";
    addSounds(j, part);
    return j;
}

/// What is known of a song's time, where it is no longer the file's.
void addTime(json& j, const Song& song, const Song& asInFile) {
    if (song.trackStarts != asInFile.trackStarts) {
        j["trackStarts"] = song.trackStarts;
        j["end"] = song.end;
    }
    if (song.tempoEdited) {
        json tempos = json::array(), metres = json::array();
        for (const TempoChange& t : song.tempo->tempos())
            tempos.push_back({t.tick, t.microsecondsPerQuarter});
        for (const MetreChange& m : song.tempo->metres())
            metres.push_back({m.tick, m.numerator, m.denominator});
        j["tempo"] = {{"tempos", tempos}, {"metres", metres}};
    }
    if (song.sectionsEdited || song.trackStarts != asInFile.trackStarts) {
        j["sectionsEdited"] = song.sectionsEdited;
        j["sections"] = json::array();
        for (const Section& s : song.sections)
            j["sections"].push_back({{"start", s.start}, {"name", s.name}});
    }
}

json songJson(const Song& song) {
    const Song asInFile = makeSong(song.source, song.encoding);
    json parts = json::array();
    for (const Part& part : song.parts) parts.push_back(partJson(part, asInFile.part(part.id)));
    json j = {{"file", song.source->name},
              {"midi", base64(song.source->midi.pool)},
              {"title", song.title},
              {"encoding", song.encoding},
              {"parts", parts},
              {"keyShift", song.keyShift},
              {"backDb", song.backDb},
              {"room", song.room},
              {"settled", song.settled}};
    if (song.roomSeconds != Song{}.roomSeconds) j["roomSeconds"] = song.roomSeconds;
    if (song.masterDb != 0) j["masterDb"] = song.masterDb;
    if (!song.effects.empty()) j["effects"] = effectsJson(song.effects);
    if (!song.fontOrder.empty()) j["fontOrder"] = song.fontOrder;
    for (const MadeEvent& m : *song.made)
        j["made"].push_back(
            {m.track, m.event.tick, m.event.status, m.event.data1, m.event.data2, m.event.port});
    addTime(j, song, asInFile);
    if (song.midi != MidiShape{})
        j["midiShape"] = {{"writtenIn", song.midi.writtenIn},
                          {"runningStatus", song.midi.runningStatus},
                          {"folded", song.midi.folded}};
    return j;
}

VelocityShape shapeFrom(const json& j) {
    return {std::clamp(j.at("scale").get<double>(), 0.1, 4.0),
            std::clamp(j.at("offset").get<int>(), -126, 126),
            std::clamp(j.at("compress").get<double>(), 0.0, 1.0)};
}

/// Events that the song does not have are left out.
std::vector<EventRef> eventsFrom(const json& j, const Song& song) {
    std::vector<EventRef> refs;
    const auto& tracks = song.source->midi.tracks;
    for (const json& stretch : j) {
        const auto track = stretch.at(0).get<std::int64_t>();
        const auto first = stretch.at(1).get<std::uint64_t>(), count = stretch.at(2).get<std::uint64_t>();
        const bool made = track < 0;
        if (!made && track >= static_cast<std::int64_t>(tracks.size())) continue;
        const std::uint64_t there =
            made ? song.made->size() : tracks[static_cast<std::size_t>(track)].events.size();
        for (std::uint64_t i = first; i < there && i - first < count; ++i)
            refs.push_back(
                {made ? madeTrack : static_cast<std::uint32_t>(track), static_cast<std::uint32_t>(i)});
    }
    std::stable_sort(refs.begin(), refs.end(),
                     [&](EventRef a, EventRef b) { return song.tickOf(a) < song.tickOf(b); });
    return refs;
}

void takeEvents(Part& part, const json& j, const Song& song) {
    if (!j.contains("events")) return;
    part.source.track =
        std::clamp(j.at("track").get<int>(), 0, static_cast<int>(song.source->midi.tracks.size()) - 1);
    part.source.port = std::clamp(j.at("port").get<int>(), 0, 127);
    part.source.channel = Channel{static_cast<std::uint8_t>(j.at("channel").get<int>() & 0x0F)};
    part.source.drums = j.at("drums").get<bool>();
    part.aside = j.at("aside").get<bool>();
    part.source.events = Shared(eventsFrom(j.at("events"), song));
}

/// Reads a part's decisions over the part that the file gives. Numbers are held within their ranges.
void takePart(Part& part, const json& j, const Song& song) {
    takeEvents(part, j, song);
    part.name = validUtf8(j.at("name").get<std::string>());
    part.nameGiven = j.at("nameGiven").get<bool>();
    part.colour = std::clamp(j.at("colour").get<int>(), 0, 11);
    part.mix.levelDb = std::clamp(j.at("levelDb").get<double>(), lowestLevelDb, highestLevelDb);
    part.mix.pan = std::clamp(j.at("pan").get<double>(), -1.0, 1.0);
    part.recipe.octaves = std::clamp(j.at("octaves").get<int>(), -5, 5);
    part.recipe.semitones = std::clamp(j.value("semitones", 0), -60, 60);
    part.sound.followsPrograms = j.value("followsPrograms", true);
    const auto role = j.at("role").get<std::string>();
    part.mix.role = role == "lead" ? Role::Lead : (role == "off" ? Role::Off : Role::Back);
    if (j.contains("droppedControllers")) // version 1
        for (const int controller : j["droppedControllers"].get<std::vector<int>>())
            if (controller >= 0 && controller < 128) part.recipe.controllers[controller] = {true, 0};
    if (j.contains("controllers"))
        for (const json& c : j["controllers"])
            if (const int id = c.at("controller").get<int>(); id >= 0 && id <= pressureId)
                part.recipe.controllers[id] = {c.at("drop").get<bool>(),
                                               std::clamp(c.at("tolerance").get<int>(), 0, 4096)};
    if (j.contains("velocity")) part.recipe.velocity = shapeFrom(j["velocity"]);
    if (j.contains("keyVelocity"))
        for (const json& k : j["keyVelocity"])
            part.recipe.keyVelocity[static_cast<std::uint8_t>(k.at("key").get<int>() & 0x7F)] = shapeFrom(k);
    const auto unisons = j.value("unisons", "both");
    part.recipe.unisons =
        unisons == "cut" ? Unisons::Cut : (unisons == "one" ? Unisons::KeepOne : Unisons::KeepBoth);
    if (j.contains("programGiven"))
        part.sound.programGiven = Program{static_cast<std::uint8_t>(j["programGiven"].get<int>() & 0x7F)};
    takeSounds(part, j);
}

void takeMade(Song& song, const json& j) {
    if (!j.contains("made")) return;
    std::vector<MadeEvent> made;
    const auto tracks = static_cast<std::uint32_t>(song.source->midi.tracks.size());
    for (const json& m : j["made"]) {
        const auto byte = [&](std::size_t i, int mask) {
            return static_cast<std::uint8_t>(m.at(i).get<int>() & mask);
        };
        MadeEvent event{{m.at(1).get<Tick>(), byte(2, 0xFF), byte(3, 0x7F), byte(4, 0x7F), byte(5, 0x7F)},
                        m.at(0).get<std::uint32_t>()};
        if (!event.event.isChannel() || event.track >= tracks)
            event = {{0, 0x80, 0, 0, 0}, 0}; // keeps its place
        made.push_back(event);
    }
    if (tracks > 0) song.made = Shared(std::move(made));
}

void takeTime(Song& song, const json& j) {
    if (j.contains("trackStarts")) {
        auto starts = j["trackStarts"].get<std::vector<Tick>>();
        if (starts.size() == song.trackStarts.size()) {
            song.trackStarts = std::move(starts);
            song.end = std::clamp<Tick>(j.at("end").get<Tick>(), 0, Tick{1} << 41);
        }
    }
    if (j.contains("tempo")) {
        std::vector<TempoChange> tempos;
        std::vector<MetreChange> metres;
        for (const json& t : j["tempo"].at("tempos"))
            tempos.push_back({t.at(0).get<Tick>(), std::clamp(t.at(1).get<int>(), 1, 16777215)});
        for (const json& m : j["tempo"].at("metres"))
            metres.push_back(
                {m.at(0).get<Tick>(), std::clamp(m.at(1).get<int>(), 0, 255), m.at(2).get<int>()});
        song.tempo = Shared(TempoMap(song.source->midi.division, std::move(tempos), std::move(metres)));
        song.tempoEdited = true;
    }
    if (!j.contains("sections")) return;
    while (!song.sections.empty()) {
        const Tick last = song.sections.back().start;
        song = edits::removeSection(std::move(song), last);
    }
    for (const json& s : j["sections"])
        song = edits::addSection(std::move(song), s.at("start").get<Tick>(),
                                 validUtf8(s.at("name").get<std::string>()));
    song.sectionsEdited = j.value("sectionsEdited", true);
}

/// The parts as listed: of the file's by id, and those that splitting made.
void takeParts(Song& song, const json& j, int version) {
    std::vector<Part> ordered;
    std::set<PartId> taken;
    for (const json& p : j.at("parts")) {
        const auto id = p.at("id").get<int>();
        const auto at = std::find_if(song.parts.begin(), song.parts.end(),
                                     [id](const Part& part) { return part.id == id; });
        if ((at == song.parts.end() && !p.contains("events")) || id < 1 || !taken.insert(id).second) continue;
        Part part = at == song.parts.end() ? Part{} : *at;
        part.id = id;
        takePart(part, p, song);
        ordered.push_back(std::move(part));
    }
    if (version < 2) // none that the file has is lost
        for (const Part& part : song.parts)
            if (!taken.contains(part.id)) ordered.push_back(part);
    song.parts = std::move(ordered);
}

Result<Song> songFrom(const json& j, const std::string& where, int version) {
    auto bytes = fromBase64(j.at("midi").get_ref<const std::string&>());
    if (!bytes) return Error{"A song in the project is damaged.", where, "Open an older copy."};
    auto source = readMidi(std::move(*bytes), validUtf8(j.at("file").get<std::string>()));
    if (!source) return source.error();
    Song song = makeSong(std::make_shared<const SourceFile>(std::move(source.value())),
                         j.value("encoding", std::string()));
    song.title = validUtf8(j.at("title").get<std::string>());
    song.keyShift = std::clamp(j.at("keyShift").get<int>(), -24, 24);
    song.backDb = std::clamp(j.at("backDb").get<double>(), -40.0, 0.0);
    song.room = std::clamp(j.at("room").get<double>(), 0.0, 1.0);
    song.roomSeconds = std::clamp(j.value("roomSeconds", song.roomSeconds), shortestRoom, longestRoom);
    song.masterDb = std::clamp(j.value("masterDb", 0.0), lowestMasterDb, highestMasterDb);
    if (j.contains("effects")) song.effects = effectsFrom(j["effects"]);
    if (j.contains("fontOrder")) song.fontOrder = j["fontOrder"].get<std::vector<std::string>>();
    song.settled = j.at("settled").get<std::set<std::string>>();
    takeTime(song, j);
    takeMade(song, j);
    takeParts(song, j, version);
    if (j.contains("midiShape")) {
        const json& m = j["midiShape"];
        song.midi = {m.at("writtenIn").get<bool>(), m.at("runningStatus").get<bool>(),
                     m.at("folded").get<bool>()};
    }
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
    if (j.contains("fontOrder")) set.fontOrder = j["fontOrder"].get<std::vector<std::string>>();
    if (j.contains("fonts"))
        for (const json& f : j["fonts"])
            set.fonts.push_back({f.at("id").get<std::string>(), validUtf8(f.at("name").get<std::string>()),
                                 f.at("size").get<std::uint64_t>(),
                                 std::strtoull(f.at("digest").get<std::string>().c_str(), nullptr, 10)});
    for (const json& s : j.at("songs")) {
        auto song = songFrom(s, where, j.value("version", 0));
        if (!song) return song.error();
        set.songs.emplace_back(std::move(song.value()));
    }
    return set;
}

} // namespace

SongSet rememberFonts(SongSet set, const Catalogue& catalogue) {
    std::set<std::string> used(set.fontOrder.begin(), set.fontOrder.end());
    const auto use = [&](const SoundRef& sound) {
        if (sound.kind == SoundKind::Preset) used.insert(sound.font);
    };
    for (const auto& song : set.songs) {
        used.insert(song->fontOrder.begin(), song->fontOrder.end());
        for (const Part& part : song->parts) { forEachSound(part.sound, use); }
    }
    std::vector<FontMemory> fonts;
    for (const std::string& id : used) {
        if (id == houseFontId) continue; // it ships
        const auto before =
            std::find_if(set.fonts.begin(), set.fonts.end(), [&](const FontMemory& f) { return f.id == id; });
        if (const SoundFont* font = catalogue.font(id))
            fonts.push_back({id, font->name, font->size, font->digest});
        else if (before != set.fonts.end())
            fonts.push_back(*before);
    }
    set.fonts = std::move(fonts);
    return set;
}

std::string projectText(const SongSet& set) {
    json songs = json::array();
    for (const auto& song : set.songs) songs.push_back(songJson(*song));
    json project = {
        {"format", "cobbleway"}, {"version", projectVersion}, {"name", set.name}, {"songs", songs}};
    if (!set.fontOrder.empty()) project["fontOrder"] = set.fontOrder;
    for (const FontMemory& f : set.fonts)
        project["fonts"].push_back(
            {{"id", f.id}, {"name", f.name}, {"size", f.size}, {"digest", std::to_string(f.digest)}});
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
