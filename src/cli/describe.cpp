#include "cli/describe.h"

#include "midi/devicemessages.h"
#include "midi/gm.h"
#include "song/derived.h"
#include "song/heard/lyrics.h"
#include "song/heard/realise.h"

#include <cmath>
#include <cstdio>

namespace cobbleway::cli {
namespace {

Json orNull(const std::optional<int>& value) { return value ? Json(*value) : Json(nullptr); }

Json partJson(const Song& song, const Part& part, Derived& derived, int index) {
    const auto kept = derived.facts(song, part);
    const PartFacts& facts = *kept;
    const auto asks = asksOf(song, part);
    const Ask& ask = asks.front();
    Json programs = Json::array();
    for (const Program program : programsOf(asks)) programs.push_back(program.value + 1);
    return {{"index", index},
            {"name", part.name},
            {"track", part.source.track + 1},
            {"port", part.source.port},
            {"channel", part.source.channel.value + 1},
            {"drums", part.source.drums},
            {"notes", facts.notes},
            {"lowest", facts.notes ? Json(facts.lowest.value) : Json(nullptr)},
            {"highest", facts.notes ? Json(facts.highest.value) : Json(nullptr)},
            {"bank_msb", orNull(ask.bankMsb)},
            {"bank_lsb", orNull(ask.bankLsb)},
            {"program", ask.program ? Json(ask.program->value + 1) : Json(nullptr)},
            {"programs", programs}};
}

std::string line(const char* format, auto... values) {
    const int length = std::snprintf(nullptr, 0, format, values...);
    std::string text(static_cast<std::size_t>(length) + 1, '\0');
    std::snprintf(text.data(), text.size(), format, values...);
    text.back() = '\n';
    return text;
}

} // namespace

Json messageJson(const Message& message) {
    if (message.id == "verbatim") return std::get<std::string>(message.with.front().value);
    Json with = Json::object();
    for (const auto& [name, value] : message.with) {
        if (const auto* number = std::get_if<std::int64_t>(&value)) with[name] = *number;
        if (const auto* text = std::get_if<std::string>(&value)) with[name] = *text;
        const auto* list = std::get_if<std::vector<Message>>(&value);
        for (std::size_t i = 0; list && i < list->size(); ++i) with[name].push_back(messageJson((*list)[i]));
    }
    return {{"id", message.id}, {"with", with}};
}

std::string timeText(double seconds) {
    const int whole = static_cast<int>(seconds);
    std::string text = line("%d:%02d", whole / 60, whole % 60);
    text.pop_back();
    return text;
}

Json sectionsJson(const Song& song) {
    Json all = Json::array();
    for (const Section& section : song.sections) {
        const int first = song.tempo->position(section.start).bar;
        // A section that ends at a bar line ends with the bar before it.
        const int last = song.tempo->position(std::max(section.start, section.end - 1)).bar;
        all.push_back({{"name", section.name},
                       {"first_bar", first},
                       {"last_bar", last},
                       {"start_seconds", song.tempo->seconds(section.start)},
                       {"end_seconds", song.tempo->seconds(section.end)}});
    }
    return all;
}

std::string sectionsText(const Json& sections) {
    std::string text;
    for (const Json& s : sections)
        text += line("%4d–%-4d %6s–%-6s %s", s["first_bar"].get<int>(), s["last_bar"].get<int>(),
                     timeText(s["start_seconds"].get<double>()).c_str(),
                     timeText(s["end_seconds"].get<double>()).c_str(), s["name"].get<std::string>().c_str());
    return text;
}

Json inspectJson(const std::string& file, const Song& song, const Catalogue& catalogue) {
    Json j = {{"file", file}, {"type", song.source->midi.type}};
    const Division& division = song.source->midi.division;
    if (division.isSmpte())
        j["smpte"] = {{"frames_per_second", division.framesPerSecond},
                      {"ticks_per_frame", division.ticksPerFrame}};
    else
        j["ticks_per_quarter"] = division.ticksPerQuarter;
    j["duration_seconds"] = song.seconds();
    j["bars"] = song.bars();
    j["dialect"] = dialectName(song.dialect);
    j["first_tempo_bpm"] = song.tempo->bpm(0);
    j["parts"] = Json::array();
    Derived derived;
    std::map<PartId, int> numbers;
    for (std::size_t i = 0; i < song.parts.size(); ++i) {
        const int number = numbers[song.parts[i].id] = static_cast<int>(i) + 1;
        j["parts"].push_back(partJson(song, song.parts[i], derived, number));
    }
    j["damage"] = Json::array();
    for (const Damage& d : song.source->damage)
        j["damage"].push_back({{"offset", d.offset},
                               {"track", d.track ? Json(d.track) : Json(nullptr)},
                               {"what", inWords(d.what)},
                               {"said", messageJson(d.what)}});
    j["encoding"] = song.encoding;
    j["device_messages"] = Json::array();
    for (const auto& [m, times] : deviceMessageKinds(song.source->midi))
        j["device_messages"].push_back({{"track", m.track + 1},
                                        {"tick", m.tick},
                                        {"what", inWords(m.what)},
                                        {"followed", m.followed},
                                        {"times", times}});
    j["lyrics"] = Json::array();
    for (const LyricLine& words : *derived.lyrics(song)) j["lyrics"].push_back(words.text);
    j["snags"] = Json::array();
    for (const Snag& snag : *derived.snags(song, catalogue))
        j["snags"].push_back({{"kind", snag.kind},
                              {"asked", snag.asked},
                              {"part", snag.part ? Json(numbers[snag.part]) : Json(nullptr)},
                              {"message", inWords(snag.what) + " " + inWords(snag.why)},
                              {"said", {messageJson(snag.what), messageJson(snag.why)}}});
    return j;
}

std::string inspectText(const Json& j) {
    std::string text = j["file"].get<std::string>() + "\n";
    text += line("  type %d · %s · %d bars · %.1f BPM · %s", j["type"].get<int>(),
                 timeText(j["duration_seconds"].get<double>()).c_str(), j["bars"].get<int>(),
                 j["first_tempo_bpm"].get<double>(), j["dialect"].get<std::string>().c_str());
    for (const Json& p : j["parts"]) {
        const bool notes = !p["lowest"].is_null();
        const std::string range = notes ? keyName(Key{p["lowest"].get<std::uint8_t>()}) + "–" +
                                              keyName(Key{p["highest"].get<std::uint8_t>()})
                                        : "–";
        const std::string program =
            p["program"].is_null() ? "no program" : std::to_string(p["program"].get<int>());
        text += line("  %3d  %-28s track %d  channel %-2d  %6d notes  %-8s %s%s", p["index"].get<int>(),
                     p["name"].get<std::string>().c_str(), p["track"].get<int>(), p["channel"].get<int>(),
                     p["notes"].get<int>(), range.c_str(),
                     p["drums"].get<bool>() ? "drums, kit " : "program ", program.c_str());
    }
    for (const Json& d : j["damage"])
        text += line("  fixed at byte %lld: %s", d["offset"].get<long long>(),
                     d["what"].get<std::string>().c_str());
    if (!j["lyrics"].empty())
        text += line("  words: %d lines, “%s”", static_cast<int>(j["lyrics"].size()),
                     j["lyrics"][0].get<std::string>().c_str());
    for (const Json& m : j["device_messages"])
        text += line("  device message: %s%s%s", m["what"].get<std::string>().c_str(),
                     m["followed"].get<bool>() ? "" : " (ignored)",
                     m["times"] == 1 ? "" : (", " + m["times"].dump() + " times").c_str());
    for (const Json& s : j["snags"])
        text += line(s["asked"].get<bool>() ? "  snag: %s" : "  good to know: %s",
                     s["message"].get<std::string>().c_str());
    return text;
}

namespace {

Json soundJson(const SoundRef& sound, const Catalogue& catalogue) {
    const SoundFont* font = catalogue.font(sound.font);
    return {{"font", font ? font->name : sound.font},
            {"bank", sound.bank},
            {"program", sound.program},
            {"name", sound.name}};
}

} // namespace

Json matchJson(const Song& song, const Catalogue& catalogue, bool all) {
    Json parts = Json::array();
    const auto matches = matchSong(song, catalogue);
    for (std::size_t i = 0; i < matches.size(); ++i) {
        const Match& match = matches[i].first();
        parts.push_back({{"index", i + 1},
                         {"name", song.parts[i].name},
                         {"sound", match.sound ? soundJson(*match.sound, catalogue) : Json(nullptr)},
                         {"match", howName(match.how)},
                         {"why", inWords(match.why)},
                         {"said", messageJson(match.why)}});
        if (!all) continue;
        Json ranked = Json::array();
        for (const RankedSound& choice : rankedSounds(song, song.parts[i], catalogue))
            ranked.push_back({{"sound", soundJson(choice.sound, catalogue)},
                              {"points", choice.points},
                              {"why", inWords(choice.why)},
                              {"said", messageJson(choice.why)}});
        parts.back()["ranked"] = ranked;
    }
    return parts;
}

std::string matchText(const Json& parts) {
    std::string text;
    for (const Json& p : parts) {
        const Json& sound = p["sound"];
        const std::string plays = sound.is_null() ? "–"
                                                  : sound["name"].get<std::string>() + " " +
                                                        std::to_string(sound["bank"].get<int>()) + ":" +
                                                        std::to_string(sound["program"].get<int>());
        text +=
            line("%3d  %-28s %-8s  %-32s %s", p["index"].get<int>(), p["name"].get<std::string>().c_str(),
                 p["match"].get<std::string>().c_str(), plays.c_str(), p["why"].get<std::string>().c_str());
        if (!p.contains("ranked")) continue;
        for (const Json& ranked : p["ranked"])
            text += line("     %5.1f  %-32s %s", ranked["points"].get<double>(),
                         ranked["sound"]["name"].get<std::string>().c_str(),
                         ranked["why"].get<std::string>().c_str());
    }
    return text;
}

Json fontKeysJson(const SoundFont& font) {
    Json kits = Json::array();
    for (const Preset& preset : font.presets) {
        if (!preset.isKit()) continue;
        Json keys = Json::array();
        for (int key = 0; key < 128; ++key)
            if (const auto sound = soundOn(font, preset, Key{static_cast<std::uint8_t>(key)}))
                keys.push_back({{"key", key},
                                {"name", keySoundName(*sound)},
                                {"sample", sound->sample},
                                {"instrument", sound->instrument}});
        kits.push_back({{"program", preset.program}, {"name", preset.name}, {"keys", keys}});
    }
    return kits;
}

std::string fontKeysText(const Json& kits) {
    std::string text;
    for (const Json& kit : kits) {
        text += line("128:%-3d  %s", kit["program"].get<int>(), kit["name"].get<std::string>().c_str());
        for (const Json& key : kit["keys"])
            text += line("    %3d  %-24s (%s)", key["key"].get<int>(), key["name"].get<std::string>().c_str(),
                         key["instrument"].get<std::string>().c_str());
    }
    return text;
}

Json instrumentsJson(const PluginScan& scan) {
    Json list = Json::array();
    const auto add = [&](const PluginInfo& plugin, const char* kind, const std::string& why) {
        list.push_back({{"uri", plugin.uri},
                        {"name", plugin.name},
                        {"maker", plugin.maker},
                        {"kind", kind},
                        {"state", why.empty() ? "ready" : "set aside"},
                        {"why", why}});
    };
    const auto kindOf = [](const PluginInfo& plugin) { return plugin.instrument ? "instrument" : "effect"; };
    for (const PluginInfo& plugin : scan.usable) add(plugin, kindOf(plugin), "");
    for (const PluginSetAside& aside : scan.setAside)
        add(aside.plugin, aside.bundle.empty() ? kindOf(aside.plugin) : "unknown", inWords(aside.why));
    return list;
}

std::string instrumentsText(const Json& list) {
    std::string text;
    for (const Json& p : list)
        text += line("%-10s  %-10s  %-28s %s %s", p["kind"].get<std::string>().c_str(),
                     p["state"].get<std::string>().c_str(), p["name"].get<std::string>().c_str(),
                     p["uri"].get<std::string>().c_str(), p["why"].get<std::string>().c_str());
    return text;
}

Json fontJson(const SoundFont& font) {
    Json presets = Json::array();
    for (const Preset& preset : font.presets) {
        Json ranges = Json::array();
        for (const KeyRange& range : preset.ranges) ranges.push_back({range.lowest, range.highest});
        presets.push_back(
            {{"bank", preset.bank}, {"program", preset.program}, {"name", preset.name}, {"ranges", ranges}});
    }
    return presets;
}

std::string fontText(const SoundFont& font) {
    std::string text = font.name + "  (" + std::to_string(font.presets.size()) + " sounds)\n";
    for (const Preset& preset : font.presets) {
        std::string ranges;
        for (const KeyRange& range : preset.ranges)
            ranges += (ranges.empty() ? "" : ", ") + keyName(Key{static_cast<std::uint8_t>(range.lowest)}) +
                      "–" + keyName(Key{static_cast<std::uint8_t>(range.highest)});
        text +=
            line("  %3d:%-3d  %-24s %s", preset.bank, preset.program, preset.name.c_str(), ranges.c_str());
    }
    return text;
}

} // namespace cobbleway::cli
