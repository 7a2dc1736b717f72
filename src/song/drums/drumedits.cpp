#include "song/drums/drumedits.h"

#include "song/match/drumlikeness.h"
#include "song/shape/edits.h"
#include "song/shape/join.h"
#include "song/shape/splits.h"

#include <algorithm>
#include <set>

namespace cobbleway {
namespace {

constexpr std::size_t longestName = 64; // characters

/// The name without blanks around it, at most so many characters of UTF-8.
std::string tidy(const std::string& name) {
    const auto first = name.find_first_not_of(" \t\r\n");
    if (first == std::string::npos) return {};
    std::string kept = name.substr(first, name.find_last_not_of(" \t\r\n") - first + 1);
    std::size_t characters = 0;
    for (std::size_t i = 0; i < kept.size(); ++i)
        if ((static_cast<unsigned char>(kept[i]) & 0xC0) != 0x80 && ++characters > longestName) {
            kept.resize(i);
            break;
        }
    return kept;
}

template <class Change> Song withPlans(Song song, PartId id, const std::vector<Key>& keys, Change change) {
    Part* part = song.part(id);
    if (!part) return song;
    for (const Key key : keys) {
        const auto number = static_cast<std::uint8_t>(key.value & 0x7F);
        DrumPlan plan = part->recipe.drumPlan(Key{number});
        change(plan, number);
        if (plan == DrumPlan{})
            part->recipe.drumMap.erase(number);
        else
            part->recipe.drumMap[number] = plan;
    }
    return song;
}

std::set<std::uint8_t> keysUsed(const SongEvents& events, const PartSource& source) {
    std::set<std::uint8_t> keys;
    events.each(*source.events, [&](const Event& event, EventRef) {
        if (event.isNoteOn()) keys.insert(event.data1 & 0x7F);
    });
    return keys;
}

} // namespace

NamedLayout layoutByNames(const SongFrame& song, const Part& part) {
    NamedLayout layout;
    for (const std::uint8_t key : keysUsed(song, part.source)) {
        const auto name = part.keyNames.find(key);
        const auto meant = name == part.keyNames.end() ? std::nullopt : drumMeant(name->second);
        if (!meant || part.recipe.drumPlan(Key{key}).target) continue;
        if (meant->sure && meant->gm.value != key)
            layout.clear[key] = meant->gm;
        else if (!meant->sure && pieceOf(Key{key}) != meant->piece)
            layout.asked.push_back(key);
    }
    return layout;
}

namespace edits {

Song setDrumTarget(Song song, PartId id, const std::vector<Key>& keys, Key target) {
    return withPlans(std::move(song), id, keys, [&](DrumPlan& plan, std::uint8_t key) {
        plan.target = target.value == key || target.value > 127 ? std::nullopt : std::optional(target);
    });
}

Song setDrumTrim(Song song, PartId id, const std::vector<Key>& keys, const VelocityShape& trim) {
    return withPlans(std::move(song), id, keys,
                     [&](DrumPlan& plan, std::uint8_t) { plan.trim = heldShape(trim); });
}

Song setDrumOff(Song song, PartId id, const std::vector<Key>& keys, bool off) {
    return withPlans(std::move(song), id, keys, [&](DrumPlan& plan, std::uint8_t) { plan.off = off; });
}

Song resetDrums(Song song, PartId id, const std::vector<Key>& keys) {
    return withPlans(std::move(song), id, keys, [](DrumPlan& plan, std::uint8_t) { plan = {}; });
}

Song nameDrum(Song song, PartId id, Key key, const std::string& name) {
    Part* part = song.part(id);
    if (!part || key.value > 127) return song;
    const std::string kept = tidy(name);
    if (kept.empty())
        part->keyNames.erase(key.value);
    else
        part->keyNames[key.value] = kept;
    return song;
}

Song nameDrums(Song song, PartId id, const DrumNames& names) {
    for (const auto& [key, name] : names) song = nameDrum(std::move(song), id, Key{key}, name);
    return song;
}

Song playByNames(Song song, PartId id) {
    const Part* part = song.part(id);
    if (!part) return song;
    for (const auto& [key, target] : layoutByNames(song, *part).clear)
        song = setDrumTarget(std::move(song), id, {Key{key}}, target);
    return song;
}

Song fitKit(Song song, PartId id, const std::vector<DrumNote>& notes) {
    for (const DrumNote& note : notes)
        if (note.instead) song = setDrumTarget(std::move(song), id, {note.key}, note.instead->key);
    return song;
}

Song fitKits(Song song, const Catalogue& catalogue) {
    const auto matches = matchSong(song, catalogue);
    for (std::size_t i = 0; i < matches.size(); ++i) {
        const Part part = song.parts[i];
        if (!part.source.drums || part.aside) continue;
        song = fitKit(std::move(song), part.id, drumNotesOf(song, part, matches[i], catalogue));
    }
    return song;
}

Song setHitLength(Song song, PartId id, Tick ticks) {
    if (Part* part = song.part(id)) part->recipe.hitLength = std::clamp<Tick>(ticks, 0, 1'000'000);
    return song;
}

Song drumsBack(Song song, const std::vector<PartId>& ids) {
    std::vector<PartId> known;
    for (const PartId id : ids) {
        Part* part = song.part(id);
        if (!part || std::find(known.begin(), known.end(), id) != known.end()) continue;
        known.push_back(id);
        if (part->source.drums) continue;
        const int octaves = octavesToKit(song, *part);
        const auto used = keysUsed(song, part->source);
        song = makeDrums(std::move(song), id);
        part = song.part(id);
        part->recipe.hitLength = std::max<Tick>(1, song.tempo->quarter() / 4);
        if (octaves != 0)
            for (const std::uint8_t key : used)
                if (const int to = key + 12 * octaves; to >= 0 && to < 128)
                    part->recipe.drumMap[key].target = Key{static_cast<std::uint8_t>(to)};
    }
    return known.size() > 1 ? join(std::move(song), known, {Unisons::KeepOne, true, true}) : song;
}

Song takeOut(Song song, PartId id, const std::vector<std::size_t>& chosen) {
    const Part* part = song.part(id);
    if (!part || chosen.empty()) return song;
    const auto origins = originsOf(song, part->source);
    Split split = splitByOrigin(song, *part);
    const bool all = chosen.size() >= origins.size();
    for (int& group : split.groupOf) {
        const auto origin = static_cast<std::size_t>(group);
        const bool taken = std::find(chosen.begin(), chosen.end(), origin) != chosen.end();
        group = taken ? group + 1 : 0;
    }
    split.names.insert(split.names.begin(), part->name);
    std::set<PartId> before;
    for (const Part& each : song.parts) before.insert(each.id);
    song = edits::split(std::move(song), id, split);
    const Song came = makeSong(song.source, song.encoding);
    for (Part& piece : song.parts) {
        if (before.contains(piece.id) && !(all && piece.id == id)) continue;
        const auto from = originsOf(song, piece.source);
        if (from.empty()) continue;
        const Origins::Origin& origin = from.front().origin;
        const auto was = std::find_if(came.parts.begin(), came.parts.end(), [&](const Part& p) {
            return p.source.track == static_cast<int>(origin.track) && p.source.port == origin.port &&
                   p.source.channel == origin.channel;
        });
        if (was == came.parts.end()) continue;
        piece.source.port = origin.port;
        piece.source.channel = origin.channel;
        piece.source.drums = was->source.drums;
        piece.sound = was->sound;
        piece.recipe = {};
        piece.nameGiven = was->nameGiven;
        piece.name = uniqueName(song, was->name, piece.id);
    }
    return song;
}

Song pieceApart(Song song, PartId id, DrumPiece piece) {
    const Part* part = song.part(id);
    if (!part) return song;
    return split(song, id, splitOffPiece(song, *part, piece));
}

Song pieceBack(Song song, PartId id, PartId piece) {
    return join(std::move(song), {id, piece}, {Unisons::KeepBoth, true, true});
}

} // namespace edits
} // namespace cobbleway
