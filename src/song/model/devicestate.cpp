#include "song/model/devicestate.h"

#include "song/model/levels.h"
#include "song/model/song.h"

#include <algorithm>
#include <map>
#include <optional>

namespace cobbleway {
namespace {

constexpr std::size_t mostFollowed = 1000000; // of all parts together: a file with more is no music

/// What General MIDI starts a channel with (GM 1; reverb and chorus by GM2).
std::vector<SaidByChannel> firstState(Channel channel) {
    std::vector<SaidByChannel> state = {{0xB0, cc::resetAll, 0}};
    if (channel != drumChannel) {
        state.push_back({0xB0, cc::bankMsb, 0});
        state.push_back({0xB0, cc::bankLsb, 0});
    }
    state.push_back({0xC0, 0, 0});
    state.push_back({0xB0, cc::volume, defaultVolume});
    state.push_back({0xB0, cc::pan, 64});
    state.push_back({0xB0, cc::reverbSend, 40});
    state.push_back({0xB0, cc::chorusSend, 0});
    for (const auto& [parameter, value] : {std::pair{0, 2}, std::pair{1, 64}, std::pair{2, 64}}) {
        state.push_back({0xB0, cc::rpnMsb, 0});
        state.push_back({0xB0, cc::rpnLsb, static_cast<std::uint8_t>(parameter)});
        state.push_back({0xB0, cc::dataEntryMsb, static_cast<std::uint8_t>(value)});
        state.push_back({0xB0, cc::dataEntryLsb, 0});
    }
    state.push_back({0xB0, cc::rpnMsb, 127});
    state.push_back({0xB0, cc::rpnLsb, 127});
    return state;
}

class Follower {
  public:
    Follower(Song& song, const std::vector<PlacedSettings>& messages)
        : m_song(song), m_volumeMoves(deviceVolumeOf(song.source->midi).moves) {
        for (const Part& part : song.parts) hear(part);
        for (const PlacedSettings& message : messages) place(message);
    }

    void follow() {
        for (std::size_t i = 0; i < m_song.parts.size(); ++i)
            if (!m_added[i].empty()) merge(m_song.parts[i], m_added[i]);
    }

  private:
    struct Heard {
        std::optional<EventPlace> firstNote;
        Tick last = 0;
    };

    void hear(const Part& part) {
        const EventRefs& refs = *part.source.events;
        Heard heard;
        (void)m_song.any(refs, [&](const Event& event, EventRef ref) {
            if (event.isNoteOn()) heard.firstNote = EventPlace{m_song.tickOf(ref), ref};
            return event.isNoteOn();
        });
        if (!refs.empty()) heard.last = m_song.tickOf(refs[refs.size() - 1]);
        if (heard.firstNote) {
            const auto [at, fresh] = m_firstNotes.try_emplace(part.source.port, *heard.firstNote);
            if (!fresh) at->second = std::min(at->second, *heard.firstNote);
        }
        m_heard.push_back(heard);
        m_added.emplace_back();
    }

    void place(const PlacedSettings& message) {
        const DeviceSettings& settings = message.settings;
        const EventRef ref{message.place.track, message.place.first};
        const EventPlace at{m_song.tickOf(ref), ref};
        const auto firstNote = m_firstNotes.find(message.port);
        if (firstNote == m_firstNotes.end()) return; // nothing plays there
        const bool resets = settings.reset != Dialect::None && firstNote->second.tick < at.tick;
        const bool named = resets || settings.tuning || settings.keyShift || settings.partKeyShift ||
                           !settings.keyTunings.empty() || (settings.volume && m_volumeMoves);
        for (std::size_t i = 0; i < m_song.parts.size(); ++i) {
            const Part& part = m_song.parts[i];
            if (part.source.port != message.port || !m_heard[i].firstNote || m_heard[i].last < at.tick)
                continue;
            if (m_song.source->midi.type == 2 && part.source.track != static_cast<int>(ref.track)) continue;
            const bool mine = (settings.channels >> part.source.channel.value & 1) != 0;
            if (settings.setsChannel() && !mine) continue;
            if (resets) say(i, at, message.port, firstState(part.source.channel));
            if (mine) say(i, at, message.port, settings.asChannel);
            if (named) add(i, at, ref);
        }
    }

    /// Channel events at the place of a message; parts of one channel name the same.
    void say(std::size_t i, const EventPlace& at, int port, const std::vector<SaidByChannel>& messages) {
        const Channel channel = m_song.parts[i].source.channel;
        const auto [first, fresh] =
            m_made.try_emplace({at.ref, channel.value}, static_cast<std::uint32_t>(m_song.made.size()));
        std::uint32_t index = first->second;
        for (const SaidByChannel& said : messages) {
            if (fresh)
                m_song.made.push_back(
                    {{m_song.event(at.ref).tick, static_cast<std::uint8_t>(said.kind | channel.value),
                      said.data1, said.data2, static_cast<std::uint8_t>(port)},
                     at.ref.track});
            add(i, at, {madeTrack, index++});
        }
    }

    void add(std::size_t i, const EventPlace& at, EventRef ref) {
        if (m_count++ < mostFollowed) m_added[i].emplace_back(at, ref);
    }

    using Added = std::vector<std::pair<EventPlace, EventRef>>;
    void merge(Part& part, const Added& added) const {
        EventRefs all;
        auto next = added.begin();
        for (const EventRef ref : *part.source.events) {
            const EventPlace here{m_song.tickOf(ref), ref};
            for (; next != added.end() && next->first < here; ++next) all.push_back(next->second);
            all.push_back(ref);
        }
        for (; next != added.end(); ++next) all.push_back(next->second);
        part.source.events = Shared(std::move(all));
    }

    Song& m_song;
    bool m_volumeMoves;
    std::vector<Heard> m_heard;                               ///< by part
    std::map<int, EventPlace> m_firstNotes;                   ///< by port
    std::map<std::pair<EventRef, int>, std::uint32_t> m_made; ///< the first of them, by message and channel
    std::vector<Added> m_added;                               ///< by part, in order
    std::size_t m_count = 0;
};

} // namespace

std::vector<DialectFrom> dialectsByPort(const Song& song) {
    if (song.source->midi.type == 2) return {};
    std::map<int, Tick> firstNotes;
    for (const Part& part : song.parts)
        (void)song.any(*part.source.events, [&](const Event& event, EventRef ref) {
            if (!event.isNoteOn()) return false;
            const auto [at, fresh] = firstNotes.try_emplace(part.source.port, song.tickOf(ref));
            if (!fresh) at->second = std::min(at->second, song.tickOf(ref));
            return true;
        });
    std::map<int, Dialect> reached;
    std::vector<DialectFrom> found;
    bool differ = false;
    for (const PlacedSettings& message : deviceSettingsOf(song.source->midi)) {
        const auto firstNote = firstNotes.find(message.port);
        Dialect& richest = reached[message.port];
        if (message.settings.reset <= richest || firstNote == firstNotes.end()) continue;
        richest = message.settings.reset;
        const Tick tick = song.tickOf({message.place.track, message.place.first});
        found.push_back({tick, message.port, richest});
        differ = differ || tick > firstNote->second;
    }
    for (const auto& [port, dialect] : reached)
        differ = differ || (dialect != Dialect::None && dialect != song.dialect);
    return differ ? found : std::vector<DialectFrom>{};
}

Dialect dialectAt(const SongFrame& song, int port, Tick tick) {
    std::optional<Dialect> found;
    for (const DialectFrom& from : *song.dialects) {
        if (from.port != port) continue;
        if (!found) found = Dialect::None;
        if (from.tick <= tick) found = from.dialect;
    }
    return found.value_or(song.dialect);
}

DeviceSettings deviceSettingsAt(const SongEvents& song, EventRef ref) {
    if (ref.isMade() || !song.event(ref).isSysex()) return {};
    return DeviceReader().take(sysexFrom(song.source->midi, ref.track, ref.index));
}

void followDevice(Song& song) {
    const auto messages = deviceSettingsOf(song.source->midi);
    if (!messages.empty()) Follower(song, messages).follow();
}

} // namespace cobbleway
