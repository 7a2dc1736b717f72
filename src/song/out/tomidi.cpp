#include "song/out/tomidi.h"

#include "midi/devicemessages.h"
#include "midi/devicesettings.h"
#include "midi/text.h"
#include "song/heard/realise.h"
#include "song/model/levels.h"
#include "song/out/fold.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

namespace cobbleway {
namespace {

/// An event on its way into a track, with what orders it among others of its tick.
struct Outgoing {
    Event event;
    int rank = 0; ///< only where something is added: it goes before notes, after device messages
    EventRef from;
};

bool isTempoOrMetre(const Event& event) {
    return event.isMeta(meta::tempo) || event.isMeta(meta::timeSignature);
}

/// Bank and program as a MIDI file says them.
struct ProgramChoice {
    std::optional<int> msb, lsb, program;
    bool operator==(const ProgramChoice&) const = default;
};

/// The dialect in which what is added for a part is said: at its end, where all resets have come.
Dialect dialectFor(const Song& song, const Part& part) { return dialectAt(song, part.source.port, song.end); }

ProgramChoice choiceOf(const Ask& ask) {
    return {ask.bankMsb, ask.bankLsb, ask.program ? std::optional<int>(ask.program->value) : std::nullopt};
}

Ask firstAskOf(const Song& song, const Part& part) { return asksOf(song, part).front(); }

/// A sound chosen by hand; a plug-in has no number, so the file's own wish stays.
ProgramChoice choiceOf(const SoundRef& sound, const Song& song, const Part& part) {
    if (sound.kind == SoundKind::Plugin) return choiceOf(firstAskOf(song, part));
    return choiceOf(askFor(sound, dialectFor(song, part), part.source.drums));
}

/// Which sound each note of a part with stretches is to have.
class StretchSounds {
  public:
    StretchSounds(const Song& song, const Part& part) : m_song(song), m_part(part), m_reader(song, part) {
        if (any()) // as it is said at the beginning
            m_chosen = part.sound.chosen ? base() : choiceOf(firstAskOf(song, part));
    }
    [[nodiscard]] bool any() const { return !m_part.sound.stretches.empty(); }
    /// Takes an event; what is to be chosen before it, none when nothing is.
    std::optional<ProgramChoice> take(const Event& event) {
        m_reader.take(event, event.tick);
        if (!event.isNoteOn()) return std::nullopt;
        ProgramChoice wanted = base();
        for (const SoundStretch& stretch : m_part.sound.stretches)
            if (stretch.start <= event.tick && event.tick < stretch.end)
                wanted = choiceOf(stretch.sound, m_song, m_part);
        if (wanted == m_chosen) return std::nullopt;
        return m_chosen = wanted;
    }

  private:
    [[nodiscard]] ProgramChoice base() const {
        if (m_part.sound.chosen) return choiceOf(*m_part.sound.chosen, m_song, m_part);
        return choiceOf(m_part.sound.followsPrograms ? m_reader.current() : firstAskOf(m_song, m_part));
    }
    const Song& m_song;
    const Part& m_part;
    AskReader m_reader;
    ProgramChoice m_chosen;
};

class MidiBuilder {
  public:
    /// `parts`: those that will be added.
    MidiBuilder(const Song& song, int type, const std::vector<Part>& parts) : m_song(song) {
        m_file.type = type;
        m_file.division = song.source->midi.division;
        eachDeviceMessage(song.source->midi, [&](const DeviceMessage& message) {
            if (message.reset != Dialect::None) m_addedAt.insert(song.tickOf({message.track, message.index}));
        });
        if (song.midi.folded) {
            const Folding folding = foldOnto16(song);
            for (std::size_t i = 0; i < song.parts.size(); ++i) {
                m_places[song.parts[i].id] = folding.places[i];
                if (folding.loses(i) && parts.size() > 1) m_soundless.insert(song.parts[i].id);
            }
        }
        if (song.midi.writtenIn) findWrittenIn();
        findRepeated(parts);
    }

    /// Begins a track; those that are open end with it.
    void beginTrack() {
        endTrack();
        m_file.tracks.emplace_back();
        m_file.tracks.back().end = m_song.end;
    }

    void addConductor() {
        for (const EventRef ref : *m_song.conductor) {
            const Event& event = m_song.event(ref);
            if (m_song.tempoEdited && isTempoOrMetre(event)) continue;
            if (m_song.sectionsEdited && event.isMeta(meta::marker)) continue;
            if (m_writtenIn.contains(ref)) continue;
            addMeta(ref);
        }
        if (m_song.tempoEdited) addTempo();
        if (m_song.sectionsEdited)
            for (const Section& section : m_song.sections) addText(section.start, meta::marker, section.name);
    }

    void addPart(const Part& part) {
        m_place = placeOf(part);
        const bool typeOne = m_file.type == 1;
        const bool saysPort =
            std::any_of(part.source.events->begin(), part.source.events->end(),
                        [&](EventRef ref) { return isPort(ref, m_place.port) && m_song.tickOf(ref) == 0; });
        if (typeOne && m_place.port > 0 && !saysPort)
            addBytes(0, meta::port, std::vector{static_cast<std::uint8_t>(m_place.port)});
        const bool renamed = typeOne && part.nameGiven && nameDiffers(part);
        if (renamed) addText(0, meta::trackName, part.name);
        for (const EventRef ref : *part.source.events) {
            const Event& event = m_song.event(ref);
            const bool oldName = event.isMeta(meta::trackName) && renamed;
            const bool oldPort = event.isMeta(meta::port) && !isPort(ref, m_place.port);
            if (event.isMeta() && !oldName && !oldPort) addMeta(ref);
        }
        const bool soundless = m_soundless.contains(part.id);
        if (!soundless) addSound(part);
        addMixControllers(part);
        const double factor = std::pow(10.0, part.mix.levelDb / 40); // of the controller's value
        std::vector<EventRef> origins;
        const std::vector<Event> heard = realisedEvents(m_song, part, &origins);
        StretchSounds sounds(m_song, part);
        for (std::size_t i = 0; i < heard.size(); ++i) {
            Event event = heard[i];
            if (m_repeated.contains({part.id, origins[i]})) continue;
            if (event.choosesSound() && (soundless || !part.sound.heedsPrograms())) continue;
            if (sounds.any() && !soundless && !addStretchSound(sounds, event, origins[i])) continue;
            if (event.isController(cc::volume) && part.mix.levelDb != 0)
                event.data2 = scaled(event.data2, factor);
            if (event.isController(cc::pan) && part.mix.pan != 0)
                event.data2 = static_cast<std::uint8_t>(pannedValue(event.data2, part.mix.pan));
            event.status = static_cast<std::uint8_t>(event.kind() | m_place.channel.value);
            event.port = static_cast<std::uint8_t>(m_place.port);
            m_open.push_back({event, 2, orderOf(origins[i], event.tick)});
        }
    }

    MidiFile finish() {
        endTrack();
        m_file.sortTracks();
        return std::move(m_file);
    }

  private:
    static bool isOwnTrack(const Part& part, EventRef ref) {
        return ref.track == static_cast<std::uint32_t>(part.source.track);
    }

    /// Finds device messages that the parts' own events say: keys and levels as they are written.
    void findWrittenIn() {
        for (const PlacedSettings& message : deviceSettingsOf(m_song.source->midi))
            for (std::uint32_t i = message.place.first;
                 message.settings.isWrittenIn() && i <= message.place.last; ++i)
                if (m_song.event({message.place.track, i}).isSysex())
                    m_writtenIn.insert({message.place.track, i});
    }

    /// Finds what parts follow of other tracks (followChannels()) whose own part is written to the same
    /// channel: said there, it need not be said again.
    void findRepeated(const std::vector<Part>& parts) {
        std::map<std::pair<int, int>, std::vector<const Part*>> places;
        for (const Part& part : parts) {
            const PortChannel place = placeOf(part);
            places[{place.port, place.channel.value}].push_back(&part);
        }
        for (const auto& [place, sharing] : places) {
            if (sharing.size() < 2) continue;
            std::map<EventRef, std::vector<PartId>> followed;
            for (const Part* part : sharing)
                for (const EventRef ref : *part->source.events)
                    if (!ref.isMade() && !isOwnTrack(*part, ref)) followed[ref].push_back(part->id);
            if (followed.empty()) continue;
            for (const Part* part : sharing)
                for (const EventRef ref : *part->source.events)
                    if (isOwnTrack(*part, ref))
                        if (const auto at = followed.find(ref); at != followed.end())
                            for (const PartId id : at->second) m_repeated.emplace(id, ref);
        }
    }

    bool isPort(EventRef ref, int port) const {
        const Event& event = m_song.event(ref);
        const auto bytes = m_song.source->midi.bytes(event);
        return event.isMeta(meta::port) && !bytes.empty() && bytes[0] == port;
    }

    PortChannel placeOf(const Part& part) const {
        const auto at = m_places.find(part.id);
        return at != m_places.end() ? at->second : PortChannel{part.source.port, part.source.channel};
    }

    /// Made events stand where the event before them stands.
    EventRef orderOf(EventRef ref, Tick tick) {
        if (ref.isMade()) {
            const bool follows =
                !m_open.empty() && m_open.back().rank == 2 && m_open.back().event.tick == tick;
            return follows ? m_open.back().from : EventRef{m_song.trackOf(ref), 0};
        }
        return ref;
    }

    void endTrack() {
        if (m_file.tracks.empty()) return;
        const bool added =
            std::any_of(m_open.begin(), m_open.end(), [](const Outgoing& o) { return o.rank == 1; });
        std::stable_sort(m_open.begin(), m_open.end(), [this, added](const Outgoing& a, const Outgoing& b) {
            if (a.event.tick != b.event.tick) return a.event.tick < b.event.tick;
            if (added && a.rank != b.rank && m_addedAt.contains(a.event.tick)) return a.rank < b.rank;
            return a.from < b.from;
        });
        const bool ports =
            m_file.type == 0 && std::any_of(m_open.begin(), m_open.end(), [](const Outgoing& o) {
                return o.event.isChannel() && o.event.port > 0;
            });
        std::uint8_t port = 0;
        for (const Outgoing& out : m_open) {
            if (ports && out.event.isMeta(meta::port)) continue; // said anew where it changes
            if (ports && out.event.isChannel() && out.event.port != port) {
                port = out.event.port;
                m_file.addMeta(m_file.tracks.size() - 1, out.event.tick, meta::port, std::vector{port});
            }
            m_file.tracks.back().events.push_back(out.event);
        }
        m_open.clear();
    }

    void addMeta(EventRef ref) {
        Event event = m_song.event(ref);
        event.tick = m_song.tickOf(ref);
        event.payload = m_file.addPayload(m_song.source->midi.bytes(event));
        m_open.push_back({event, 0, ref});
    }

    void addBytes(Tick tick, std::uint8_t type, std::span<const std::uint8_t> bytes) {
        m_open.push_back({{tick, 0xFF, type, 0, 0, m_file.addPayload(bytes)}, 0, {}});
    }

    void addText(Tick tick, std::uint8_t type, const std::string& text) {
        addBytes(tick, type, {reinterpret_cast<const std::uint8_t*>(text.data()), text.size()});
    }

    void addTempo() {
        MidiFile scratch; // for its way of writing these two
        scratch.tracks.emplace_back();
        for (const MetreChange& metre : m_song.tempo->metres())
            scratch.addTimeSignature(0, metre.tick, metre.numerator, metre.denominator);
        for (const TempoChange& tempo : m_song.tempo->tempos())
            scratch.addTempo(0, tempo.tick, tempo.microsecondsPerQuarter);
        for (const Event& event : scratch.tracks[0].events)
            addBytes(event.tick, event.data1, scratch.bytes(event));
    }

    /// At the start, and again after every reset, by which a device forgets it.
    void addAdded(std::uint8_t kind, std::uint8_t data1, int data2) {
        for (const Tick tick : m_addedAt)
            m_open.push_back({{tick, static_cast<std::uint8_t>(kind | m_place.channel.value), data1,
                               static_cast<std::uint8_t>(data2), static_cast<std::uint8_t>(m_place.port)},
                              1,
                              {}});
    }

    void addSound(const Part& part) {
        ProgramChoice choice;
        if (part.sound.chosen)
            choice = choiceOf(*part.sound.chosen, m_song, part);
        else if (!part.sound.followsPrograms || !part.sound.stretches.empty())
            choice = choiceOf(firstAskOf(m_song, part));
        else if (part.sound.programGiven)
            choice.program = part.sound.programGiven->value;
        if (choice.msb) addAdded(0xB0, cc::bankMsb, *choice.msb);
        if (choice.lsb) addAdded(0xB0, cc::bankLsb, *choice.lsb);
        if (choice.program) addAdded(0xC0, static_cast<std::uint8_t>(*choice.program), 0);
    }

    /// Tells the sound before a note that begins another; false for an event that is left out, since the
    /// stretches say what it would.
    bool addStretchSound(StretchSounds& sounds, const Event& event, EventRef from) {
        const auto choice = sounds.take(event);
        if (event.choosesSound()) return false;
        if (!choice) return true;
        const auto add = [&](std::uint8_t kind, int data1, int data2) {
            m_open.push_back({{event.tick, static_cast<std::uint8_t>(kind | m_place.channel.value),
                               static_cast<std::uint8_t>(data1), static_cast<std::uint8_t>(data2),
                               static_cast<std::uint8_t>(m_place.port)},
                              2,
                              orderOf(from, event.tick)});
        };
        if (choice->msb) add(0xB0, cc::bankMsb, *choice->msb);
        if (choice->lsb) add(0xB0, cc::bankLsb, *choice->lsb);
        if (choice->program) add(0xC0, *choice->program, 0);
        return true;
    }

    /// Level and pan for a part that has no such controller of its own to carry them.
    void addMixControllers(const Part& part) {
        const auto has = [&](std::uint8_t number) {
            return !part.recipe.drops(number) &&
                   std::any_of(part.source.events->begin(), part.source.events->end(),
                               [&](EventRef ref) { return m_song.event(ref).isController(number); });
        };
        if (!has(cc::volume) && (part.recipe.drops(cc::volume) || part.mix.levelDb != 0))
            addAdded(0xB0, cc::volume, scaled(defaultVolume, std::pow(10.0, part.mix.levelDb / 40)));
        if (part.mix.pan != 0 && !has(cc::pan)) addAdded(0xB0, cc::pan, pannedValue(64, part.mix.pan));
    }

    /// Whether a part has another name than its first track name event, but for a number that tells it apart.
    bool nameDiffers(const Part& part) const {
        for (const EventRef ref : *part.source.events) {
            if (!m_song.event(ref).isMeta(meta::trackName)) continue;
            const std::string text = toUtf8(m_song.source->midi.rawText(m_song.event(ref)), m_song.encoding);
            if (text.empty()) continue;
            if (!part.name.starts_with(text)) return true;
            const std::string rest = part.name.substr(text.size());
            return !rest.empty() && (rest[0] != ' ' || rest.find_first_not_of("0123456789", 1) != rest.npos);
        }
        return true;
    }

    static int scaled(int value, double factor) {
        return std::clamp(static_cast<int>(std::lround(value * factor)), 0, 127);
    }

    const Song& m_song;
    MidiFile m_file;
    std::vector<Outgoing> m_open; ///< of the track that is being filled
    std::map<PartId, PortChannel> m_places;
    std::set<PartId> m_soundless; ///< they share a channel, and another part says how it sounds
    std::set<std::pair<PartId, EventRef>> m_repeated; ///< said by another part of the same channel
    std::set<EventRef> m_writtenIn;                   ///< device messages that the parts say in events
    PortChannel m_place;                              ///< of the part that is being added
    std::set<Tick> m_addedAt = {0};                   ///< where what the file does not say is added
};

MidiFile written(const Song& song, int type, const std::vector<Part>& parts) {
    MidiBuilder builder(song, type, parts);
    builder.beginTrack();
    builder.addConductor();
    for (const Part& part : parts) {
        if (type == 1) builder.beginTrack();
        builder.addPart(part);
    }
    return builder.finish();
}

/// What the dialect cannot say of the sound chosen for a part; empty when it says all.
Message lostBank(const Song& song, const Part& part) {
    if (!part.sound.chosen || part.sound.chosen->kind == SoundKind::Plugin) return {};
    const SoundRef& sound = *part.sound.chosen;
    const Dialect dialect = dialectFor(song, part);
    const SoundRef read = wishOf(askFor(sound, dialect, part.source.drums), dialect);
    if (read.bank == std::min(sound.bank, kitBank) && read.program == sound.program) return {};
    if (sound.bank >= kitBank) return {"lost.kit", {{"part", part.name}}};
    if (part.source.drums) return {"lost.drums-sound", {{"part", part.name}, {"sound", sound.name}}};
    return {"lost.bank",
            {{"dialect", std::string(dialectName(dialect))}, {"bank", sound.bank}, {"part", part.name}}};
}

/// Parts that share a channel although something of the channel differs between them.
std::vector<Message> sharedChannels(const Song& song) {
    std::vector<Message> said;
    std::map<std::pair<int, int>, const Part*> first;
    const Folding folding = song.midi.folded ? foldOnto16(song) : Folding{};
    for (std::size_t i = 0; i < song.parts.size(); ++i) {
        const Part& part = song.parts[i];
        if (part.aside) continue;
        if (song.midi.folded && folding.loses(i)) continue; // see foldingSaid()
        const PortChannel place =
            song.midi.folded ? folding.places[i] : PortChannel{part.source.port, part.source.channel};
        const auto [at, fresh] = first.try_emplace({place.port, place.channel.value}, &part);
        if (fresh) continue;
        const Part& other = *at->second;
        const bool sound = part.sound.chosen != other.sound.chosen ||
                           part.sound.stretches != other.sound.stretches ||
                           part.sound.programGiven != other.sound.programGiven ||
                           part.sound.followsPrograms != other.sound.followsPrograms ||
                           !firstAskOf(song, part).sameAs(firstAskOf(song, other));
        if (sound || part.mix.levelDb != other.mix.levelDb || part.mix.pan != other.mix.pan)
            said.push_back(
                {"lost.shared-channel",
                 {{"part", part.name}, {"channel", place.channel.value + 1}, {"other", other.name}}});
    }
    return said;
}

/// The events of a part but for device messages, which the conductor says.
EventRefs withoutMessages(const Song& song, const EventRefs& events) {
    EventRefs kept;
    for (const EventRef ref : events)
        if (!song.event(ref).isSysex()) kept.push_back(ref);
    return kept;
}

} // namespace

Song withoutChanges(const Song& song) {
    Song plain = song;
    const Song fresh = makeSong(song.source, song.encoding);
    plain.trackStarts = fresh.trackStarts;
    plain.tempo = fresh.tempo;
    plain.end = fresh.end;
    plain.sections = fresh.sections;
    plain.tempoEdited = plain.sectionsEdited = false;
    plain.keyShift = 0;
    for (Part& part : plain.parts) {
        part.source.events = Shared(withoutMessages(plain, *part.source.events));
        part.recipe = {};
        part.sound = {};
        part.mix = {};
    }
    return plain;
}

namespace {
int typeOf(Layout layout) { return layout == Layout::SingleTrack ? 0 : 1; }
} // namespace

MidiFile toMidi(const Song& song, Layout layout) {
    if (song.midi.writtenIn) return written(song, typeOf(layout), song.parts);
    const Song plain = withoutChanges(song);
    return written(plain, typeOf(layout), plain.parts);
}

MidiFile toMidi(const Song& song, const Part& part, Layout layout) {
    if (song.midi.writtenIn) return written(song, typeOf(layout), {part});
    const Song plain = withoutChanges(song);
    const Part* bare = plain.part(part.id);
    return written(plain, typeOf(layout), {bare ? *bare : part});
}

std::vector<int> portsOf(const Song& song) {
    std::set<int> ports;
    for (const Part& part : song.parts)
        if (!part.aside && !song.midi.folded) ports.insert(part.source.port);
    if (ports.empty()) ports.insert(0);
    return {ports.begin(), ports.end()};
}

int channelsNeeded(const Song& song) {
    std::set<std::pair<int, int>> used;
    for (const Part& part : song.parts)
        if (!part.aside) used.insert({part.source.port, part.source.channel.value});
    return static_cast<int>(used.size());
}

namespace {

// What a MIDI file cannot carry of each value of a part. A field that one of them gets does not compile here
// until it is said whether a file can.

/// The greatest value of the volume controller; the one that holds where there is none.
int loudestVolume(const Song& song, const Part& part) {
    if (part.recipe.drops(cc::volume)) return defaultVolume;
    int most = 0;
    for (const EventRef ref : *part.source.events)
        if (song.event(ref).isController(cc::volume)) most = std::max<int>(most, song.event(ref).data2);
    return most == 0 ? defaultVolume : most;
}

void addLostSound(const Song& song, const Part& part, std::vector<Message>& said) {
    // Stretches are written as programs, and so is a program given; settings go with their plug-in.
    [[maybe_unused]] const auto& [chosen, settings, stretches, layers, programGiven, followsPrograms] =
        part.sound;
    if (!layers.empty()) said.push_back({"lost.layers", {{"part", part.name}}});
    if (chosen && chosen->kind == SoundKind::Plugin) said.push_back({"lost.plugin", {{"part", part.name}}});
    if (const auto lost = lostBank(song, part); !lost.empty()) said.push_back(lost);
}

/// What is lost of mixes, of all parts together.
struct LostMix {
    bool heard = false, room = false, effects = false;
    void add(const Song& song, const Part& part) {
        [[maybe_unused]] const auto& [levelDb, pan, share, beforeLevel, role, muted, solo, chain] = part.mix;
        heard |= role != Role::Back || muted || solo;
        room |= share != roomShareOf(song, part.source) || beforeLevel;
        effects |= !chain.empty();
    }
};

} // namespace

std::vector<Message> notCarriedOver(const Song& song) {
    if (!song.midi.writtenIn) return {};
    std::vector<Message> said = song.midi.folded ? foldingSaid(song, true) : std::vector<Message>{};
    for (Message& shared : sharedChannels(song)) said.push_back(std::move(shared));
    LostMix lost;
    lost.effects = !song.effects.empty();
    for (const Part& part : song.parts) {
        if (part.aside) continue;
        if (loudestVolume(song, part) * std::pow(10.0, part.mix.levelDb / 40) > 127.5)
            said.push_back({"lost.level", {{"part", part.name}}});
        addLostSound(song, part, said);
        if (part.source.drums && part.source.channel != drumChannel && !song.midi.folded)
            said.push_back(
                {"lost.drum-channel", {{"part", part.name}, {"channel", part.source.channel.value + 1}}});
        lost.add(song, part);
    }
    if (lost.heard) said.emplace_back("lost.roles");
    if (lost.room) said.emplace_back("lost.room");
    if (lost.effects) said.emplace_back("lost.effects");
    return said;
}

} // namespace cobbleway
