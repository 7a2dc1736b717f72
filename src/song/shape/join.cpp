#include "song/shape/join.h"

#include "song/heard/controllers.h"
#include "song/heard/notes.h"
#include "song/heard/realise.h"
#include "song/model/asks.h"
#include "song/model/devicestate.h"
#include "song/model/levels.h"

#include <algorithm>
#include <cmath>
#include <functional>
#include <map>
#include <set>
#include <tuple>

namespace cobbleway {
namespace {

/// What a channel has one of. Numbers below 128 are controllers.
using Aspect = int;
constexpr Aspect programAspect = 200, bendAspect = pitchBendId;

Aspect aspectOf(const Event& event) {
    if (event.choosesSound()) return programAspect;
    const ControllerId id = controllerOf(event);
    // Parameter numbers and their data set the bend's range: they go with the bend.
    const bool parameter = id == cc::dataEntryMsb || id == cc::dataEntryLsb || (id >= 96 && id <= 101);
    return parameter ? bendAspect : id;
}

/// What an aspect's event says, as one number that is unlike for unlike things.
int sayingOf(const Event& event) { return event.kind() << 16 | event.data1 << 8 | event.data2; }

/// What is said from a place in a list of events on; positions, not ticks, since at one tick the order
/// counts.
struct Saying {
    std::size_t place = 0;
    int says = -1;
};
using Sayings = std::map<Aspect, std::vector<Saying>>;

Sayings sayingsOf(const Song& song, const EventRefs& refs) {
    Sayings sayings;
    for (std::size_t i = 0; i < refs.size(); ++i) {
        const Event& event = song.event(refs[i]);
        const Aspect aspect = event.isChannel() ? aspectOf(event) : -1;
        if (aspect < 0) continue;
        auto& list = sayings[aspect];
        if (list.empty() || list.back().says != sayingOf(event)) list.push_back({i, sayingOf(event)});
    }
    return sayings;
}

int saidAt(const std::vector<Saying>& list, std::size_t place) {
    const auto after =
        std::partition_point(list.begin(), list.end(), [&](const Saying& s) { return s.place < place; });
    return after == list.begin() ? -1 : (after - 1)->says;
}

/// How many things are said between two positions.
std::ptrdiff_t saidWithin(const std::vector<Saying>& list, std::size_t from, std::size_t to) {
    const auto at = [&](std::size_t place) {
        return std::partition_point(list.begin(), list.end(),
                                    [&](const Saying& s) { return s.place < place; });
    };
    return at(to) - at(from);
}

std::vector<const EventRefs*> eventsOf(const std::vector<const Part*>& parts) {
    std::vector<const EventRefs*> lists;
    for (const Part* part : parts) lists.push_back(&*part->source.events);
    return lists;
}

/// What differs between the sounds of two parts. A field that PartSound gets does not compile here until it
/// is said what joining does about it; so for the mix below.
struct SoundDifference {
    bool main = false;   ///< what plays most of it
    bool layers = false; ///< what plays on top
};

SoundDifference differenceOf(const PartSound& a, const PartSound& b) {
    const auto& [chosen, settings, stretches, layers, programGiven, followsPrograms] = a;
    return {chosen != b.chosen || settings != b.settings || stretches != b.stretches ||
                programGiven != b.programGiven || followsPrograms != b.followsPrograms,
            layers != b.layers};
}

struct MixDifference {
    bool level = false, pan = false, room = false, effects = false;
    bool heard = false; ///< whether it leads, backs or is silent
};

MixDifference differenceOf(const PartMix& a, const PartMix& b) {
    const auto& [levelDb, pan, room, roomBeforeLevel, role, muted, solo, effects] = a;
    return {levelDb != b.levelDb, pan != b.pan, room != b.room || roomBeforeLevel != b.roomBeforeLevel,
            effects != b.effects, role != b.role || muted != b.muted || solo != b.solo};
}

bool isLevel(Aspect aspect) { return aspect == cc::volume || aspect == cc::expression; }

/// Where each event stands in a list.
class EventPositions {
  public:
    explicit EventPositions(const std::vector<EventRef>& refs) {
        m_sorted.reserve(refs.size());
        for (std::size_t i = 0; i < refs.size(); ++i) m_sorted.emplace_back(refs[i], i);
        std::sort(m_sorted.begin(), m_sorted.end());
    }
    [[nodiscard]] std::size_t positionOf(EventRef ref) const {
        return std::lower_bound(m_sorted.begin(), m_sorted.end(), std::pair(ref, std::size_t{0}))->second;
    }

  private:
    std::vector<std::pair<EventRef, std::size_t>> m_sorted;
};

/// The parts and all that is known about what they share.
class Meeting {
  public:
    Meeting(const Song& song, const std::vector<PartId>& ids) : m_song(song) {
        for (const PartId id : ids)
            if (const Part* part = song.part(id);
                part && std::find(m_parts.begin(), m_parts.end(), part) == m_parts.end())
                m_parts.push_back(part);
        if (m_parts.size() < 2) return;
        findClashes();
    }

    [[nodiscard]] const std::vector<const Part*>& parts() const { return m_parts; }
    [[nodiscard]] const std::set<Aspect>& clashing() const { return m_clashing; }
    [[nodiscard]] bool levelsClash() const {
        return m_mix.level || std::any_of(m_clashing.begin(), m_clashing.end(), isLevel);
    }
    [[nodiscard]] bool soundsClash() const { return m_sound.main || m_clashing.contains(programAspect); }
    [[nodiscard]] bool layersClash() const { return m_sound.layers; }
    [[nodiscard]] bool pansClash() const { return m_mix.pan || m_clashing.contains(cc::pan); }
    [[nodiscard]] const MixDifference& mix() const { return m_mix; }
    [[nodiscard]] bool recipesClash() const { return m_recipes; }
    [[nodiscard]] bool drumsClash() const { return m_drums; }

    /// Notes of different parts on one key that start together or overlap.
    [[nodiscard]] int doubled() const {
        struct Struck {
            Tick start, end;
            int key;
            std::size_t part;
        };
        std::vector<Struck> all;
        for (std::size_t p = 0; p < m_parts.size(); ++p)
            for (const PartNote& note : notesOf(m_song, m_parts[p]->source))
                all.push_back(
                    {note.start, note.end,
                     shiftedKey(note.key, shiftOf(m_song.keyShift, m_parts[p]->source, m_parts[p]->recipe))
                         .value,
                     p});
        std::sort(all.begin(), all.end(), [](const Struck& a, const Struck& b) {
            return std::tie(a.key, a.start) < std::tie(b.key, b.start);
        });
        int count = 0;
        for (std::size_t i = 1; i < all.size(); ++i)
            count += all[i].key == all[i - 1].key && all[i].part != all[i - 1].part &&
                     (all[i].start < all[i - 1].end || all[i].start == all[i - 1].start);
        return count;
    }

  private:
    void findClashes() {
        const std::vector<EventRef> all = mergedEvents(m_song, eventsOf(m_parts));
        const Sayings together = sayingsOf(m_song, all);
        const EventPositions positions(all);
        static const std::vector<Saying> nothing;
        for (const Part* part : m_parts) {
            const Sayings own = sayingsOf(m_song, *part->source.events);
            const auto notes = notesOf(m_song, part->source);
            std::vector<std::pair<std::size_t, std::size_t>> there; // of each note, among all
            there.reserve(notes.size());
            for (const PartNote& note : notes)
                there.emplace_back(positions.positionOf((*part->source.events)[note.on]),
                                   note.off == noEvent
                                       ? all.size()
                                       : positions.positionOf((*part->source.events)[note.off]));
            for (const auto& [aspect, said] : together) {
                if (m_clashing.contains(aspect)) continue;
                const auto at = own.find(aspect);
                const auto& mine = at == own.end() ? nothing : at->second;
                for (std::size_t i = 0; i < notes.size(); ++i) {
                    const std::size_t off =
                        notes[i].off == noEvent ? part->source.events->size() : notes[i].off;
                    // A program that changes under a note leaves it as it is (MIDI 1.0).
                    if (saidAt(mine, notes[i].on) == saidAt(said, there[i].first) &&
                        (aspect == programAspect || saidWithin(mine, notes[i].on, off) ==
                                                        saidWithin(said, there[i].first, there[i].second)))
                        continue;
                    m_clashing.insert(aspect);
                    break;
                }
            }
            const SoundDifference sound = differenceOf(part->sound, m_parts.front()->sound);
            const MixDifference mix = differenceOf(part->mix, m_parts.front()->mix);
            m_sound.main |= sound.main;
            m_sound.layers |= sound.layers;
            m_mix.level |= mix.level;
            m_mix.pan |= mix.pan;
            m_mix.room |= mix.room;
            m_mix.effects |= mix.effects;
            m_mix.heard |= mix.heard;
            m_recipes = m_recipes || part->recipe != m_parts.front()->recipe;
            m_drums = m_drums || part->source.drums != m_parts.front()->source.drums;
        }
    }

    const Song& m_song;
    std::vector<const Part*> m_parts;
    std::set<Aspect> m_clashing;
    SoundDifference m_sound;
    MixDifference m_mix;
    bool m_recipes = false, m_drums = false;
};

std::string namesOf(const std::vector<const Part*>& parts, std::size_t from) {
    std::string names;
    for (std::size_t i = from; i < parts.size(); ++i)
        names += (i == from ? "" : (i + 1 == parts.size() ? " and " : ", ")) + parts[i]->name;
    return names;
}

/// The loudness that a part's volume, expression and level give its notes, dB, in order of notesOf().
std::vector<double> loudnessOf(const Song& song, const Part& part) {
    const Sayings sayings = sayingsOf(song, *part.source.events);
    const auto db = [&](std::uint8_t controller, int otherwise, std::size_t place) {
        const auto at = sayings.find(controller);
        const int says =
            at == sayings.end() || part.recipe.drops(controller) ? -1 : saidAt(at->second, place);
        return volumeDb(says < 0 ? otherwise : says & 0x7F);
    };
    std::vector<double> loudness;
    for (const PartNote& note : notesOf(song, part.source))
        loudness.push_back(part.mix.levelDb + db(cc::volume, defaultVolume, note.on) +
                           db(cc::expression, 127, note.on));
    return loudness;
}

/// Adds changed copies of events to a song.
class Maker {
  public:
    explicit Maker(Song& song) : m_song(song) {}
    EventRef make(EventRef from, const Event& event) {
        m_song.made.push_back({event, m_song.trackOf(from)});
        return {madeTrack, static_cast<std::uint32_t>(m_song.made.size() - 1)};
    }

  private:
    Song& m_song;
};

/// The same loudness with volume and expression left out: as velocities (both follow 40·log10, GM developer
/// guidelines).
std::vector<EventRef> withLoudness(const Song& song, const Part& part, double toDb, Maker& maker) {
    std::vector<EventRef> events = *part.source.events;
    const auto notes = notesOf(song, part.source);
    const auto loudness = loudnessOf(song, part);
    for (std::size_t i = 0; i < notes.size(); ++i) {
        const double factor = std::pow(10.0, (loudness[i] - toDb) / 40);
        if (std::abs(factor - 1) < 0.004) continue; // under half a step of velocity
        Event on = song.event(events[notes[i].on]);
        on.data2 = static_cast<std::uint8_t>(std::clamp(std::lround(on.data2 * factor), 1L, 127L));
        events[notes[i].on] = maker.make(events[notes[i].on], on);
    }
    return events;
}

using Placed = std::vector<std::pair<Tick, EventRef>>;

std::vector<EventRef> inOrder(Placed placed) {
    std::stable_sort(placed.begin(), placed.end(),
                     [](const auto& a, const auto& b) { return a.first < b.first; });
    std::vector<EventRef> events;
    events.reserve(placed.size());
    for (const auto& [tick, ref] : placed) events.push_back(ref);
    return events;
}

/// Notes that the pedal holds last until it is let go or their key is struck again.
std::vector<EventRef> withoutPedal(const Song& song, const Part& part, Maker& maker) {
    const auto pedal = controlPoints(song, part.source, cc::sustain);
    const auto notes = notesOf(song, part.source);
    std::vector<Tick> nextOnKey(128, song.end);
    std::map<std::uint32_t, Tick> movedTo; // where an end stands now, by its index
    for (std::size_t i = notes.size(); i-- > 0;) {
        const PartNote& note = notes[i];
        Tick& next = nextOnKey[note.key.value & 0x7FU];
        const auto after = std::upper_bound(pedal.begin(), pedal.end(), note.end,
                                            [](Tick t, const ControlPoint& p) { return t < p.tick; });
        const bool held = after != pedal.begin() && (after - 1)->value >= 64; // MIDI 1.0: 64 and above is on
        const auto up = std::find_if(after, pedal.end(), [](const ControlPoint& p) { return p.value < 64; });
        const Tick end = std::min(up == pedal.end() ? song.end : up->tick, next);
        if (held && note.off != noEvent && end > note.end) movedTo[note.off] = end;
        next = note.start;
    }
    Placed placed;
    std::uint32_t index = 0;
    for (const EventRef ref : *part.source.events) {
        const auto moved = movedTo.find(index++);
        if (moved == movedTo.end()) {
            placed.emplace_back(song.tickOf(ref), ref);
            continue;
        }
        Event off = song.event(ref);
        off.tick = moved->second - (*song.trackStarts)[song.trackOf(ref)];
        placed.emplace_back(moved->second, maker.make(ref, off));
    }
    return inOrder(std::move(placed));
}

void dropAspects(const Song& song, std::vector<EventRef>& events, const std::function<bool(Aspect)>& drops) {
    std::erase_if(events, [&](EventRef ref) {
        const Event& event = song.event(ref);
        return event.isChannel() && aspectOf(event) >= 0 && drops(aspectOf(event));
    });
}

} // namespace

std::vector<EventRef> mergedEvents(const Song& song, const std::vector<const EventRefs*>& lists) {
    struct Entry {
        Tick tick;
        EventRef anchor;
        std::size_t number;
        EventRef ref;
    };
    std::vector<Entry> all;
    for (const EventRefs* list : lists) {
        EventRef anchor{};
        Tick last = -1;
        for (const EventRef ref : *list) {
            const Tick tick = song.tickOf(ref);
            if (!ref.isMade())
                anchor = ref;
            else if (tick != last)
                anchor = {song.trackOf(ref), 0};
            last = tick;
            all.push_back({tick, anchor, all.size(), ref});
        }
    }
    std::sort(all.begin(), all.end(), [](const Entry& a, const Entry& b) {
        const bool madeA = a.ref.isMade(), madeB = b.ref.isMade();
        return std::tie(a.tick, a.anchor, madeA, a.number) < std::tie(b.tick, b.anchor, madeB, b.number);
    });
    std::vector<EventRef> refs;
    std::set<EventRef> seenMade;
    for (const Entry& entry : all) {
        // Equal events of the file stand side by side; made ones may not.
        if (!refs.empty() && refs.back() == entry.ref) continue;
        if (entry.ref.isMade() && !seenMade.insert(entry.ref).second) continue;
        refs.push_back(entry.ref);
    }
    return refs;
}

std::vector<Clash> clashesOf(const Song& song, const std::vector<PartId>& ids, const JoinOptions& options) {
    const Meeting meeting(song, ids);
    std::vector<Clash> clashes;
    if (meeting.parts().size() < 2) return clashes;
    const auto& parts = meeting.parts();
    const std::string first = parts.front()->name;
    const Argument lead("first", first), others("others", namesOf(parts, 1));
    const auto add = [&](Clash::Kind kind, Message what, Message how) {
        clashes.push_back({kind, std::move(what), std::move(how)});
    };
    if (meeting.soundsClash())
        add(Clash::Kind::Program, {"clash.program", {lead, others}}, {"clash.program.how", {lead}});
    if (meeting.levelsClash())
        add(Clash::Kind::Level, {"clash.level"},
            options.levelsIntoVelocities ? Message("clash.level.velocities")
                                         : Message("clash.level.first", {lead}));
    if (meeting.layersClash())
        add(Clash::Kind::Layers, {"clash.layers"},
            {parts.front()->sound.layers.empty() ? "clash.layers.none" : "clash.layers.first", {lead}});
    if (meeting.pansClash()) add(Clash::Kind::Pan, {"clash.pan"}, {"clash.pan.how", {lead}});
    if (meeting.clashing().contains(bendAspect))
        add(Clash::Kind::Bend, {"clash.bend"}, {"clash.bend.how", {lead, others}});
    if (meeting.clashing().contains(cc::sustain))
        add(Clash::Kind::Sustain, {"clash.pedal"},
            options.pedalIntoLengths ? Message("clash.pedal.lengths")
                                     : Message("clash.pedal.first", {lead, others}));
    std::vector<Message> unnamed;
    for (const Aspect aspect : meeting.clashing()) {
        const bool named = aspect == programAspect || aspect == bendAspect || aspect == cc::pan ||
                           aspect == cc::sustain || isLevel(aspect);
        if (!named) unnamed.push_back(Message::verbatim(controllerName(aspect)));
    }
    if (!unnamed.empty())
        add(Clash::Kind::Controllers, {"clash.controllers", {{"controllers", std::move(unnamed)}}},
            {"clash.controllers.how", {lead, others}});
    if (meeting.mix().room) add(Clash::Kind::Room, {"clash.room"}, {"clash.room.how", {lead}});
    if (meeting.mix().effects)
        add(Clash::Kind::Effects, {"clash.effects"},
            {parts.front()->mix.effects.empty() ? "clash.layers.none" : "clash.effects.first", {lead}});
    if (meeting.mix().heard) add(Clash::Kind::Heard, {"clash.heard"}, {"clash.heard.how", {lead}});
    if (meeting.recipesClash()) add(Clash::Kind::Recipe, {"clash.recipe"}, {"clash.recipe.how"});
    if (meeting.drumsClash())
        add(Clash::Kind::Drums, {"clash.drums"},
            {parts[0]->source.drums ? "clash.drums.drums" : "clash.drums.pitched"});
    if (const int doubled = meeting.doubled(); doubled > 0)
        add(Clash::Kind::Doubled, {"clash.doubled", {{"notes", doubled}}},
            {options.unisons == Unisons::KeepBoth  ? "clash.doubled.both"
             : options.unisons == Unisons::KeepOne ? "clash.doubled.one"
                                                   : "clash.doubled.cut"});
    std::set<std::pair<int, int>> channels;
    for (const Part& part : song.parts)
        if (!part.aside &&
            (part.id == parts[0]->id || std::find(ids.begin(), ids.end(), part.id) == ids.end()))
            channels.insert({part.source.port, part.source.channel.value});
    if (channels.size() > 16)
        add(Clash::Kind::Channels, {"clash.channels", {{"channels", channels.size()}}},
            {song.midi.folded ? "clash.channels.folded" : "clash.channels.ports"});
    return clashes;
}

namespace edits {

Song writeInRecipe(Song song, PartId id) {
    Part* at = song.part(id);
    if (!at) return song;
    std::vector<EventRef> origins;
    const std::vector<Event> heard =
        realisedEvents(song, 0, at->source, at->recipe, &origins); // the song's key shift stays a shift
    Maker maker(song);
    Placed placed;
    for (const EventRef ref : *at->source.events)
        if (!song.event(ref).isChannel() && !deviceSettingsAt(song, ref).isWrittenIn())
            placed.emplace_back(song.tickOf(ref), ref);
    for (std::size_t i = 0; i < heard.size(); ++i) {
        const EventRef ref = origins[i];
        const Event& was = song.event(ref);
        Event now = heard[i];
        const Tick tick = now.tick;
        now.status = static_cast<std::uint8_t>(now.kind() | was.channel().value); // its origin stays known
        now.port = was.port;
        const bool same = now.status == was.status && now.data1 == was.data1 && now.data2 == was.data2 &&
                          tick == song.tickOf(ref);
        now.tick = tick - (*song.trackStarts)[song.trackOf(ref)];
        placed.emplace_back(tick, same ? ref : maker.make(ref, now));
    }
    at->source.events = Shared<EventRefs>(inOrder(std::move(placed)));
    std::map<std::uint8_t, std::string> names; // go with the notes
    for (const auto& [key, name] : at->keyNames)
        names.try_emplace(at->recipe.drumPlan(Key{key}).target.value_or(Key{key}).value, name);
    at->keyNames = std::move(names);
    at->recipe = {};
    return song;
}

Song join(Song song, const std::vector<PartId>& ids, const JoinOptions& options) {
    std::vector<PartId> known;
    for (const PartId id : ids)
        if (song.part(id) && std::find(known.begin(), known.end(), id) == known.end()) known.push_back(id);
    if (known.size() < 2) return song;
    if (std::any_of(known.begin(), known.end(),
                    [&](PartId id) { return song.part(id)->recipe != song.part(known[0])->recipe; }))
        for (const PartId id : known) song = writeInRecipe(std::move(song), id);
    const Meeting meeting(song, known);
    const bool doubled = meeting.doubled() > 0;
    const bool levels = meeting.levelsClash() && options.levelsIntoVelocities;
    const bool pedal = meeting.clashing().contains(cc::sustain) && options.pedalIntoLengths;
    const std::set<Aspect>& clashing = meeting.clashing();
    const bool sounds = meeting.soundsClash();
    const Ask firstAsk = asksOf(song, *song.part(known[0])).front();
    std::vector<Part> parts;
    parts.reserve(known.size());
    for (const PartId id : known) parts.push_back(*song.part(id));
    // Everything is brought to the loudness of volume 100 at the first part's level.
    const double toDb = parts[0].mix.levelDb + volumeDb(defaultVolume);
    Song scratch = song; // sees events as they are made
    for (std::size_t i = 0; i < parts.size(); ++i) {
        if (levels) {
            Maker local(scratch);
            parts[i].source.events = Shared<EventRefs>(withLoudness(scratch, parts[i], toDb, local));
        }
        if (pedal) {
            Maker local(scratch);
            parts[i].source.events = Shared<EventRefs>(withoutPedal(scratch, parts[i], local));
        }
        std::vector<EventRef> events = *parts[i].source.events;
        dropAspects(scratch, events, [&](Aspect aspect) {
            if (levels && isLevel(aspect)) return true;
            if (pedal && aspect == cc::sustain) return true;
            return i > 0 && clashing.contains(aspect);
        });
        parts[i].source.events = Shared<EventRefs>(events);
    }
    song.made = scratch.made;
    std::vector<const Part*> pointers;
    pointers.reserve(parts.size());
    for (const Part& part : parts) pointers.push_back(&part);
    Part whole = parts[0];
    whole.source.events = Shared<EventRefs>(mergedEvents(song, eventsOf(pointers)));
    whole.aside = false;
    for (const Part& part : parts) whole.keyNames.insert(part.keyNames.begin(), part.keyNames.end());
    if (sounds && !whole.sound.chosen && whole.sound.followsPrograms && asksOf(song, whole).size() > 1 &&
        asksOf(song, parts[0]).size() == 1) {
        whole.sound.followsPrograms = false; // programs of others that reach into it count for nothing
        if (firstAsk.program) whole.sound.programGiven = firstAsk.program;
    }
    if (doubled && options.unisons != Unisons::KeepBoth) whole.recipe.unisons = options.unisons;
    std::erase_if(song.parts, [&](const Part& p) {
        return p.id != known[0] && std::find(known.begin(), known.end(), p.id) != known.end();
    });
    for (Part& part : song.parts)
        if (part.id == known[0]) part = whole;
    return song;
}

} // namespace edits
} // namespace cobbleway
