#include "song/shape/mixes.h"

#include "song/model/levels.h"
#include "song/shape/edits.h"
#include "words/message.h"

#include <algorithm>

namespace cobbleway {
namespace {

auto find(auto& mixes, const std::string& name) {
    return std::find_if(mixes.begin(), mixes.end(), [&](const KeptMix& mix) { return mix.name == name; });
}

KeptMix mixOf(const Song& song, const std::string& name) {
    KeptMix mix{name, {}, song.backDb};
    for (const Part& part : song.parts)
        if (!part.aside) mix.parts[part.id] = {part.mix.role, part.mix.levelDb};
    return mix;
}

bool isNow(const Song& song, const KeptMix& mix) {
    return song.backDb == mix.backDb &&
           std::all_of(song.parts.begin(), song.parts.end(), [&](const Part& part) {
               const auto at = mix.parts.find(part.id);
               return at == mix.parts.end() || at->second == KeptLevel{part.mix.role, part.mix.levelDb};
           });
}

} // namespace

Song wholeBand(Song song) {
    song = edits::everyone(std::move(song));
    for (Part& part : song.parts) part.mix.muted = part.mix.solo = false;
    return song;
}

Message mixStanding(const Song& song) {
    const MixGains gains(song);
    std::vector<const Part*> heard, silent, leading;
    for (const Part& part : song.parts) {
        if (part.aside) continue;
        (gains.of(part) > 0 ? heard : silent).push_back(&part);
        if (part.mix.role == Role::Lead) leading.push_back(&part);
    }
    const auto named = [](const char* id, const Part* part) { return Message{id, {{"part", part->name}}}; };
    if (silent.empty() && leading.empty()) return {};
    if (heard.size() == 1) return named("mix.alone", heard.front());
    if (silent.empty() && leading.size() == 1) return named("mix.front", leading.front());
    if (silent.size() == 1 && leading.empty()) return named("mix.without", silent.front());
    const std::size_t all = heard.size() + silent.size();
    if (leading.size() == 1)
        return {"mix.standing-front",
                {{"part", leading.front()->name}, {"heard", heard.size()}, {"all", all}}};
    return {"mix.standing", {{"heard", heard.size()}, {"all", all}}};
}

std::string mixInUse(const Song& song) {
    const auto at = std::find_if(song.mixes.begin(), song.mixes.end(),
                                 [&](const KeptMix& mix) { return isNow(song, mix); });
    return at == song.mixes.end() ? std::string() : at->name;
}

Song edits::keepMix(Song song, const std::string& name) {
    if (name.empty()) return song;
    const auto at = find(song.mixes, name);
    const KeptMix mix = mixOf(song, name);
    if (at != song.mixes.end())
        *at = mix;
    else
        song.mixes.push_back(mix);
    return song;
}

Song edits::keepMixOfEveryPart(Song song) {
    const auto keep = [&](const Song& as, const std::string& name) {
        if (find(song.mixes, name) == song.mixes.end()) song.mixes.push_back(mixOf(as, name));
    };
    const Song plain = song;
    for (const Part& part : plain.parts) {
        if (part.aside) continue;
        keep(putInFront(plain, part.id), inWords({"mix.front", {{"part", part.name}}}));
        keep(onlyPart(plain, part.id), inWords({"mix.alone", {{"part", part.name}}}));
        keep(allBut(plain, part.id), inWords({"mix.without", {{"part", part.name}}}));
    }
    return song;
}

Song edits::useMix(Song song, const std::string& name) {
    const auto at = find(song.mixes, name);
    if (at == song.mixes.end()) return song;
    const KeptMix mix = *at;
    song.backDb = mix.backDb;
    for (Part& part : song.parts)
        if (const auto kept = mix.parts.find(part.id); kept != mix.parts.end()) {
            part.mix.role = kept->second.role;
            part.mix.levelDb = kept->second.levelDb;
        }
    return song;
}

Song edits::renameMix(Song song, const std::string& name, const std::string& to) {
    const auto at = find(song.mixes, name);
    if (at == song.mixes.end() || to.empty() || to == name) return song;
    std::string free = to;
    for (int number = 2; find(song.mixes, free) != song.mixes.end() && find(song.mixes, free) != at; ++number)
        free = to + " " + std::to_string(number);
    at->name = free;
    return song;
}

Song edits::removeMix(Song song, const std::string& name) {
    std::erase_if(song.mixes, [&](const KeptMix& mix) { return mix.name == name; });
    return song;
}

} // namespace cobbleway
