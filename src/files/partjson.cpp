#include "files/partjson.h"

#include "files/base64.h"
#include "midi/text.h"
#include "song/model/levels.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace cobbleway {

const char* roleName(Role role) { return role == Role::Lead ? "lead" : (role == Role::Off ? "off" : "back"); }

Role roleNamed(const std::string& name) {
    return name == "lead" ? Role::Lead : (name == "off" ? Role::Off : Role::Back);
}

namespace {

using nlohmann::json;

json shapeJson(const VelocityShape& shape) {
    return {{"scale", shape.scale}, {"offset", shape.offset}, {"compress", shape.compress}};
}

VelocityShape shapeFrom(const json& j) {
    return {std::clamp(j.at("scale").get<double>(), 0.1, 4.0),
            std::clamp(j.at("offset").get<int>(), -126, 126),
            std::clamp(j.at("compress").get<double>(), 0.0, 1.0)};
}

json refJson(const SoundRef& sound) {
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

SoundRef refFrom(const json& j) {
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

/// JSON has no number that is not one: such a control stays as the plug-in has it.
json settingsJson(const PluginSettings& settings) {
    json j = json::object();
    for (const auto& [symbol, value] : settings.controls)
        if (std::isfinite(value)) j["controls"][symbol] = value;
    for (const auto& [uri, path] : settings.files) j["files"][uri] = path;
    if (!settings.preset.empty()) j["preset"] = settings.preset;
    if (!settings.state.empty()) j["state"] = settings.state;
    return j;
}

PluginSettings settingsFrom(const json& j) {
    PluginSettings settings;
    if (j.contains("controls"))
        for (const auto& [symbol, value] : j["controls"].items())
            if (value.is_number() && std::isfinite(value.get<float>()))
                settings.controls[symbol] = value.get<float>();
    if (j.contains("files"))
        for (const auto& [uri, path] : j["files"].items())
            if (path.is_string()) settings.files[uri] = path.get<std::string>();
    settings.preset = j.value("preset", "");
    settings.state = j.value("state", "");
    return settings;
}

KeyRange rangeFrom(const json& j) {
    const int lowest = std::clamp(j.at(0).get<int>(), 0, 127);
    return {lowest, std::clamp(j.at(1).get<int>(), lowest, 127)};
}

void put(std::vector<std::uint8_t>& bytes, std::uint64_t value) { // LEB128
    for (; value >= 0x80; value >>= 7) bytes.push_back(static_cast<std::uint8_t>(value | 0x80));
    bytes.push_back(static_cast<std::uint8_t>(value));
}

std::optional<std::uint64_t> take(std::span<const std::uint8_t>& bytes) {
    std::uint64_t value = 0;
    for (unsigned shift = 0; shift < 63 && !bytes.empty(); shift += 7) {
        const std::uint8_t byte = bytes.front();
        bytes = bytes.subspan(1);
        value |= std::uint64_t{byte & 0x7FU} << shift;
        if (!(byte & 0x80)) return value;
    }
    return std::nullopt;
}

/// A run of events of one track.
struct Run {
    std::uint32_t track = 0, first = 0, count = 0;
};

std::vector<Run> runsOf(const EventRefs& refs) {
    std::vector<Run> runs;
    for (const EventRef ref : refs) {
        const bool goesOn = !runs.empty() && runs.back().track == ref.track &&
                            ref.index == runs.back().first + runs.back().count;
        if (goesOn)
            ++runs.back().count;
        else
            runs.push_back({ref.track, ref.index, 1});
    }
    return runs;
}

/// Gathers events that a song has, each once.
class Gatherer {
  public:
    explicit Gatherer(const SongEvents& events) : m_events(events) {}
    void add(std::uint32_t track, std::uint64_t first, std::uint64_t count) {
        const std::uint64_t there = sizeOf(track);
        if (first >= there) return;
        auto& seen = m_seen[track];
        if (seen.empty()) seen.assign(there, false);
        const std::uint64_t end = count < there - first ? first + count : there;
        for (std::uint64_t i = first; i < end; ++i) {
            if (seen[i]) continue;
            seen[i] = true;
            m_refs.push_back({track, static_cast<std::uint32_t>(i)});
        }
    }
    std::vector<EventRef> inOrder() {
        std::stable_sort(m_refs.begin(), m_refs.end(),
                         [this](EventRef a, EventRef b) { return m_events.tickOf(a) < m_events.tickOf(b); });
        return std::move(m_refs);
    }

  private:
    [[nodiscard]] std::uint64_t sizeOf(std::uint32_t track) const {
        if (track == madeTrack) return m_events.made.size();
        const auto& tracks = m_events.source->midi.tracks;
        return track < tracks.size() ? tracks[track].events.size() : 0;
    }
    const SongEvents& m_events;
    std::map<std::uint32_t, std::vector<bool>> m_seen;
    std::vector<EventRef> m_refs;
};

} // namespace

std::string eventNames(const EventRefs& refs) {
    const std::vector<Run> runs = runsOf(refs);
    std::vector<std::uint8_t> bytes;
    std::map<std::uint32_t, std::int64_t> ends;
    for (std::size_t i = 0; i < runs.size();) {
        std::size_t count = 1;
        while (i + count < runs.size() && runs[i + count].track == runs[i].track) ++count;
        put(bytes, runs[i].track == madeTrack ? 0 : std::uint64_t{runs[i].track} + 1);
        put(bytes, count);
        std::int64_t& end = ends[runs[i].track];
        for (; count > 0; --count, ++i) {
            const std::int64_t step = std::int64_t{runs[i].first} - end;
            put(bytes,
                step >= 0 ? static_cast<std::uint64_t>(step) * 2 : static_cast<std::uint64_t>(-step) * 2 + 1);
            put(bytes, runs[i].count);
            end = std::int64_t{runs[i].first} + runs[i].count;
        }
    }
    return base64(bytes);
}

std::optional<std::vector<EventRef>> eventsNamed(std::string_view text, const SongEvents& events) {
    const auto decoded = fromBase64(text);
    if (!decoded) return std::nullopt;
    std::span<const std::uint8_t> bytes(*decoded);
    std::map<std::uint32_t, std::int64_t> ends;
    Gatherer gatherer(events);
    while (!bytes.empty()) {
        const auto track = take(bytes), runs = take(bytes);
        if (!track || !runs || *track > 0xFFFFFFFF) return std::nullopt;
        const auto number = *track == 0 ? madeTrack : static_cast<std::uint32_t>(*track - 1);
        std::int64_t& end = ends[number];
        for (std::uint64_t i = 0; i < *runs; ++i) {
            const auto step = take(bytes), count = take(bytes);
            if (!step || !count || *step > 0x1FFFFFFFF || *count > 0xFFFFFFFF) return std::nullopt;
            const auto far = static_cast<std::int64_t>(*step / 2);
            const std::int64_t first = end + (*step % 2 ? -far : far);
            if (first < 0) return std::nullopt;
            gatherer.add(number, static_cast<std::uint64_t>(first), *count);
            end = first + static_cast<std::int64_t>(*count);
        }
    }
    return gatherer.inOrder();
}

std::vector<EventRef> eventsInRuns(const json& j, const SongEvents& events) {
    Gatherer gatherer(events);
    for (const json& run : j) {
        const auto track = run.at(0).get<std::int64_t>();
        if (track > 0xFFFFFFFE) continue;
        gatherer.add(track < 0 ? madeTrack : static_cast<std::uint32_t>(track),
                     run.at(1).get<std::uint64_t>(), run.at(2).get<std::uint64_t>());
    }
    return gatherer.inOrder();
}

// A field that one of the values gets does not compile here until it is written.

std::optional<std::uint8_t> keyFrom(const json& j) {
    const int key = j.get<int>();
    return key < 0 || key > 127 ? std::nullopt : std::optional(static_cast<std::uint8_t>(key));
}

json identityJson(const PartIdentity& identity) {
    const auto& [id, name, nameGiven, colour, aside, keyNames] = identity;
    json j = {{"id", id}, {"name", name}, {"nameGiven", nameGiven}, {"colour", colour}, {"aside", aside}};
    for (const auto& [key, drum] : keyNames) j["keyNames"].push_back({{"key", key}, {"name", drum}});
    return j;
}

PartIdentity identityFrom(const json& j) {
    PartIdentity identity;
    identity.id = j.at("id").get<int>();
    identity.name = validUtf8(j.at("name").get<std::string>());
    identity.nameGiven = j.at("nameGiven").get<bool>();
    identity.colour = std::clamp(j.at("colour").get<int>(), 0, 11);
    identity.aside = j.value("aside", false);
    if (j.contains("keyNames"))
        for (const json& k : j["keyNames"])
            if (const auto key = keyFrom(k.at("key")))
                identity.keyNames[*key] = validUtf8(k.at("name").get<std::string>());
    return identity;
}

json sourceJson(const PartSource& source) {
    const auto& [events, track, port, channel, drums] = source;
    return {{"events", eventNames(*events)},
            {"track", track},
            {"port", port},
            {"channel", channel.value},
            {"drums", drums}};
}

PartSource sourceFrom(const json& j, const SongEvents& events) {
    PartSource source;
    const auto tracks = static_cast<int>(events.source->midi.tracks.size());
    source.track = std::clamp(j.at("track").get<int>(), 0, std::max(0, tracks - 1));
    source.port = std::clamp(j.at("port").get<int>(), 0, 127);
    source.channel = Channel{static_cast<std::uint8_t>(j.at("channel").get<int>() & 0x0F)};
    source.drums = j.at("drums").get<bool>();
    const json& named = j.at("events");
    if (named.is_string())
        source.events = Shared<EventRefs>(
            eventsNamed(named.get_ref<const std::string&>(), events).value_or(std::vector<EventRef>{}));
    else
        source.events = Shared<EventRefs>(eventsInRuns(named, events));
    return source;
}

json recipeJson(const PartRecipe& recipe) {
    const auto& [octaves, semitones, folded, controllers, velocity, drumMap, hitLength, unisons] = recipe;
    json j = json::object();
    if (octaves) j["octaves"] = octaves;
    if (semitones) j["semitones"] = semitones;
    if (folded) j["folded"] = {folded->lowest, folded->highest};
    for (const auto& [id, plan] : controllers)
        j["controllers"].push_back({{"controller", id}, {"drop", plan.drop}, {"tolerance", plan.tolerance}});
    if (velocity != VelocityShape{}) j["velocity"] = shapeJson(velocity);
    for (const auto& [key, plan] : drumMap) {
        const auto& [target, trim, off] = plan;
        json drum = {{"key", key}};
        if (target) drum["target"] = target->value;
        if (trim != VelocityShape{}) drum["trim"] = shapeJson(trim);
        if (off) drum["off"] = true;
        j["drumMap"].push_back(std::move(drum));
    }
    if (hitLength) j["hitLength"] = hitLength;
    if (unisons != Unisons::KeepBoth) j["unisons"] = unisons == Unisons::Cut ? "cut" : "one";
    return j;
}

DrumPlan drumPlanFrom(const json& j) {
    DrumPlan plan;
    if (j.contains("target"))
        if (const auto key = keyFrom(j["target"])) plan.target = Key{*key};
    if (j.contains("trim")) plan.trim = shapeFrom(j["trim"]);
    plan.off = j.value("off", false);
    return plan;
}

PartRecipe recipeFrom(const json& j) {
    PartRecipe recipe;
    recipe.octaves = std::clamp(j.value("octaves", 0), -5, 5);
    recipe.semitones = std::clamp(j.value("semitones", 0), -60, 60);
    if (j.contains("folded")) recipe.folded = rangeFrom(j["folded"]);
    if (j.contains("droppedControllers")) // version 1
        for (const int controller : j["droppedControllers"].get<std::vector<int>>())
            if (controller >= 0 && controller < 128) recipe.controllers[controller] = {true, 0};
    if (j.contains("controllers"))
        for (const json& c : j["controllers"])
            if (const int id = c.at("controller").get<int>(); id >= 0 && id <= pressureId)
                recipe.controllers[id] = {c.at("drop").get<bool>(),
                                          std::clamp(c.at("tolerance").get<int>(), 0, 4096)};
    if (j.contains("velocity")) recipe.velocity = shapeFrom(j["velocity"]);
    if (j.contains("keyVelocity")) // up to version 4
        for (const json& k : j["keyVelocity"])
            if (const auto key = keyFrom(k.at("key"))) recipe.drumMap[*key].trim = shapeFrom(k);
    if (j.contains("drumMap"))
        for (const json& d : j["drumMap"])
            if (const auto key = keyFrom(d.at("key"))) recipe.drumMap[*key] = drumPlanFrom(d);
    if (j.contains("hitLength")) recipe.hitLength = tickFrom(j["hitLength"]);
    const auto unisons = j.value("unisons", "both");
    recipe.unisons =
        unisons == "cut" ? Unisons::Cut : (unisons == "one" ? Unisons::KeepOne : Unisons::KeepBoth);
    return recipe;
}

json soundJson(const PartSound& sound) {
    const auto& [chosen, settings, stretches, layers, programGiven, followsPrograms] = sound;
    json j = json::object();
    if (chosen) j["chosen"] = refJson(*chosen);
    if (settings != PluginSettings{}) j["settings"] = settingsJson(settings);
    for (const SoundStretch& s : stretches)
        j["stretches"].push_back({{"start", s.start}, {"end", s.end}, {"sound", refJson(s.sound)}});
    for (const Layer& layer : layers)
        j["layers"].push_back({{"sound", refJson(layer.sound)},
                               {"settings", settingsJson(layer.settings)},
                               {"levelDb", layer.levelDb},
                               {"octaves", layer.octaves},
                               {"keys", {layer.keys.lowest, layer.keys.highest}}});
    if (programGiven) j["programGiven"] = programGiven->value;
    if (!followsPrograms) j["followsPrograms"] = false;
    return j;
}

PartSound soundFrom(const json& j) {
    PartSound sound;
    if (j.contains("chosen")) sound.chosen = refFrom(j["chosen"]);
    if (j.contains("settings")) sound.settings = settingsFrom(j["settings"]);
    if (j.contains("stretches"))
        for (const json& s : j["stretches"]) {
            const SoundStretch stretch{tickFrom(s.at("start")), tickFrom(s.at("end")),
                                       refFrom(s.at("sound"))};
            const Tick free = sound.stretches.empty() ? 0 : sound.stretches.back().end;
            if (stretch.start >= free && stretch.end > stretch.start) sound.stretches.push_back(stretch);
        }
    if (j.contains("layers"))
        for (const json& l : j["layers"])
            if (sound.layers.size() < mostLayers)
                sound.layers.push_back(
                    {refFrom(l.at("sound")), settingsFrom(l.at("settings")),
                     std::clamp(l.at("levelDb").get<double>(), lowestLevelDb, highestLevelDb),
                     std::clamp(l.at("octaves").get<int>(), -4, 4), rangeFrom(l.at("keys"))});
    if (j.contains("programGiven"))
        sound.programGiven = Program{static_cast<std::uint8_t>(j["programGiven"].get<int>() & 0x7F)};
    sound.followsPrograms = j.value("followsPrograms", true);
    return sound;
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

json mixJson(const PartMix& mix) {
    const auto& [levelDb, pan, room, roomBeforeLevel, role, muted, solo, effects] = mix;
    json j = json::object();
    if (levelDb != 0) j["levelDb"] = levelDb;
    if (pan != 0) j["pan"] = pan;
    if (room != 1) j["room"] = room;
    if (roomBeforeLevel) j["roomBeforeLevel"] = true;
    if (role != Role::Back) j["role"] = roleName(role);
    if (muted) j["muted"] = true;
    if (solo) j["solo"] = true;
    if (!effects.empty()) j["effects"] = effectsJson(effects);
    return j;
}

PartMix mixFrom(const json& j) {
    PartMix mix;
    mix.levelDb = std::clamp(j.value("levelDb", 0.0), lowestLevelDb, highestLevelDb);
    mix.pan = std::clamp(j.value("pan", 0.0), -1.0, 1.0);
    mix.room = std::clamp(j.value("room", 1.0), 0.0, 2.0);
    mix.roomBeforeLevel = j.value("roomBeforeLevel", false);
    mix.role = roleNamed(j.value("role", "back"));
    mix.muted = j.value("muted", false);
    mix.solo = j.value("solo", false);
    if (j.contains("effects")) mix.effects = effectsFrom(j["effects"]);
    return mix;
}

} // namespace cobbleway
