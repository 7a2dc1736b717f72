#include "files/project.h"

#include "files/base64.h"
#include "files/partjson.h"
#include "midi/fingerprint.h"
#include "midi/text.h"
#include "midi/writer.h"
#include "song/model/asks.h"
#include "song/model/levels.h"
#include "song/shape/pluginfiles.h"
#include "song/shape/timeedits.h"
#include "sound/threadshare.h"
#include "words/letters.h"

#include <algorithm>
#include <cstdlib>
#include <new>
#include <nlohmann/json.hpp>
#include <string_view>

namespace cobbleway {
namespace fs = std::filesystem;
namespace {

using nlohmann::json;

constexpr int mostIds = 1'000'000'000; ///< more than a song can have had parts

/// FNV-1a, 64 bits, of all that a track holds, as text.
std::string digestOf(const MidiFile& midi, const Track& track) {
    Fingerprint print;
    for (const Event& event : track.events) {
        print.add(static_cast<std::uint64_t>(event.tick), 8);
        print.add(event.status);
        print.add(event.data1);
        print.add(event.isChannel() ? event.data2 : std::uint8_t{0});
        print.add(event.port);
        print.add(midi.bytes(event));
    }
    print.add(static_cast<std::uint64_t>(track.end), 8);
    return std::to_string(print.value());
}

json tracksJson(const MidiFile& midi) {
    json tracks = json::array();
    for (const Track& track : midi.tracks) tracks.push_back({track.events.size(), digestOf(midi, track)});
    return tracks;
}

/// The file as it was read, written anew without its damage: what repairing makes of it does not matter then.
/// None when it was whole, or cannot be written so that it reads the same.
std::optional<std::vector<std::uint8_t>> repairedCopy(const SourceFile& source, const json& tracks) {
    if (source.damage.empty()) return std::nullopt;
    // What is told may be of another reading: a repaired copy stands in for the damaged file it was made of.
    const auto again = readMidi(source.midi.pool, source.name);
    if (again && again.value().damage.empty()) return std::nullopt;
    MidiFile copy = source.midi;
    copy.pool.clear();
    copy.cuts.clear();
    for (Track& track : copy.tracks)
        for (Event& event : track.events)
            if (!event.isChannel()) event.payload = copy.addPayload(source.midi.bytes(event));
    auto bytes = writeMidi(copy);
    const auto read = readMidi(bytes, source.name);
    if (!read || tracksJson(read.value().midi) != tracks) return std::nullopt;
    return bytes;
}

json partJson(const Part& part) {
    json j = identityJson(part.identity());
    j["source"] = sourceJson(part.source);
    if (json recipe = recipeJson(part.recipe); !recipe.empty()) j["recipe"] = std::move(recipe);
    if (json sound = soundJson(part.sound); !sound.empty()) j["sound"] = std::move(sound);
    if (json mix = mixJson(part.mix); !mix.empty()) j["mix"] = std::move(mix);
    return j;
}

/// What is known of a song's time, where it is no longer the file's.
void addTime(json& j, const Song& song) {
    const bool moved =
        std::any_of(song.trackStarts->begin(), song.trackStarts->end(), [](Tick t) { return t != 0; });
    if (moved) {
        j["trackStarts"] = *song.trackStarts;
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
    if (song.sectionsEdited || moved) {
        j["sectionsEdited"] = song.sectionsEdited;
        j["sections"] = json::array();
        for (const Section& s : song.sections)
            j["sections"].push_back({{"start", s.start}, {"name", s.name}});
    }
}

/// Where a song's file was read: from the project's folder on, when it lies there or below. Nothing where it
/// is no text.
std::string placeText(const std::string& path, const fs::path& folder) {
    if (path.empty() || validUtf8(path) != path) return {};
    const fs::path beside = folder.empty() ? fs::path() : fs::path(path).lexically_relative(folder);
    return beside.empty() || *beside.begin() == ".." ? path : beside.string();
}

json songJson(const Song& song, const fs::path& folder) {
    json parts = json::array();
    for (const Part& part : song.parts) parts.push_back(partJson(part));
    const json tracks = tracksJson(song.source->midi);
    json j = {{"file", song.source->name},
              {"midi", base64(song.source->midi.pool)},
              {"tracks", tracks},
              {"title", song.title},
              {"encoding", song.encoding},
              {"dialect", dialectName(song.dialect)},
              {"masterVolume", song.masterVolume},
              {"conductor", eventNames(*song.conductor)},
              {"parts", std::move(parts)},
              {"lastId", song.ids.last},
              {"keyShift", song.keyShift},
              {"backDb", song.backDb},
              {"room", song.room},
              {"settled", song.settled}};
    if (const auto place = placeText(song.source->path, folder); !place.empty()) j["path"] = place;
    if (const auto copy = repairedCopy(*song.source, tracks)) j["mended"] = base64(*copy);
    if (song.roomSeconds != Song{}.roomSeconds) j["roomSeconds"] = song.roomSeconds;
    if (song.masterDb != 0) j["masterDb"] = song.masterDb;
    for (const KeptMix& mix : song.mixes) {
        json levels = json::array();
        for (const auto& [part, level] : mix.parts)
            levels.push_back({{"part", part}, {"role", roleName(level.role)}, {"levelDb", level.levelDb}});
        j["mixes"].push_back({{"name", mix.name}, {"backDb", mix.backDb}, {"parts", levels}});
    }
    if (!song.effects.empty()) j["effects"] = effectsJson(song.effects);
    if (!song.fontOrder.empty()) j["fontOrder"] = song.fontOrder;
    for (const Tidying& t : song.tidied)
        j["tidied"].push_back({{"kind", t.kind},
                               {"part", t.part},
                               {"controller", t.controller},
                               {"value", t.value},
                               {"levelDb", t.levelDb}});
    for (const DialectFrom& from : *song.dialects)
        j["dialects"].push_back({from.tick, from.port, dialectName(from.dialect)});
    for (std::size_t i = 0; i < song.made.size(); ++i) {
        const auto& [event, track] = song.made[i];
        j["made"].push_back({track, event.tick, event.status, event.data1, event.data2, event.port});
    }
    addTime(j, song);
    if (song.midi != MidiShape{})
        j["midiShape"] = {{"writtenIn", song.midi.writtenIn},
                          {"runningStatus", song.midi.runningStatus},
                          {"folded", song.midi.folded}};
    return j;
}

std::string textOf(const json& j) { return j.dump(1, ' ', false, json::error_handler_t::replace); }

/// Text with every line but the first farther in.
std::string indented(const std::string& text, std::string_view by) {
    std::string made;
    made.reserve(text.size() + text.size() / 4);
    std::size_t from = 0;
    for (std::size_t end; (end = text.find('\n', from)) != std::string::npos; from = end + 1)
        made.append(text, from, end + 1 - from).append(by);
    return made.append(text, from);
}

/// Each song as it stands in a project's list; made by several threads, since that is nearly all of saving.
std::vector<std::string> songTexts(const SongSet& set, const fs::path& folder) {
    std::vector<std::string> texts(set.songs.size());
    forEachOn({}, texts.size(),
              [&](std::size_t i) { texts[i] = indented(textOf(songJson(*set.songs[i], folder)), "  "); });
    return texts;
}

void takeMade(Song& song, const json& j) {
    if (!j.contains("made")) return;
    MadeEvents made;
    const auto tracks = static_cast<std::uint32_t>(song.source->midi.tracks.size());
    for (const json& m : j["made"]) {
        const auto byte = [&](std::size_t i, int mask) {
            return static_cast<std::uint8_t>(m.at(i).get<int>() & mask);
        };
        MadeEvent event{{std::clamp<Tick>(m.at(1).get<Tick>(), -farthest, farthest), byte(2, 0xFF),
                         byte(3, 0x7F), byte(4, 0x7F), byte(5, 0x7F)},
                        m.at(0).get<std::uint32_t>()};
        if (!event.event.isChannel() || event.track >= tracks)
            event = {{0, 0x80, 0, 0, 0}, 0}; // keeps its place
        made.push_back(event);
    }
    if (tracks > 0) song.made = std::move(made);
}

/// Sections in order, each up to the next, the last to the song's end; those that would have no length go.
void setSections(Song& song, std::vector<Section> sections) {
    std::stable_sort(sections.begin(), sections.end(),
                     [](const Section& a, const Section& b) { return a.start < b.start; });
    for (std::size_t i = 0; i < sections.size(); ++i)
        sections[i].end = i + 1 < sections.size() ? std::min(sections[i + 1].start, song.end) : song.end;
    std::erase_if(sections, [](const Section& s) { return s.end <= s.start; });
    song.sections = std::move(sections);
}

void takeSections(Song& song, const json& j) {
    std::vector<Section> sections;
    for (const json& s : j.at("sections"))
        sections.push_back({tickFrom(s.at("start")), 0, validUtf8(s.at("name").get<std::string>())});
    setSections(song, std::move(sections));
    song.sectionsEdited = j.value("sectionsEdited", true);
}

/// Where the last of a song's tracks ends, at least 1.
Tick lastTickOf(const Song& song) {
    Tick last = 1;
    for (std::size_t t = 0; t < song.source->midi.tracks.size(); ++t)
        last = std::max(last, song.source->midi.tracks[t].end + (*song.trackStarts)[t]);
    return std::min(last, farthest);
}

void takeTime(Song& song, const json& j) {
    if (j.contains("trackStarts")) {
        auto starts = j["trackStarts"].get<std::vector<Tick>>();
        if (starts.size() == song.trackStarts->size()) {
            for (Tick& start : starts) start = std::clamp(start, -farthest, farthest);
            song.trackStarts = Shared(std::move(starts));
            song.end = std::max(tickFrom(j.at("end")), lastTickOf(song)); // it does not end before its tracks
        }
    }
    if (j.contains("tempo")) {
        std::vector<TempoChange> tempos;
        std::vector<MetreChange> metres;
        for (const json& t : j["tempo"].at("tempos"))
            tempos.push_back({tickFrom(t.at(0)), std::clamp(t.at(1).get<int>(), 1, 16777215)});
        for (const json& m : j["tempo"].at("metres"))
            metres.push_back({tickFrom(m.at(0)), std::clamp(m.at(1).get<int>(), 0, 255), m.at(2).get<int>()});
        song.tempo = Shared(TempoMap(song.source->midi.division, std::move(tempos), std::move(metres)));
        song.tempoEdited = true;
    }
    if (j.contains("sections"))
        takeSections(song, j);
    else if (j.contains("trackStarts")) // the song may end elsewhere than its file
        setSections(song, song.sections);
}

/// Version 4: parts are what the project says; the file is asked for nothing.
void takeParts(Song& song, const json& j) {
    if (auto events = eventsNamed(j.at("conductor").get_ref<const std::string&>(), song))
        song.conductor = Shared<EventRefs>(*events);
    song.parts.clear();
    static const json nothing = json::object();
    const auto sideOf = [](const json& p, const char* name) -> const json& {
        return p.contains(name) ? p[name] : nothing;
    };
    for (const json& p : j.at("parts")) {
        Part part;
        static_cast<PartIdentity&>(part) = identityFrom(p);
        part.source = sourceFrom(p.at("source"), song);
        part.recipe = recipeFrom(sideOf(p, "recipe"));
        part.sound = soundFrom(sideOf(p, "sound"));
        part.mix = mixFrom(sideOf(p, "mix"));
        song.parts.push_back(std::move(part));
    }
}

/// Versions 1 to 3: the parts as listed, each over the one that the file gives.
void takeOldParts(Song& song, const json& j, int version) {
    std::vector<Part> ordered;
    std::set<PartId> taken;
    for (const json& p : j.at("parts")) {
        const auto id = p.at("id").get<int>();
        const Part* inFile = song.part(id);
        if ((!inFile && !p.contains("events")) || !taken.insert(id).second) continue;
        Part part = inFile ? *inFile : Part{};
        const bool aside = p.value("aside", part.aside);
        static_cast<PartIdentity&>(part) = identityFrom(p);
        part.aside = aside;
        if (p.contains("events")) part.source = sourceFrom(p, song);
        part.recipe = recipeFrom(p);
        part.sound = soundFrom(p);
        part.mix = mixFrom(p);
        ordered.push_back(std::move(part));
    }
    if (version < 2) // none that the file has is lost
        for (const Part& part : song.parts)
            if (!taken.contains(part.id)) ordered.push_back(part);
    song.parts = std::move(ordered);
}

/// Up to version 5 a part without a program had the first of its channel's other parts, which was not among
/// its events. It gets it as events of its own, so that it sounds as it did.
void lendPrograms(Song& song) {
    std::map<std::pair<int, int>, std::vector<std::pair<PartId, Ask>>> said;
    for (const Part& part : song.parts)
        if (const auto ask = firstProgram(song, part.source))
            said[{part.source.port, part.source.channel.value}].emplace_back(part.id, *ask);
    for (Part& part : song.parts) {
        const auto& asks = said[{part.source.port, part.source.channel.value}];
        if (asks.empty() || part.sound.programGiven || firstProgram(song, part.source)) continue;
        const Ask& ask = asks.front().second;
        std::vector<EventRef> events;
        const auto add = [&](std::uint8_t kind, std::uint8_t data1, int data2) {
            events.push_back({madeTrack, static_cast<std::uint32_t>(song.made.size())});
            song.made.push_back(
                {{0, static_cast<std::uint8_t>(kind | part.source.channel.value), data1,
                  static_cast<std::uint8_t>(data2), static_cast<std::uint8_t>(part.source.port)},
                 static_cast<std::uint32_t>(part.source.track)});
        };
        if (ask.bankMsb) add(0xB0, cc::bankMsb, *ask.bankMsb);
        if (ask.bankLsb) add(0xB0, cc::bankLsb, *ask.bankLsb);
        add(0xC0, ask.program->value, 0);
        events.insert(events.end(), part.source.events->begin(), part.source.events->end());
        part.source.events = Shared<EventRefs>(events);
    }
}

/// Every part has an id of its own. Those of a sound file stay: kept mixes, settled snags and what was done
/// on opening go by them.
void settleIds(Song& song) {
    std::set<PartId> taken;
    const bool sound = std::all_of(song.parts.begin(), song.parts.end(), [&](const Part& part) {
        return part.id >= 1 && part.id <= mostIds && taken.insert(part.id).second;
    });
    PartId next = 0;
    if (!sound)
        for (Part& part : song.parts) part.id = ++next;
    for (const Part& part : song.parts) song.ids.last = std::max(song.ids.last, part.id);
}

/// The song's file: as it is read now, when that is as it was read when the set was saved; else its repaired
/// copy.
Result<SourceFile> sourceFromJson(const json& j, const std::string& where) {
    const Error damaged{{"error.project-song"}, where, {"now.older-copy"}};
    auto bytes = fromBase64(j.at("midi").get_ref<const std::string&>());
    if (!bytes) return damaged;
    const auto name = validUtf8(j.at("file").get<std::string>());
    auto source = readMidi(std::move(*bytes), name);
    if (!j.contains("tracks")) return source; // before version 4
    if (source && tracksJson(source.value().midi) == j["tracks"]) return source;
    if (j.contains("mended")) {
        auto repaired = fromBase64(j["mended"].get_ref<const std::string&>());
        if (!repaired) return damaged;
        auto copy = readMidi(std::move(*repaired), name);
        if (copy && tracksJson(copy.value().midi) == j["tracks"]) {
            if (source && !source.value().damage.empty()) copy.value().damage = source.value().damage;
            return copy;
        }
    }
    if (!source) return source;
    const json now = tracksJson(source.value().midi);
    for (std::size_t t = 0; t < std::max(now.size(), j["tracks"].size()); ++t)
        if (t >= now.size() || t >= j["tracks"].size() || now[t] != j["tracks"][t])
            source.value().damage.push_back({0, static_cast<int>(t) + 1, {"damage.read-differently"}});
    return source;
}

/// Where the song's file was, whether or not it is there now.
std::string pathFrom(const json& j, const std::string& where) {
    const fs::path place = validUtf8(j.value("path", std::string()));
    if (place.empty() || place.is_absolute()) return place.string();
    std::error_code error;
    const fs::path folder = fs::absolute(where, error).parent_path();
    return error ? std::string() : (folder / place).lexically_normal().string();
}

Dialect dialectNamed(const std::string& name, Dialect otherwise) {
    for (const Dialect dialect : {Dialect::None, Dialect::GM, Dialect::GM2, Dialect::GS, Dialect::XG})
        if (name == dialectName(dialect)) return dialect;
    return otherwise;
}

void takeDialects(Song& song, const json& j) {
    std::vector<DialectFrom> dialects;
    for (const json& from : j.value("dialects", json::array()))
        dialects.push_back({from.at(0).get<Tick>(), from.at(1).get<int>(),
                            dialectNamed(from.at(2).get<std::string>(), Dialect::None)});
    song.dialects = Shared(std::move(dialects));
}

void takeTidied(Song& song, const json& j) {
    for (const json& t : j.value("tidied", json::array()))
        song.tidied.push_back({t.at("kind").get<std::string>(), t.at("part").get<PartId>(),
                               static_cast<std::uint8_t>(t.at("controller").get<int>() & 0x7F),
                               t.at("value").get<int>() & 0x7F,
                               std::clamp(t.at("levelDb").get<double>(), lowestLevelDb, highestLevelDb)});
}

void takeMixes(Song& song, const json& j) {
    if (!j.contains("mixes")) return;
    std::set<std::string> taken;
    for (const json& m : j["mixes"]) {
        KeptMix mix{validUtf8(m.at("name").get<std::string>()),
                    {},
                    std::clamp(m.at("backDb").get<double>(), -40.0, 0.0)};
        for (const json& level : m.at("parts"))
            mix.parts[level.at("part").get<PartId>()] = {
                roleNamed(level.at("role").get<std::string>()),
                std::clamp(level.at("levelDb").get<double>(), lowestLevelDb, highestLevelDb)};
        if (!mix.name.empty() && taken.insert(mix.name).second) song.mixes.push_back(std::move(mix));
    }
}

Result<Song> songFrom(const json& j, const std::string& where, int version) {
    auto source = sourceFromJson(j, where);
    if (!source) return source.error();
    source.value().path = pathFrom(j, where);
    Song song = makeSong(std::make_shared<const SourceFile>(std::move(source.value())),
                         j.value("encoding", std::string()));
    song.title = validUtf8(j.at("title").get<std::string>());
    song.dialect = dialectNamed(j.value("dialect", std::string()), song.dialect);
    takeDialects(song, j);
    song.masterVolume = std::clamp(j.value("masterVolume", song.masterVolume), 0.0, 1.0);
    song.keyShift = std::clamp(j.at("keyShift").get<int>(), -24, 24);
    song.backDb = std::clamp(j.at("backDb").get<double>(), -40.0, 0.0);
    song.room = std::clamp(j.at("room").get<double>(), 0.0, 1.0);
    song.roomSeconds = std::clamp(j.value("roomSeconds", song.roomSeconds), shortestRoom, longestRoom);
    song.masterDb = std::clamp(j.value("masterDb", 0.0), lowestMasterDb, highestMasterDb);
    if (j.contains("effects")) song.effects = effectsFrom(j["effects"]);
    if (j.contains("fontOrder")) song.fontOrder = j["fontOrder"].get<std::vector<std::string>>();
    song.settled = j.at("settled").get<std::set<std::string>>();
    takeMixes(song, j);
    takeTidied(song, j);
    takeTime(song, j);
    takeMade(song, j);
    song.ids.last = std::clamp(j.value("lastId", song.ids.last), 0, mostIds);
    if (version >= 4)
        takeParts(song, j);
    else
        takeOldParts(song, j, version);
    if (version < 6) lendPrograms(song);
    settleIds(song);
    if (j.contains("midiShape")) {
        const json& m = j["midiShape"];
        song.midi = {m.at("writtenIn").get<bool>(), m.at("runningStatus").get<bool>(),
                     m.at("folded").get<bool>()};
    }
    return song;
}

Result<SongSet> setFrom(const json& j, const std::string& where) {
    if (j.value("format", "") != "cobbleway")
        return Error{{"error.not-project"}, where, {"now.choose-project"}};
    if (j.value("version", 0) > projectVersion) return Error{{"error.project-newer"}, where, {"now.update"}};
    SongSet set;
    set.name = validUtf8(j.at("name").get<std::string>());
    if (j.contains("fontOrder")) set.fontOrder = j["fontOrder"].get<std::vector<std::string>>();
    if (j.contains("recipes"))
        for (const json& recipe : j["recipes"])
            if (auto read = recipeFrom(recipe, where)) set.recipes.push_back(std::move(read.value()));
    if (j.contains("fonts"))
        for (const json& f : j["fonts"])
            set.fonts.push_back({f.at("id").get<std::string>(), validUtf8(f.at("name").get<std::string>()),
                                 f.at("size").get<std::uint64_t>(),
                                 std::strtoull(f.at("digest").get<std::string>().c_str(), nullptr, 10)});
    for (const json& f : j.value("files", json::array()))
        set.files.push_back({validUtf8(f.at("path").get<std::string>()),
                             validUtf8(f.value("from", std::string())), f.at("size").get<std::uint64_t>(),
                             std::strtoull(f.at("digest").get<std::string>().c_str(), nullptr, 10)});
    for (const json& l : j.value("loudness", json::array()))
        set.loudness.push_back({std::strtoull(l.at("file").get<std::string>().c_str(), nullptr, 10),
                                std::clamp(l.at("lufs").get<double>(), -120.0, 20.0),
                                std::clamp(l.at("peakDb").get<double>(), -120.0, 40.0)});
    for (const json& t : j.value("ticks", json::array()))
        set.ticks.push_back({std::strtoull(t.at("file").get<std::string>().c_str(), nullptr, 10),
                             t.at("ticked").get<std::set<std::string>>()});
    for (const json& s : j.at("songs")) {
        auto song = songFrom(s, where, j.value("version", 0));
        if (!song) return song.error();
        set.songs.emplace_back(std::move(song.value()));
    }
    return set;
}

} // namespace

std::uint64_t fileDigest(const SourceFile& file) {
    Fingerprint print;
    print.add(std::span(file.midi.pool));
    return print.value();
}

bool isProject(const std::filesystem::path& path) {
    return inSmallLetters(path.extension().string()) == projectEnding;
}

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

SongSet rememberFiles(SongSet set) {
    std::set<std::string> used;
    for (const auto& song : set.songs) used.merge(pluginFilesOf(*song));
    std::vector<FileMemory> files;
    for (const std::string& path : used) {
        const auto before = std::find_if(set.files.begin(), set.files.end(),
                                         [&](const FileMemory& f) { return f.path == path; });
        if (auto now = fileMemoryOf(path))
            files.push_back(std::move(*now));
        else if (before != set.files.end())
            files.push_back(*before);
    }
    set.files = std::move(files);
    return set;
}

namespace {

json filesJson(const std::vector<FileMemory>& files, const fs::path& folder) {
    json list = json::array();
    for (const FileMemory& file : files) {
        json j = {{"path", file.path}, {"size", file.size}, {"digest", std::to_string(file.digest)}};
        const std::string from =
            folder.empty() ? file.from : fs::path(file.path).lexically_relative(folder).string();
        if (!from.empty()) j["from"] = from;
        list.push_back(std::move(j));
    }
    return list;
}

} // namespace

std::string projectText(const SongSet& set, const fs::path& folder) {
    json project = {
        {"format", "cobbleway"}, {"version", projectVersion}, {"name", set.name}, {"songs", json::array()}};
    if (!set.fontOrder.empty()) project["fontOrder"] = set.fontOrder;
    for (const Recipe& recipe : set.recipes) project["recipes"].push_back(recipeJson(recipe));
    for (const SongLoudness& l : set.loudness)
        project["loudness"].push_back(
            {{"file", std::to_string(l.file)}, {"lufs", l.lufs}, {"peakDb", l.peakDb}});
    for (const SongTicks& t : set.ticks)
        project["ticks"].push_back({{"file", std::to_string(t.file)}, {"ticked", t.ticked}});
    if (!set.files.empty()) project["files"] = filesJson(set.files, folder);
    for (const FontMemory& f : set.fonts)
        project["fonts"].push_back(
            {{"id", f.id}, {"name", f.name}, {"size", f.size}, {"digest", std::to_string(f.digest)}});
    std::string text = textOf(project) + "\n";
    if (set.songs.empty()) return text;
    const std::string_view none = "\n \"songs\": ["; // no string holds a line's end as it is
    const std::size_t place = text.find(none) + none.size();
    const std::string end = "\n " + text.substr(place);
    text.resize(place);
    const auto songs = songTexts(set, folder);
    std::size_t size = text.size() + end.size();
    for (const std::string& song : songs) size += song.size() + 4;
    text.reserve(size);
    for (const std::string& song : songs) text.append(text.size() > place ? ",\n  " : "\n  ").append(song);
    return text.append(end);
}

Result<SongSet> parseProject(const std::string& text, const std::string& where) {
    try { // the JSON library's way to say no; it goes no further
        return setFrom(json::parse(text), where);
    } catch (const json::parse_error& problem) {
        return Error{{"error.project-byte", {{"byte", problem.byte}}}, where, {"now.older-copy"}};
    } catch (const json::exception&) {
        return Error{{"error.project-wrong"}, where, {"now.older-copy"}};
    } catch (const std::bad_alloc&) { return Error{{"error.project-memory"}, where, {"now.close-programs"}}; }
}

Result<Done> saveProject(const SongSet& set, const std::filesystem::path& path, Readers readers) {
    std::error_code error;
    return writeFile(path, projectText(set, fs::absolute(path, error).parent_path()), readers);
}

Result<SongSet> openProject(const std::filesystem::path& path) {
    auto bytes = readFile(path);
    if (!bytes) return bytes.error();
    auto set = parseProject(std::string(bytes.value().begin(), bytes.value().end()), path.string());
    if (!set || set.value().files.empty()) return set;
    std::error_code error;
    const auto moved = movedFiles(set.value().files, fs::absolute(path, error).parent_path());
    if (moved.empty()) return set;
    for (auto& song : set.value().songs) song = edits::movePluginFiles(*song, moved);
    for (FileMemory& file : set.value().files)
        if (const auto at = moved.find(file.path); at != moved.end()) file.path = at->second;
    return set;
}

} // namespace cobbleway
