#include "midi/devicesettings.h"
#include "midi/gm.h"
#include "midi/text.h"
#include "midi/writer.h"
#include "song/model/asks.h"
#include "song/model/channelstate.h"
#include "song/model/devicestate.h"
#include "song/model/levels.h"
#include "song/model/names.h"
#include "song/model/song.h"

#include <algorithm>
#include <array>
#include <map>
#include <tuple>

namespace cobbleway {
namespace {

using Origin = std::tuple<std::uint32_t, int, int>; // track, port, channel

bool isTextLike(const Event& event) {
    if (!event.isMeta()) return false;
    const std::uint8_t type = event.data1;
    return (type >= meta::text && type <= meta::deviceName && type != meta::marker && type != meta::cue) ||
           type == meta::channelPrefix || type == meta::port;
}

struct TickOrder {
    const Song& song;
    bool operator()(EventRef a, EventRef b) const {
        const Tick ta = song.tickOf(a), tb = song.tickOf(b);
        return ta != tb ? ta < tb : a < b;
    }
};

/// Sorts the source's events into parts and the conductor.
class Sorter {
  public:
    explicit Sorter(Song& song) : m_song(song) {}

    void sort() {
        const auto& tracks = m_song.source->midi.tracks;
        for (std::uint32_t t = 0; t < tracks.size(); ++t) gatherChannels(t);
        for (std::uint32_t t = 0; t < tracks.size(); ++t) gatherMeta(t);
        for (std::size_t i = 0; i < m_events.size(); ++i) {
            m_song.parts[i].source.events = Shared(withTexts(std::move(m_events[i]), m_texts[i]));
        }
        std::stable_sort(m_conductor.begin(), m_conductor.end(), TickOrder{m_song});
        m_song.conductor = Shared<EventRefs>(m_conductor);
    }

  private:
    /// Both are of one track, in its order.
    static EventRefs withTexts(EventRefs events, const std::vector<EventRef>& texts) {
        if (texts.empty()) return events;
        EventRefs all;
        auto text = texts.begin();
        for (const EventRef ref : events) {
            for (; text != texts.end() && *text < ref; ++text) all.push_back(*text);
            all.push_back(ref);
        }
        for (; text != texts.end(); ++text) all.push_back(*text);
        return all;
    }

    void gatherChannels(std::uint32_t track) {
        const auto& events = m_song.source->midi.tracks[track].events;
        std::array<std::size_t, 16> last{};
        std::array<int, 16> lastPort;
        lastPort.fill(-1);
        for (std::uint32_t i = 0, next = 0; i < events.size(); i = next) {
            const Event& event = events[i];
            next = i + 1;
            if (!event.isChannel()) continue;
            const std::size_t channel = event.channel().value;
            if (lastPort[channel] != event.port) {
                last[channel] = indexOf(track, event);
                lastPort[channel] = event.port;
            }
            while (next < events.size() && events[next].isChannel() &&
                   events[next].channel() == event.channel() && events[next].port == event.port)
                ++next;
            m_events[last[channel]].append({track, i}, next - i);
        }
    }

    std::size_t indexOf(std::uint32_t track, const Event& event) {
        const Origin origin{track, event.port, event.channel().value};
        const auto [at, fresh] = m_index.try_emplace(origin, m_song.parts.size());
        if (fresh) {
            Part part;
            part.id = static_cast<int>(m_song.parts.size()) + 1;
            part.source.track = static_cast<int>(track);
            part.source.port = event.port;
            part.source.channel = event.channel();
            m_ofTrack[track].push_back(m_song.parts.size());
            m_song.parts.push_back(std::move(part));
            m_events.emplace_back();
            m_texts.emplace_back();
        }
        return at->second;
    }

    /// The part that a text-like event belongs to: by channel prefix, or as its track's only part.
    std::optional<std::size_t> ownerOf(std::uint32_t track, const Event& event) const {
        if (!isTextLike(event)) return std::nullopt;
        const auto at = m_ofTrack.find(track);
        if (at == m_ofTrack.end()) return std::nullopt;
        if (event.data2 > 0)
            for (const std::size_t i : at->second)
                if (m_song.parts[i].source.channel.value == event.data2 - 1) return i;
        const bool only = at->second.size() == 1 && m_song.source->midi.type != 0;
        return only ? std::optional(at->second.front()) : std::nullopt;
    }

    void gatherMeta(std::uint32_t track) {
        m_song.source->midi.eachBesideNotes(track, [&](const Event& event, std::uint32_t i) {
            if (event.isChannel()) return;
            const auto owner = ownerOf(track, event);
            (owner ? m_texts[*owner] : m_conductor).push_back({track, i});
        });
    }

    Song& m_song;
    std::map<Origin, std::size_t> m_index;
    std::map<std::uint32_t, std::vector<std::size_t>> m_ofTrack; ///< parts, by track
    std::vector<EventRefs> m_events;                             ///< of parts, but for texts
    std::vector<std::vector<EventRef>> m_texts;                  ///< of parts
    std::vector<EventRef> m_conductor;
};

bool hasNotes(const Song& song, const Part& part) {
    return song.any(*part.source.events, [](const Event& event, EventRef) { return event.isNoteOn(); });
}

/// Where a part's first note begins, in the file's ticks; the end where it has none.
Tick firstNoteOf(const Song& song, const Part& part) {
    Tick first = lastSongTick;
    (void)song.any(*part.source.events, [&](const Event& event, EventRef) {
        if (event.isNoteOn()) first = event.tick;
        return event.isNoteOn();
    });
    return first;
}

/// Whether a bank select says drums: XG MSB 126 or 127, GM2 MSB 120. XG MSB 0 and GM2 MSB 121 say pitched.
std::optional<bool> drumsByBank(const std::vector<Ask>& asks) {
    for (const Ask& ask : asks) {
        const Dialect dialect = ask.dialect;
        const int msb = ask.bankMsb.value_or(0);
        if (dialect == Dialect::XG && (msb == 126 || msb == 127)) return true;
        if (dialect == Dialect::XG && ask.program && ask.bankMsb == 0) return false;
        if (dialect == Dialect::GM2 && msb == 120) return true;
        if (dialect == Dialect::GM2 && msb == 121) return false;
    }
    return std::nullopt;
}

/// Says of each part whether it is drums; gives what each asks for first.
std::map<PartId, Ask> decideDrums(Song& song) {
    const auto byMessage = rhythmPartsOf(song.source->midi);
    std::map<PartId, Ask> first;
    for (Part& part : song.parts) {
        part.source.drums =
            madeDrums(byMessage, part.source.port, part.source.channel, firstNoteOf(song, part));
        const auto asks = asksOf(song, part);
        if (const auto byBank = drumsByBank(asks)) part.source.drums = *byBank;
        first.emplace(part.id, asks.front());
    }
    return first;
}

/// `first`: what each asks for first.
void nameParts(Song& song, const std::map<PartId, Ask>& first) {
    std::set<std::string> taken;
    std::map<std::string, int> numbers; // the last one tried for a name
    const auto unlike = [&](const std::string& wanted) {
        std::string name = wanted;
        for (int& number = numbers.try_emplace(wanted, 1).first->second; !taken.insert(name).second;)
            name = wanted + " " + std::to_string(++number);
        return name;
    };
    const FirstNames names(song);
    const auto name = [&](Part& part) {
        const auto [wanted, given] = names.of(part, first.at(part.id));
        part.nameGiven = given;
        part.name = unlike(wanted);
    };
    for (const bool aside : {false, true}) // numbers are for those that are seen
        for (Part& part : song.parts)
            if (part.aside == aside) name(part);
}

void findSections(Song& song) {
    for (const EventRef ref : *song.conductor) {
        if (!song.event(ref).isMeta(meta::marker)) continue;
        const Tick tick = song.tickOf(ref);
        std::string name = toUtf8(song.source->midi.rawText(song.event(ref)), song.encoding);
        if (!song.sections.empty()) song.sections.back().end = tick;
        if (!song.sections.empty() && song.sections.back().start == tick) song.sections.pop_back();
        song.sections.push_back({tick, song.end, std::move(name)});
    }
    std::erase_if(song.sections, [](const Section& s) { return s.end <= s.start; });
}

} // namespace

const Part* Song::part(PartId id) const {
    // Parts mostly stand in the order of their ids, the first at 1; where some are gone the rest has moved
    // up.
    const auto most = static_cast<std::ptrdiff_t>(parts.size());
    const auto near = parts.begin() + std::clamp<std::ptrdiff_t>(id, 0, most);
    const auto is = [id](const Part& p) { return p.id == id; };
    const auto before = std::find_if(std::make_reverse_iterator(near), parts.rend(), is);
    if (before != parts.rend()) return &*before;
    const auto after = std::find_if(near, parts.end(), is);
    return after == parts.end() ? nullptr : &*after;
}

Part* Song::part(PartId id) { return const_cast<Part*>(std::as_const(*this).part(id)); }

int Song::bars() const { return end == 0 ? 1 : tempo->position(end - 1).bar; }

bool SongEvents::operator==(const SongEvents& o) const {
    const bool sameSource =
        source == o.source ||
        (source && o.source && source->midi.pool == o.source->midi.pool && source->name == o.source->name);
    return sameSource && trackStarts == o.trackStarts && made == o.made && end == o.end;
}

PartId Song::takeId() {
    for (const Part& part : parts) ids.last = std::max(ids.last, part.id);
    return ++ids.last;
}

PortChannel freeChannel(const Song& song) {
    std::set<std::pair<int, int>> used;
    for (const Part& part : song.parts) used.insert({part.source.port, part.source.channel.value});
    for (int port = 0; port < 128; ++port)
        for (std::uint8_t channel = 0; channel < 16; ++channel)
            if (Channel{channel} != drumChannel && !used.contains({port, channel}))
                return {port, Channel{channel}};
    return {127, Channel{15}};
}

std::string uniqueName(const Song& song, const std::string& wanted, PartId self) {
    const auto taken = [&](const std::string& name) {
        return std::any_of(song.parts.begin(), song.parts.end(),
                           [&](const Part& p) { return p.id != self && p.name == name; });
    };
    if (!taken(wanted)) return wanted;
    for (int number = 2;; ++number) {
        std::string name = wanted + " " + std::to_string(number);
        if (!taken(name)) return name;
    }
}

Song makeSong(std::shared_ptr<const SourceFile> source, const std::string& encoding) {
    Song song;
    song.source = std::move(source);
    const MidiFile& midi = song.source->midi;
    song.encoding = encoding.empty() ? guessEncoding(midi) : encoding;
    song.dialect = dialectOf(midi);
    song.masterVolume = deviceVolumeOf(midi).fixed;
    Tick start = 0;
    std::vector<Tick> starts;
    for (const Track& track : midi.tracks) {
        starts.push_back(midi.type == 2 ? start : 0);
        start = std::min(start + track.end, lastSongTick);
    }
    song.end = midi.type == 2 ? start : midi.end();
    song.trackStarts = Shared(std::move(starts));
    song.tempo = Shared(tempoMapOf(midi, *song.trackStarts));
    Sorter(song).sort();
    song.dialects = Shared(dialectsByPort(song));
    followChannels(song);
    followDevice(song);
    song.ids.last = static_cast<PartId>(song.parts.size());
    const auto first = decideDrums(song);
    for (Part& part : song.parts) {
        part.aside = !hasNotes(song, part);
        part.mix.room = roomShareOf(song, part.source);
    }
    nameParts(song, first);
    std::stable_partition(song.parts.begin(), song.parts.end(), [](const Part& p) { return !p.aside; });
    int colour = 0;
    for (Part& part : song.parts) part.colour = colour++ % 12;
    findSections(song);
    song.title = titleOf(song);
    return song;
}

std::vector<Song> songsOfTracks(const Song& song) {
    std::vector<Song> songs;
    const MidiFile& midi = song.source->midi;
    if (midi.type != 2) return songs;
    const std::string& name = song.source->name;
    const auto dot = std::min(name.rfind('.'), name.size());
    for (std::size_t t = 0; t < midi.tracks.size(); ++t) {
        MidiFile alone;
        alone.type = 0;
        alone.division = midi.division;
        alone.tracks.push_back(midi.tracks[t]);
        for (Event& event : alone.tracks[0].events)
            if (!event.isChannel()) event.payload = alone.addPayload(midi.bytes(event));
        auto read =
            readMidi(writeMidi(alone), name.substr(0, dot) + " " + std::to_string(t + 1) + name.substr(dot));
        if (read) songs.push_back(makeSong(std::make_shared<const SourceFile>(std::move(read.value()))));
    }
    return songs;
}

} // namespace cobbleway
