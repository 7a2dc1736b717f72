#include "song/shape/readanew.h"

#include "song/shape/tidy.h"

#include <algorithm>
#include <array>
#include <map>
#include <tuple>
#include <unordered_map>

namespace cobbleway {
namespace {

/// Parts that have an event, by their place in the song, ascending; empty: a person took it out of all.
using Owners = std::vector<std::uint32_t>;

/// What tells an event of a track from others.
using Likeness = std::tuple<Tick, std::uint8_t, std::uint8_t, std::uint8_t, std::uint8_t, std::string>;

Likeness likenessOf(const MidiFile& midi, const Event& event) {
    std::string payload;
    if (!event.isChannel()) payload = midi.rawText(event);
    return {event.tick, event.status,      event.data1, event.isChannel() ? event.data2 : std::uint8_t{0},
            event.port, std::move(payload)};
}

/// Who has each event of one track, before.
std::vector<Owners> ownersOf(const Song& song, std::uint32_t track) {
    std::vector<Owners> owners(song.source->midi.tracks[track].events.size());
    for (std::uint32_t p = 0; p < song.parts.size(); ++p)
        for (const EventRef ref : *song.parts[p].source.events)
            if (ref.track == track && (owners[ref.index].empty() || owners[ref.index].back() != p))
                owners[ref.index].push_back(p);
    return owners;
}

/// Gives the events of a track's new reading to parts.
class TrackGiver {
  public:
    TrackGiver(const Song& song, const SourceFile& fresh, std::uint32_t track)
        : m_fresh(fresh), m_track(track) {
        if (track >= song.source->midi.tracks.size()) return;
        const auto owners = ownersOf(song, track);
        const auto& events = song.source->midi.tracks[track].events;
        for (std::size_t i = 0; i < events.size(); ++i) {
            m_before[likenessOf(song.source->midi, events[i])].push_back(owners[i]);
            if (!events[i].isChannel() || owners[i].empty()) continue;
            Channel& channel = m_channels[channelOf(events[i])];
            for (const std::uint32_t part : owners[i])
                if (std::find(channel.all.begin(), channel.all.end(), part) == channel.all.end())
                    channel.all.push_back(part);
            if (events[i].isNoteOn()) channel.ofKey.try_emplace(events[i].data1, owners[i]);
        }
    }

    /// Calls give(owners, index) for each event that belongs to parts, or would be a new part's (none known).
    template <class Give> void each(Give give) {
        const auto& events = m_fresh.midi.tracks[m_track].events;
        std::map<std::pair<int, int>, Owners>
            sounding; // by channel and key: a note's end goes with its start
        for (std::uint32_t i = 0; i < events.size(); ++i) {
            const Event& event = events[i];
            const auto known = takeKnown(event);
            Owners owners = known ? *known : event.isChannel() ? guess(event) : Owners{};
            if (event.isNoteOn()) sounding[{channelOf(event), event.data1}] = owners;
            if (event.isNoteOff() && !known)
                if (const auto at = sounding.find({channelOf(event), event.data1}); at != sounding.end())
                    owners = at->second;
            give(owners, i, known.has_value() || isKnownChannel(event));
        }
    }

  private:
    struct Channel {
        Owners all;                           ///< every part with events of it
        std::map<std::uint8_t, Owners> ofKey; ///< those with its notes, by key
    };
    static int channelOf(const Event& event) { return event.port * 16 + event.channel().value; }
    [[nodiscard]] bool isKnownChannel(const Event& event) const {
        return !event.isChannel() || m_channels.contains(channelOf(event));
    }

    /// The owners of an event that was there before, in order where several are alike.
    std::optional<Owners> takeKnown(const Event& event) {
        const auto at = m_before.find(likenessOf(m_fresh.midi, event));
        if (at == m_before.end()) return std::nullopt;
        std::size_t& next = m_taken[at->first];
        return at->second[std::min(next++, at->second.size() - 1)];
    }

    /// A new note goes where the nearest key of its channel is; other events to all parts of it.
    [[nodiscard]] Owners guess(const Event& event) const {
        const auto at = m_channels.find(channelOf(event));
        if (at == m_channels.end()) return {};
        const auto& ofKey = at->second.ofKey;
        if ((!event.isNoteOn() && !event.isNoteOff()) || ofKey.empty()) return at->second.all;
        const auto nearest = std::min_element(ofKey.begin(), ofKey.end(), [&](const auto& a, const auto& b) {
            return std::abs(a.first - event.data1) < std::abs(b.first - event.data1);
        });
        return nearest->second;
    }

    const SourceFile& m_fresh;
    std::uint32_t m_track;
    std::map<Likeness, std::vector<Owners>> m_before;
    std::map<Likeness, std::size_t> m_taken;
    std::map<int, Channel> m_channels;
};

bool hasNotes(const Song& song, const Part& part) {
    return song.any(*part.source.events, [](const Event& event, EventRef) { return event.isNoteOn(); });
}

/// Names of the new reading's events, and what of the made ones the part had, in the order of devices.
EventRefs inOrder(const Song& song, std::vector<EventRef> refs) {
    std::sort(refs.begin(), refs.end(), [&](EventRef a, EventRef b) {
        const Tick ta = song.tickOf(a), tb = song.tickOf(b);
        if (ta != tb) return ta < tb;
        const std::uint32_t ra = song.trackOf(a), rb = song.trackOf(b);
        return ra != rb ? ra < rb : a < b;
    });
    return EventRefs(refs);
}

/// A part for what came on a channel that had none: as the file has it, with an id of its own.
void addPart(Song& song, const Part& fresh) {
    Part part = fresh;
    part.id = song.takeId();
    part.name = uniqueName(song, part.name, part.id);
    const auto aside =
        std::find_if(song.parts.begin(), song.parts.end(), [](const Part& p) { return p.aside; });
    song.parts.insert(part.aside ? song.parts.end() : aside, std::move(part));
}

/// What of the song is the file's, where nobody changed it.
void followReadFile(Song& song, const Song& before, const Song& after) {
    song.source = after.source;
    if (song.title == before.title) song.title = after.title;
    if (song.dialect == before.dialect) song.dialect = after.dialect;
    song.dialects = after.dialects;
    song.masterVolume = after.masterVolume;
    song.conductor = after.conductor;
    const bool moved = song.trackStarts != before.trackStarts;
    if (!moved || song.trackStarts->size() != after.trackStarts->size()) song.trackStarts = after.trackStarts;
    song.end = moved ? std::max(song.end, after.end) : after.end;
    if (!song.tempoEdited) song.tempo = after.tempo;
    if (!song.sectionsEdited) song.sections = after.sections;
}

} // namespace

Song edits::readAnew(const Song& song, std::shared_ptr<const SourceFile> source) {
    const Song before = makeSong(song.source, song.encoding),
               after = makeSong(std::move(source), song.encoding);
    Song next = song;
    std::vector<std::vector<EventRef>> refs(song.parts.size());
    std::set<std::tuple<std::uint32_t, int, int>> fresh; // track, port, channel without a part
    for (std::uint32_t t = 0; t < after.source->midi.tracks.size(); ++t)
        TrackGiver(song, *after.source, t).each([&](const Owners& owners, std::uint32_t i, bool known) {
            for (const std::uint32_t part : owners) refs[part].push_back({t, i});
            const Event& event = after.source->midi.tracks[t].events[i];
            if (!known) fresh.insert({t, event.port, event.channel().value});
        });
    followReadFile(next, before, after);
    const auto tracks = static_cast<std::uint32_t>(after.source->midi.tracks.size());
    for (std::size_t p = 0; p < next.parts.size(); ++p) {
        for (const EventRef ref : *song.parts[p].source.events)
            if (ref.isMade() && song.made[ref.index].track < tracks) refs[p].push_back(ref);
        next.parts[p].source.events = Shared(inOrder(next, std::move(refs[p])));
        next.parts[p].aside = !hasNotes(next, next.parts[p]);
    }
    for (const Part& part : after.parts)
        if (fresh.contains(
                {static_cast<std::uint32_t>(part.source.track), part.source.port, part.source.channel.value}))
            addPart(next, part);
    std::stable_partition(next.parts.begin(), next.parts.end(), [](const Part& p) { return !p.aside; });
    return next;
}

} // namespace cobbleway
