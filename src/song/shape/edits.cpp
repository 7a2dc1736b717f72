#include "song/shape/edits.h"

#include "song/heard/controllers.h"
#include "song/model/asks.h"
#include "song/model/levels.h"

#include <algorithm>

namespace cobbleway::edits {
namespace {

template <class Change> Song withPart(Song song, PartId id, Change change) {
    if (Part* part = song.part(id)) change(*part);
    return song;
}

void choose(Part& part, const SoundRef& sound) {
    if (!part.sound.chosen || *part.sound.chosen != sound) part.sound.settings = {};
    part.sound.chosen = sound;
}

/// Layers stay: they are on top of whatever the file asks for.
void followTheFile(Part& part) {
    part.sound.chosen.reset();
    part.sound.settings = {};
    part.sound.stretches.clear();
}

Song withRoles(Song song, PartId id, Role self, Role others) {
    for (Part& part : song.parts) {
        part.mix.role = part.id == id ? self : others;
        part.mix.muted = part.mix.solo = false;
    }
    return song;
}

} // namespace

Song rename(Song song, PartId id, const std::string& name) {
    const auto first = name.find_first_not_of(" \t\r\n");
    if (first == std::string::npos) return song;
    const std::string trimmed = name.substr(first, name.find_last_not_of(" \t\r\n") - first + 1);
    const std::string unique = uniqueName(song, trimmed, id);
    return withPart(std::move(song), id, [&](Part& part) {
        if (part.name == unique) return;
        part.name = unique;
        part.nameGiven = true;
    });
}

Song setTitle(Song song, const std::string& title) {
    if (!title.empty()) song.title = title;
    return song;
}

Song setEncoding(Song song, const std::string& encoding) {
    if (encoding.empty() || encoding == song.encoding) return song;
    const Song before = makeSong(song.source, song.encoding);
    const Song after = makeSong(song.source, encoding);
    for (Part& part : song.parts) {
        const Part *was = before.part(part.id), *is = after.part(part.id);
        if (was && is && part.name == was->name) part.name = uniqueName(song, is->name, part.id);
    }
    if (song.sectionsEdited) { // those moved or added keep their names
        for (Section& section : song.sections)
            for (std::size_t i = 0; i < before.sections.size() && i < after.sections.size(); ++i)
                if (section.name == before.sections[i].name) {
                    section.name = after.sections[i].name;
                    break;
                }
    } else {
        for (std::size_t i = 0; i < song.sections.size() && i < after.sections.size(); ++i)
            song.sections[i].name = after.sections[i].name;
    }
    if (song.title == before.title) song.title = after.title;
    song.encoding = encoding;
    return song;
}

Song setMidiShape(Song song, const MidiShape& shape) {
    song.midi = shape;
    return song;
}

Song setColour(Song song, PartId id, int colour) {
    return withPart(std::move(song), id, [&](Part& part) { part.colour = std::clamp(colour, 0, 11); });
}

Song moveTo(Song song, PartId id, int place) {
    const auto at =
        std::find_if(song.parts.begin(), song.parts.end(), [id](const Part& p) { return p.id == id; });
    if (at == song.parts.end()) return song;
    Part moved = std::move(*at);
    song.parts.erase(at);
    place = std::clamp(place, 0, static_cast<int>(song.parts.size()));
    song.parts.insert(song.parts.begin() + place, std::move(moved));
    return song;
}

Song chooseSound(Song song, PartId id, const SoundRef& sound) {
    return withPart(std::move(song), id, [&](Part& part) { choose(part, sound); });
}

Song chooseSounds(Song song, const std::vector<PartId>& parts, const SoundRef& sound) {
    for (const PartId id : parts) song = chooseSound(std::move(song), id, sound);
    return song;
}

Song setSettings(Song song, PartId id, const PluginSettings& settings) {
    return withPart(std::move(song), id, [&](Part& part) { part.sound.settings = settings; });
}

Song chooseForStretch(Song song, PartId id, Tick start, Tick end, const SoundRef& sound) {
    if (end <= start) return song;
    return withPart(std::move(song), id, [&](Part& part) {
        std::vector<SoundStretch> kept;
        for (const SoundStretch& old : part.sound.stretches) {
            if (old.start < start) kept.push_back({old.start, std::min(old.end, start), old.sound});
            if (old.end > end) kept.push_back({std::max(old.start, end), old.end, old.sound});
        }
        kept.push_back({start, end, sound});
        std::sort(kept.begin(), kept.end(), [](const auto& a, const auto& b) { return a.start < b.start; });
        part.sound.stretches = std::move(kept);
    });
}

Song clearStretch(Song song, PartId id, Tick tick) {
    return withPart(std::move(song), id, [&](Part& part) {
        std::erase_if(part.sound.stretches,
                      [&](const SoundStretch& s) { return s.start <= tick && tick < s.end; });
    });
}

Song addLayer(Song song, PartId id, const SoundRef& sound) {
    return withPart(std::move(song), id, [&](Part& part) {
        if (part.sound.layers.size() < mostLayers) part.sound.layers.push_back({sound, {}, 0, 0, {}});
    });
}

Song setLayer(Song song, PartId id, std::size_t index, const Layer& to) {
    return withPart(std::move(song), id, [&](Part& part) {
        if (index >= part.sound.layers.size()) return;
        Layer& layer = part.sound.layers[index];
        layer = to;
        layer.levelDb = std::clamp(to.levelDb, lowestLevelDb, highestLevelDb);
        layer.octaves = std::clamp(to.octaves, -4, 4);
        layer.keys.lowest = std::clamp(to.keys.lowest, 0, 127);
        layer.keys.highest = std::clamp(to.keys.highest, layer.keys.lowest, 127);
    });
}

Song removeLayer(Song song, PartId id, std::size_t index) {
    return withPart(std::move(song), id, [&](Part& part) {
        if (index < part.sound.layers.size())
            part.sound.layers.erase(part.sound.layers.begin() + static_cast<std::ptrdiff_t>(index));
    });
}

Song replaceFont(Song song, const std::string& gone, const SoundFont& by) {
    const auto replace = [&](SoundRef& sound) {
        if (sound.kind != SoundKind::Preset || sound.font != gone) return;
        sound.font = by.id;
        if (const Preset* preset = by.find(sound.bank, sound.program)) sound.name = preset->name;
    };
    for (Part& part : song.parts) forEachSound(part.sound, replace);
    std::replace(song.fontOrder.begin(), song.fontOrder.end(), gone, by.id);
    return song;
}

Song setFontOrder(Song song, const std::vector<std::string>& ids) {
    song.fontOrder = ids;
    return song;
}

Song followFile(Song song, PartId id) { return withPart(std::move(song), id, followTheFile); }

Song followFileEverywhere(Song song) {
    for (Part& part : song.parts) followTheFile(part);
    return song;
}

Song giveProgram(Song song, PartId id, Program program) {
    return withPart(std::move(song), id, [&](Part& part) { part.sound.programGiven = program; });
}

Song fixProgram(Song song, PartId id, std::optional<Program> program) {
    return withPart(std::move(song), id, [&](Part& part) {
        part.sound.followsPrograms = false;
        part.sound.programGiven = program ? program : part.sound.programGiven;
    });
}

Song followPrograms(Song song, PartId id) {
    return withPart(std::move(song), id, [](Part& part) {
        part.sound.followsPrograms = true;
        part.sound.programGiven.reset();
    });
}

Song foldInto(Song song, PartId id, std::optional<KeyRange> range) {
    return withPart(std::move(song), id, [&](Part& part) {
        if (range) range = KeyRange{std::clamp(range->lowest, 0, 127), std::clamp(range->highest, 0, 127)};
        if (!range || range->lowest <= range->highest) part.recipe.folded = range;
    });
}

Song setMuted(Song song, PartId id, bool muted) {
    return withPart(std::move(song), id, [&](Part& part) { part.mix.muted = muted; });
}

Song setSolo(Song song, PartId id, bool solo) {
    return withPart(std::move(song), id, [&](Part& part) { part.mix.solo = solo; });
}

Song setRoomShare(Song song, PartId id, double share, bool beforeLevel) {
    return withPart(std::move(song), id, [&](Part& part) {
        part.mix.room = std::clamp(share, 0.0, 2.0);
        part.mix.roomBeforeLevel = beforeLevel;
    });
}

Song setEffects(Song song, PartId id, const std::vector<Effect>& effects) {
    if (id == 0) song.effects = effects;
    return withPart(std::move(song), id, [&](Part& part) { part.mix.effects = effects; });
}

Song setMasterLevel(Song song, double db) {
    song.masterDb = std::clamp(db, lowestMasterDb, highestMasterDb);
    return song;
}

Song setRoomSeconds(Song song, double seconds) {
    song.roomSeconds = std::clamp(seconds, shortestRoom, longestRoom);
    return song;
}

Song setLevel(Song song, PartId id, double db) {
    return withPart(std::move(song), id,
                    [&](Part& part) { part.mix.levelDb = std::clamp(db, lowestLevelDb, highestLevelDb); });
}

Song setPan(Song song, PartId id, double pan) {
    return withPart(std::move(song), id, [&](Part& part) { part.mix.pan = std::clamp(pan, -1.0, 1.0); });
}

Song setOctaves(Song song, PartId id, int octaves) {
    return withPart(std::move(song), id,
                    [&](Part& part) { part.recipe.octaves = std::clamp(octaves, -5, 5); });
}

Song setSemitones(Song song, PartId id, int semitones) {
    return withPart(std::move(song), id,
                    [&](Part& part) { part.recipe.semitones = std::clamp(semitones, -60, 60); });
}

VelocityShape heldShape(VelocityShape shape) {
    shape.scale = std::clamp(shape.scale, 0.1, 4.0);
    shape.offset = std::clamp(shape.offset, -126, 126);
    shape.compress = std::clamp(shape.compress, 0.0, 1.0);
    return shape;
}

Song setVelocity(Song song, PartId id, const VelocityShape& shape) {
    return withPart(std::move(song), id, [&](Part& part) { part.recipe.velocity = heldShape(shape); });
}

Song setUnisons(Song song, PartId id, Unisons unisons) {
    return withPart(std::move(song), id, [&](Part& part) { part.recipe.unisons = unisons; });
}

Song volumeIntoLevel(Song song, PartId id) { return controllerIntoMix(std::move(song), id, cc::volume); }

Song controllerIntoMix(Song song, PartId id, ControllerId controller) {
    const bool known = controller == cc::volume || controller == cc::expression || controller == cc::pan;
    const Part* part = song.part(id);
    const auto value =
        known && part ? fixedValue(song, *part, static_cast<std::uint8_t>(controller)) : std::nullopt;
    if (!value) return song;
    return withPart(std::move(song), id, [&](Part& p) {
        p.recipe.controllers[controller] = {true, 0};
        if (controller == cc::pan)
            p.mix.pan = std::clamp(p.mix.pan + (*value - 64) / 63.0, -1.0, 1.0);
        else
            p.mix.levelDb = std::clamp(p.mix.levelDb + volumeDb(*value) -
                                           (controller == cc::volume ? volumeDb(defaultVolume) : 0.0),
                                       lowestLevelDb, highestLevelDb);
    });
}

Song keepController(Song song, PartId id, ControllerId controller) {
    return withPart(std::move(song), id, [&](Part& part) { part.recipe.controllers.erase(controller); });
}

Song dropController(Song song, PartId id, ControllerId controller) {
    if (controller < 0 || controller > pressureId) return song;
    return withPart(std::move(song), id, [&](Part& part) {
        part.recipe.controllers[controller] = {true, 0};
    });
}

Song thinController(Song song, PartId id, ControllerId controller, int tolerance) {
    if (!canThin(controller)) return song;
    const int most = controller == pitchBendId ? 4096 : 32;
    return withPart(std::move(song), id, [&](Part& part) {
        part.recipe.controllers[controller] = {false, std::clamp(tolerance, 0, most)};
    });
}

Song makeDrums(Song song, PartId id) {
    return withPart(std::move(song), id, [](Part& part) {
        if (part.source.drums) return;
        part.source.drums = true;
        part.source.channel = drumChannel;
        part.sound.followsPrograms = false; // its programs were meant for a pitched sound
        part.sound.programGiven = Program{0};
        part.sound.chosen.reset();
        part.sound.settings = {};
    });
}

Song makePitched(Song song, PartId id) {
    const PortChannel free = freeChannel(song);
    return withPart(std::move(song), id, [&](Part& part) {
        if (!part.source.drums) return;
        part.source.drums = false;
        part.sound.chosen.reset();
        part.sound.settings = {};
        if (!part.sound.followsPrograms && part.sound.programGiven == Program{0}) { // as makeDrums() left it
            part.sound.followsPrograms = true;
            part.sound.programGiven.reset();
        }
        if (part.source.channel != drumChannel) return;
        part.source.port = free.port;
        part.source.channel = free.channel;
    });
}

Song separateChannels(Song song) {
    std::map<std::pair<int, int>, Ask> first;
    for (std::size_t i = 0; i < song.parts.size(); ++i) {
        Part& part = song.parts[i];
        if (part.aside || part.source.drums) continue;
        const Ask ask = asksOf(song, part).front();
        const auto [at, fresh] = first.try_emplace({part.source.port, part.source.channel.value}, ask);
        if (fresh || at->second.sameAs(ask)) continue;
        const PortChannel free = freeChannel(song);
        part.source.port = free.port;
        part.source.channel = free.channel;
        first.try_emplace({free.port, free.channel.value}, ask);
    }
    return song;
}

Song giveDrumChannel(Song song, PartId id) {
    const auto taken = [&](int port) {
        return std::any_of(song.parts.begin(), song.parts.end(), [&](const Part& p) {
            return p.source.port == port && p.source.channel == drumChannel;
        });
    };
    int port = 0;
    while (port < 127 && taken(port)) ++port;
    return withPart(std::move(song), id, [&](Part& part) {
        if (!part.source.drums) return;
        part.source.port = port;
        part.source.channel = drumChannel;
    });
}

Song setRole(Song song, PartId id, Role role) {
    return withPart(std::move(song), id, [&](Part& part) { part.mix.role = role; });
}

Song putInFront(Song song, PartId id) { return withRoles(std::move(song), id, Role::Lead, Role::Back); }
Song onlyPart(Song song, PartId id) { return withRoles(std::move(song), id, Role::Lead, Role::Off); }
Song allBut(Song song, PartId id) { return withRoles(std::move(song), id, Role::Off, Role::Back); }
Song everyone(Song song) { return withRoles(std::move(song), 0, Role::Back, Role::Back); }

Song setBackLevel(Song song, double db) {
    song.backDb = std::clamp(db, -40.0, 0.0);
    return song;
}

Song setRoom(Song song, double room) {
    song.room = std::clamp(room, 0.0, 1.0);
    return song;
}

Song setKeyShift(Song song, int semitones) {
    song.keyShift = std::clamp(semitones, -24, 24);
    return song;
}

Song settle(Song song, const std::string& snagKey) {
    song.settled.insert(snagKey);
    return song;
}

} // namespace cobbleway::edits
