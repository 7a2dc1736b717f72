/// A part's notes with the events that make them, before the recipe: what splitting and joining work on.
#pragma once
#include "song/model/song.h"

#include <array>
#include <vector>

namespace cobbleway {

inline constexpr std::uint32_t noEvent = 0xFFFFFFFF;

/// Pairs note-ons with note-offs: of several notes on one key a note-off ends the one that began first.
/// Notes are told apart by origin too, so that in a part joined of several each keeps its own end.
class NotePairs {
  public:
    /// A note begins; `note` is the caller's number for it, which must count up from 0. `origin` is any
    /// number below 65 536 that is the same for the note's end.
    void on(std::size_t origin, std::uint8_t key, std::uint32_t note) {
        Keys& keys = keysOf(origin);
        key &= 0x7F;
        m_next.push_back(noEvent);
        (keys.first[key] == noEvent ? keys.first[key] : m_next[keys.last[key]]) = note;
        keys.last[key] = note;
    }
    /// The note that an end ends; noEvent when none sounds.
    std::uint32_t off(std::size_t origin, std::uint8_t key) {
        Keys& keys = keysOf(origin);
        key &= 0x7F;
        const std::uint32_t note = keys.first[key];
        if (note != noEvent) keys.first[key] = m_next[note];
        return note;
    }
    /// The note that off() would end.
    [[nodiscard]] std::uint32_t sounding(std::size_t origin, std::uint8_t key) const {
        return origin < m_origins.size() ? m_origins[origin].first[key & 0x7F] : noEvent;
    }
    void reserve(std::size_t notes) { m_next.reserve(notes); }

  private:
    struct Keys {
        std::array<std::uint32_t, 128> first, last;
        Keys() {
            first.fill(noEvent);
            last.fill(noEvent);
        }
    };
    Keys& keysOf(std::size_t origin) {
        while (m_origins.size() <= origin) m_origins.emplace_back();
        return m_origins[origin];
    }
    std::vector<Keys> m_origins;
    std::vector<std::uint32_t> m_next;
};

/// Numbers the origins of events (track, port, channel), from 0 in order of appearance.
class Origins {
  public:
    explicit Origins(const SongEvents& events) : m_events(events) {}
    std::size_t numberOf(EventRef ref) { return numberOf(m_events.trackOf(ref), m_events.event(ref)); }
    std::size_t numberOf(std::uint32_t track, const Event& event) {
        const Origin origin{track, event.port, event.channel()};
        return m_last < m_all.size() && m_all[m_last] == origin ? m_last : find(origin);
    }
    struct Origin {
        std::uint32_t track = 0;
        int port = 0;
        Channel channel;
        bool operator==(const Origin&) const = default;
    };
    [[nodiscard]] const std::vector<Origin>& all() const { return m_all; }

  private:
    std::size_t find(const Origin& origin);
    const SongEvents& m_events;
    std::vector<Origin> m_all;
    std::size_t m_last = 0;
};

/// Ends that end no note of their own track. They end notes of other tracks of the same channel of the file
/// that nothing else ends (by MIDI 1.0 a note is its channel's), the one that began first.
class LooseEnds {
  public:
    struct End {
        std::size_t origin;
        std::uint8_t key;
        Tick tick;
        std::uint32_t event; ///< the caller's number for it
    };
    void add(const End& end) { m_ends.push_back(end); }
    /// After all events were taken. `startOf(note)` gives a note's start; `ends(note, end)` is called for
    /// each note that is ended.
    template <class StartOf, class Ends>
    void settle(NotePairs& pairs, const Origins& origins, StartOf startOf, Ends ends) const {
        for (const End& end : m_ends) {
            std::size_t from = noEvent;
            for (std::size_t o = 0; o < origins.all().size(); ++o) {
                const auto& a = origins.all()[o];
                const auto& b = origins.all()[end.origin];
                const std::uint32_t note = pairs.sounding(o, end.key);
                if (note == noEvent || a.port != b.port || a.channel != b.channel || startOf(note) > end.tick)
                    continue;
                if (from == noEvent || note < pairs.sounding(from, end.key)) from = o;
            }
            if (from != noEvent) ends(pairs.off(from, end.key), end);
        }
    }

  private:
    std::vector<End> m_ends;
};

/// A note as the file has it, and where its two events stand in PartSource::events.
struct PartNote {
    std::uint32_t on = 0;
    std::uint32_t off = noEvent; ///< noEvent for a note that nothing ends
    Tick start = 0, end = 0;
    Key key;
    Velocity velocity;
};

/// All notes of a part in order of start.
std::vector<PartNote> notesOf(const SongEvents& events, const PartSource& source);

/// Where a part's events come from: one entry an origin, with how many of its notes, in order of appearance.
struct OriginCount {
    Origins::Origin origin;
    int notes = 0;
    bool operator==(const OriginCount&) const = default;
};
std::vector<OriginCount> originsOf(const SongEvents& events, const PartSource& source);

} // namespace cobbleway
