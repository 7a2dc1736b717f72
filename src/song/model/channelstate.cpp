#include "song/model/channelstate.h"

#include "song/model/song.h"

#include <algorithm>
#include <array>
#include <map>
#include <optional>
#include <set>

namespace cobbleway {
namespace {

/// What a channel has one of. Numbers below 120 are controllers that stand for themselves.
using Aspect = int;
constexpr Aspect none = -1, program = 200, bank = 201, parameters = 202, bend = 203, pressure = 204,
                 keyPressure = 205;

Aspect aspectOf(const Event& event) {
    switch (event.kind()) {
    case 0xA0: return keyPressure;
    case 0xC0: return program;
    case 0xD0: return pressure;
    case 0xE0: return bend;
    case 0xB0: break;
    default: return none;
    }
    const int number = event.data1;
    if (number == cc::bankMsb || number == cc::bankLsb) return bank;
    if (number == cc::dataEntryMsb || number == cc::dataEntryLsb || (number >= 96 && number <= 101))
        return parameters;
    if (number >= 120) return none;
    return number < 64 ? number & 0x1F : number; // 32–63 are the fine half of 0–31
}

/// What one part says of its channel, and when it plays.
struct Voice {
    std::size_t part = 0;
    std::map<Aspect, std::vector<EventPlace>> says; ///< in order
    std::set<int> parameterNumbers;
    std::optional<EventPlace> firstNote;
    Tick last = 0; ///< of its events
    std::vector<EventPlace> follows;
    [[nodiscard]] std::optional<EventPlace> first(Aspect aspect) const {
        const auto at = says.find(aspect);
        return at == says.end() ? std::nullopt : std::optional(at->second.front());
    }
    [[nodiscard]] bool plays() const { return firstNote.has_value(); }
};

/// The parts of one channel.
class ChannelVoices {
  public:
    ChannelVoices(const Song& song, const std::vector<std::size_t>& parts) : m_song(song) {
        for (const std::size_t part : parts) m_voices.push_back(listen(part));
    }

    std::vector<Voice>& followed() {
        std::map<Aspect, std::vector<std::pair<EventPlace, std::size_t>>> all; // with whose it is
        for (std::size_t v = 0; v < m_voices.size(); ++v)
            for (const auto& [aspect, places] : m_voices[v].says)
                for (const EventPlace& place : places) all[groupOf(v, aspect)].emplace_back(place, v);
        for (auto& [aspect, places] : all) {
            std::sort(places.begin(), places.end());
            for (std::size_t v = 0; v < m_voices.size(); ++v) follow(v, aspect, places);
        }
        endNotes();
        return m_voices;
    }

  private:
    Voice listen(std::size_t part) const {
        Voice voice;
        voice.part = part;
        int msb = -1, lsb = -1;
        const EventRefs& refs = *m_song.parts[part].source.events;
        m_song.eachBesideNotes(refs, [&](const Event& event, EventRef ref) {
            const Aspect aspect = event.isChannel() ? aspectOf(event) : none;
            if (aspect == none) return;
            voice.says[aspect].push_back({m_song.tickOf(ref), ref});
            if (event.isController(cc::rpnMsb)) msb = event.data2;
            if (event.isController(cc::rpnLsb)) lsb = event.data2;
            if (event.isController(cc::nrpnMsb)) msb = 128 + event.data2;
            if (event.isController(cc::nrpnLsb)) lsb = 128 + event.data2;
            if (event.isController(cc::dataEntryMsb) || event.isController(cc::dataEntryLsb))
                voice.parameterNumbers.insert(msb * 256 + lsb);
        });
        (void)m_song.any(refs, [&](const Event& event, EventRef ref) {
            if (event.isNoteOn()) voice.firstNote = EventPlace{m_song.tickOf(ref), ref};
            return voice.plays();
        });
        if (!refs.empty()) voice.last = m_song.tickOf(refs[refs.size() - 1]);
        return voice;
    }

    /// Where programs and banks stand together, they are one aspect.
    [[nodiscard]] Aspect groupOf(std::size_t v, Aspect aspect) const {
        return aspect == bank && m_voices[v].says.contains(program) ? program : aspect;
    }

    void follow(std::size_t v, Aspect aspect, const std::vector<std::pair<EventPlace, std::size_t>>& places) {
        Voice& voice = m_voices[v];
        if (!voice.plays()) return;
        const auto own = voice.first(aspect); // from there on it hears itself alone
        const bool before = own && *own < *voice.firstNote;
        if (before && (aspect != parameters || saysAll(v))) return;
        // Of what comes before the first note the last of each kind is enough, but where they work together.
        const bool together = aspect == parameters || aspect == program || aspect == bank;
        auto from = places.begin();
        if (!together) {
            const auto sounding = std::partition_point(
                places.begin(), places.end(), [&](const auto& p) { return p.first < *voice.firstNote; });
            std::set<std::pair<int, int>> seen;
            for (auto at = sounding; at != places.begin() && seen.size() < mostKinds(aspect);) {
                --at;
                const Event& event = m_song.event(at->first.ref);
                if (at->second != v &&
                    seen.emplace(event.kind(), event.kind() == 0xB0 || event.kind() == 0xA0 ? event.data1 : 0)
                        .second)
                    voice.follows.push_back(at->first);
            }
            from = sounding;
        }
        for (auto at = from; at != places.end(); ++at) {
            if ((own && *own < at->first) || at->first.tick > voice.last) break;
            if (at->second != v) voice.follows.push_back(at->first);
        }
    }

    /// How many kinds of event an aspect has, at most.
    static std::size_t mostKinds(Aspect aspect) { return aspect == keyPressure ? 128 : aspect < 32 ? 2 : 1; }

    /// Whether a part sets every parameter that any other sets.
    [[nodiscard]] bool saysAll(std::size_t v) const {
        const auto& own = m_voices[v].parameterNumbers;
        return std::all_of(m_voices.begin(), m_voices.end(), [&](const Voice& other) {
            return std::includes(own.begin(), own.end(), other.parameterNumbers.begin(),
                                 other.parameterNumbers.end());
        });
    }

    /// Hands note-offs that end nothing on their track to notes of other tracks that nothing ends.
    void endNotes() {
        struct Loose {
            EventPlace place;
            std::uint8_t key = 0;
            std::size_t voice = 0;
        };
        std::vector<Loose> open, ends;
        for (std::size_t v = 0; v < m_voices.size(); ++v) {
            std::array<std::vector<EventRef>, 128> sounding;
            std::array<std::size_t, 128> ended{};
            m_song.each(*m_song.parts[m_voices[v].part].source.events, [&](const Event& event, EventRef ref) {
                const std::size_t key = event.data1 & 0x7FU;
                if (event.isNoteOn())
                    sounding[key].push_back(ref);
                else if (event.isNoteOff()) {
                    if (ended[key] < sounding[key].size())
                        ++ended[key];
                    else
                        ends.push_back({{m_song.tickOf(ref), ref}, static_cast<std::uint8_t>(key), v});
                }
            });
            for (std::size_t key = 0; key < 128; ++key)
                for (std::size_t i = ended[key]; i < sounding[key].size(); ++i)
                    open.push_back({{m_song.tickOf(sounding[key][i]), sounding[key][i]},
                                    static_cast<std::uint8_t>(key),
                                    v});
        }
        const auto byPlace = [](const Loose& a, const Loose& b) { return a.place < b.place; };
        std::sort(ends.begin(), ends.end(), byPlace);
        std::sort(open.begin(), open.end(), byPlace);
        std::array<std::vector<Loose>, 128> waiting;
        std::array<std::size_t, 128> next{};
        for (const Loose& note : open) waiting[note.key].push_back(note);
        for (const Loose& end : ends) {
            auto& notes = waiting[end.key];
            std::size_t& at = next[end.key];
            if (at < notes.size() && notes[at].place < end.place)
                m_voices[notes[at++].voice].follows.push_back(end.place);
        }
    }

    const Song& m_song;
    std::vector<Voice> m_voices;
};

/// The part's events with those it follows, in a device's order.
EventRefs withFollowed(const Song& song, const Voice& voice) {
    const auto& own = *song.parts[voice.part].source.events;
    std::vector<EventPlace> follows = voice.follows;
    // What comes with the first note counts for it, where no program was before.
    const EventPlace first = *voice.firstNote;
    const auto chooses = [&](const EventPlace& p) { return song.event(p.ref).choosesSound(); };
    const bool programBefore = voice.first(program).value_or(EventPlace{first.tick + 1, {}}) < first ||
                               std::any_of(follows.begin(), follows.end(), [&](const EventPlace& p) {
                                   return p < first && song.event(p.ref).isProgram();
                               });
    const auto orderOf = [&](const EventPlace& p) {
        return !programBefore && p.tick == first.tick && chooses(p) && first < p ? EventPlace{p.tick, {}} : p;
    };
    std::stable_sort(follows.begin(), follows.end(), [&](const EventPlace& a, const EventPlace& b) {
        const EventPlace x = orderOf(a), y = orderOf(b);
        return x == y ? a < b : x < y;
    });
    EventRefs all;
    auto next = follows.begin();
    for (const EventRef ref : own) {
        const EventPlace place{song.tickOf(ref), ref};
        for (; next != follows.end() && orderOf(*next) < place; ++next) all.push_back(next->ref);
        all.push_back(ref);
    }
    for (; next != follows.end(); ++next) all.push_back(next->ref);
    return all;
}

} // namespace

void followChannels(Song& song) {
    if (song.source->midi.type == 2) return;
    std::map<std::pair<int, int>, std::vector<std::size_t>> channels;
    for (std::size_t i = 0; i < song.parts.size(); ++i)
        channels[{song.parts[i].source.port, song.parts[i].source.channel.value}].push_back(i);
    for (const auto& [channel, parts] : channels) {
        if (parts.size() < 2) continue;
        ChannelVoices voices(song, parts);
        std::vector<std::pair<std::size_t, EventRefs>> changed;
        for (const Voice& voice : voices.followed())
            if (!voice.follows.empty()) changed.emplace_back(voice.part, withFollowed(song, voice));
        for (auto& [part, events] : changed) song.parts[part].source.events = Shared(std::move(events));
    }
}

} // namespace cobbleway
