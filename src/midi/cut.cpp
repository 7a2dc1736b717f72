#include "midi/cut.h"

#include <algorithm>
#include <map>
#include <span>
#include <tuple>

namespace cobbleway {
namespace {

constexpr int noParameter = -1;

/// What has been said on one channel so far, as short as it can be said anew.
class ChannelPast {
  public:
    void take(const Event& event) {
        if (event.kind() == 0xB0 && takeParameter(event)) return;
        // The last of a kind, at its place in the order: a reset between two values holds for the first.
        const bool ofKey = event.kind() == 0xB0 || event.kind() == 0xA0;
        std::erase_if(m_last, [&](const Event& e) {
            return e.status == event.status && (!ofKey || e.data1 == event.data1);
        });
        m_last.push_back(event);
    }

    template <class Say> void say(Say to) const {
        for (const Event& event : m_last) to(event);
        for (const auto& [number, entries] : m_parameters) {
            if (entries.empty()) continue;
            sayParameter(number, entries.front(), to);
            for (const Event& event : entries) to(event);
        }
        if (m_parameter != noParameter) sayParameter(m_parameter, m_chosenBy, to);
    }

  private:
    /// Chooses a parameter (RPN or NRPN, MIDI 1.0), or sets the one that is chosen.
    bool takeParameter(const Event& event) {
        const int value = event.data2;
        switch (event.data1) {
        case cc::rpnMsb:
        case cc::nrpnMsb: choose(event, event.data1 == cc::nrpnMsb, value, m_parameter & 0x7F); return true;
        case cc::rpnLsb:
        case cc::nrpnLsb:
            choose(event, event.data1 == cc::nrpnLsb, (m_parameter >> 7) & 0x7F, value);
            return true;
        case cc::dataEntryMsb:
        case cc::dataEntryLsb: {
            // A coarse value begins anew what steps have changed; the fine one before it still counts.
            auto& entries = m_parameters[m_parameter];
            std::erase_if(entries, [&](const Event& e) {
                return e.data1 == event.data1 ||
                       (event.data1 == cc::dataEntryMsb && e.data1 != cc::dataEntryLsb);
            });
            entries.push_back(event);
            return true;
        }
        case cc::dataIncrement:
        case cc::dataDecrement: m_parameters[m_parameter].push_back(event); return true;
        default: return false;
        }
    }

    void choose(const Event& event, bool ofMaker, int msb, int lsb) {
        m_parameter = (ofMaker ? 1 << 14 : 0) | msb << 7 | lsb;
        m_chosenBy = event;
    }

    template <class Say> static void sayParameter(int number, Event like, Say to) {
        if (number == noParameter) return;
        const bool ofMaker = number & 1 << 14;
        like.status = static_cast<std::uint8_t>(0xB0 | (like.status & 0x0F));
        like.data1 = ofMaker ? cc::nrpnMsb : cc::rpnMsb;
        like.data2 = static_cast<std::uint8_t>((number >> 7) & 0x7F);
        to(like);
        like.data1 = ofMaker ? cc::nrpnLsb : cc::rpnLsb;
        like.data2 = static_cast<std::uint8_t>(number & 0x7F);
        to(like);
    }

    std::vector<Event> m_last;
    std::map<int, std::vector<Event>>
        m_parameters; ///< what set them, by number; 1 << 14 is added to a maker's
    int m_parameter = noParameter;
    Event m_chosenBy;
};

/// Metas that hold for the whole track wherever they stand.
bool isName(const Event& event) {
    return event.isMeta(meta::trackName) || event.isMeta(meta::instrumentName) ||
           event.isMeta(meta::copyright) || event.isMeta(meta::port) || event.isMeta(meta::sequenceNumber) ||
           event.isMeta(meta::programName) || event.isMeta(meta::deviceName) ||
           event.isMeta(meta::channelPrefix);
}

/// Metas of which the last reigns.
bool reigns(const Event& event) {
    return event.isMeta(meta::tempo) || event.isMeta(meta::timeSignature) || event.isMeta(meta::keySignature);
}

/// Cuts one track.
class Cutter {
  public:
    Cutter(Tick from, Tick to, CutPlace place)
        : m_from(from), m_to(std::max(from, to)), m_atStart(place == CutPlace::AtStart) {}

    Track cut(const Track& track) {
        const auto& events = track.events;
        for (std::size_t i = 0; i < events.size() && events[i].tick < m_to; ++i) {
            const Event& event = events[i];
            if (!m_begun && event.tick >= m_from) {
                endBefore(std::span(events).subspan(i));
                begin();
            }
            if (event.tick == m_from && event.isNoteOff() && m_ended[placeOf(event)] > 0)
                --m_ended[placeOf(event)];
            else if (event.isChannel() && isNoteStatus(event.status))
                takeNote(event);
            else if (event.tick >= m_from)
                add(event);
            else
                takeBefore(event);
        }
        if (!m_begun) begin();
        for (auto& [place, notes] : m_open)
            for (Event note : notes) {
                note.tick = m_to;
                note.status = static_cast<std::uint8_t>(0x80 | (note.status & 0x0F));
                note.data2 = 64;
                add(note);
            }
        m_cut.end = at(m_to);
        return std::move(m_cut);
    }

  private:
    using Place = std::tuple<int, int, int>; ///< port, channel and key
    static Place placeOf(const Event& event) { return {event.port, event.channel().value, event.data1}; }
    [[nodiscard]] Tick at(Tick tick) const { return m_atStart ? std::max<Tick>(0, tick - m_from) : tick; }
    void add(Event event) {
        event.tick = at(event.tick);
        m_cut.events.push_back(event);
    }

    /// What is no note and comes before the stretch.
    void takeBefore(const Event& event) {
        const bool isText = event.isMeta() && !isName(event) && !reigns(event);
        if (isText) return;
        if (!m_atStart) return add(event);
        if (event.isChannel()) {
            m_past[{event.port, event.channel().value}].take(event);
            return;
        }
        if (reigns(event)) std::erase_if(m_kept, [&](const Event& e) { return e.isMeta(event.data1); });
        m_kept.push_back(event);
    }

    /// Ends the notes that end where the stretch begins; `rest`: the events from there on.
    void endBefore(std::span<const Event> rest) {
        for (const Event& event : rest) {
            if (event.tick != m_from) return;
            auto& open = m_open[placeOf(event)];
            if (!event.isNoteOff() || open.empty()) continue;
            open.erase(open.begin());
            ++m_ended[placeOf(event)];
        }
    }

    void takeNote(const Event& event) {
        auto& open = m_open[placeOf(event)];
        if (event.isNoteOn()) {
            if (event.tick >= m_from) add(event);
            open.push_back(event);
            return;
        }
        if (open.empty()) return;
        open.erase(open.begin()); // the first that began ends first
        if (m_begun) add(event);
    }

    /// Says at the start of the stretch what reigns there, and begins the notes that sound already.
    void begin() {
        m_begun = true;
        const auto say = [this](Event event) {
            event.tick = m_from;
            add(event);
        };
        for (const Event& event : m_kept) say(event);
        for (const auto& [channel, past] : m_past) past.say(say);
        if (m_to == m_from) m_open.clear();
        for (const auto& [place, notes] : m_open)
            for (const Event& note : notes) say(note);
    }

    Tick m_from, m_to;
    bool m_atStart, m_begun = false;
    Track m_cut;
    std::vector<Event> m_kept; ///< device messages, names and what reigns
    std::map<std::pair<int, int>, ChannelPast> m_past;
    std::map<Place, std::vector<Event>> m_open; ///< notes that sound, the first that began first
    std::map<Place, int> m_ended; ///< how many ends at the first tick are of notes from before it
};

} // namespace

MidiFile cutOut(const MidiFile& midi, Tick from, Tick to, CutPlace place) {
    MidiFile cut = midi;
    cut.besideNotes.clear();
    for (Track& track : cut.tracks) track = Cutter(std::max<Tick>(0, from), to, place).cut(track);
    return cut;
}

MidiFile portAlone(const MidiFile& midi, int port) {
    MidiFile alone = midi;
    alone.besideNotes.clear();
    alone.tracks.clear();
    const auto isChannel = [](const Event& event) { return event.isChannel(); };
    for (const Track& track : midi.tracks) {
        Track kept = track;
        std::erase_if(kept.events, [&](const Event& event) {
            return event.isMeta(meta::port) || ((event.isChannel() || event.isSysex()) && event.port != port);
        });
        const bool played = std::any_of(track.events.begin(), track.events.end(), isChannel);
        if (played && std::none_of(kept.events.begin(), kept.events.end(), isChannel)) continue;
        for (Event& event : kept.events) event.port = 0;
        alone.tracks.push_back(std::move(kept));
    }
    return alone;
}

MidiFile notesAndNames(const MidiFile& midi) {
    MidiFile bare = midi;
    bare.besideNotes.clear();
    for (Track& track : bare.tracks)
        std::erase_if(track.events, [](const Event& event) {
            if (event.isChannel()) return !isNoteStatus(event.status);
            return !(reigns(event) || event.isMeta(meta::trackName) || event.isMeta(meta::marker) ||
                     event.isMeta(meta::lyric) || event.isMeta(meta::text) || event.isMeta(meta::copyright) ||
                     event.isMeta(meta::port));
        });
    return bare;
}

} // namespace cobbleway
