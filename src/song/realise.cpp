#include "song/realise.h"

#include "song/asks.h"
#include "song/controllers.h"
#include "song/notes.h"
#include "song/rangefit.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <optional>

namespace cobbleway {
namespace {

bool hasKey(const Event& event) {
    return event.kind() == 0x80 || event.kind() == 0x90 || event.kind() == 0xA0;
}

std::uint8_t shaped(double velocity, const VelocityShape& shape, double mean) {
    const double even = mean + (velocity - mean) * (1 - shape.compress);
    return static_cast<std::uint8_t>(std::clamp(std::lround(even * shape.scale) + shape.offset, 1L, 127L));
}

/// The channel events of a part, each on the part's port and channel and in the song's time.
template <class Visit> void forEachEvent(const Song& song, const Part& part, Visit visit) {
    for (const EventRef ref : *part.events) {
        Event event = song.event(ref);
        if (!event.isChannel()) continue;
        event.tick = song.tickOf(ref);
        event.status = static_cast<std::uint8_t>(event.kind() | part.channel.value);
        event.port = static_cast<std::uint8_t>(part.port);
        visit(event, ref);
    }
}

/// What is left of a controller's points, to be handed out in order.
class ThinnedControllers {
  public:
    ThinnedControllers(const Song& song, const Part& part) {
        for (const auto& [id, plan] : part.controllers)
            if (!plan.drop) m_kept[id] = {thinned(controlPoints(song, part, id), plan.tolerance), 0};
    }

    /// Whether an event stays; its value may change.
    bool takes(Event& event) {
        if (m_kept.empty()) return true;
        const auto at = m_kept.find(controllerOf(event));
        if (at == m_kept.end()) return true;
        auto& [points, next] = at->second;
        if (next >= points.size() || points[next].tick != event.tick) return false;
        const int value = points[next++].value;
        if (event.kind() == 0xE0) {
            event.data1 = static_cast<std::uint8_t>(value & 0x7F);
            event.data2 = static_cast<std::uint8_t>(value >> 7);
        } else {
            (event.kind() == 0xD0 ? event.data1 : event.data2) = static_cast<std::uint8_t>(value);
        }
        return true;
    }

  private:
    struct Kept {
        std::vector<ControlPoint> points;
        std::size_t next = 0;
    };
    std::map<ControllerId, Kept> m_kept;
};

class Realiser {
  public:
    Realiser(const Song& song, const Part& part, std::vector<EventRef>* origins)
        : m_song(song), m_part(part), m_origins(origins), m_thinned(song, part), m_origin(song),
          m_shift(shiftOf(song, part)),
          m_shapes(part.velocity != VelocityShape{} || !part.keyVelocity.empty()) {
        m_line.events.reserve(part.events->size());
        if (origins) origins->clear();
        if (part.velocity.compress != 0 || !part.keyVelocity.empty()) findMeans();
    }

    Line run() {
        forEachEvent(m_song, m_part, [this](Event& event, EventRef ref) { take(event, ref); });
        for (Note& note : m_line.notes)
            if (note.end < note.start) note.end = std::max(note.start, m_song.end);
        if (m_part.unisons != Unisons::KeepBoth) settleUnisons();
        return std::move(m_line);
    }

  private:
    void findMeans() {
        std::array<double, 128> sums{}, counts{};
        for (const EventRef ref : *m_part.events) {
            const Event& event = m_song.event(ref);
            if (!event.isNoteOn()) continue;
            sums[event.data1 & 0x7FU] += event.data2;
            counts[event.data1 & 0x7FU] += 1;
        }
        double sum = 0, count = 0;
        for (std::size_t key = 0; key < 128; ++key) {
            sum += sums[key];
            count += counts[key];
            m_keyMeans[key] = counts[key] > 0 ? sums[key] / counts[key] : 0;
        }
        m_mean = count > 0 ? sum / count : 0;
    }

    void take(Event& event, EventRef ref) {
        if ((m_part.chosen || !m_part.followsPrograms) && event.choosesSound()) return;
        if (!m_part.controllers.empty()) {
            const ControllerId id = controllerOf(event);
            if (id >= 0 && (m_part.drops(id) || !m_thinned.takes(event))) return;
        }
        if (m_shapes && event.isNoteOn()) shape(event);
        if (m_shift != 0 && hasKey(event)) event.data1 = shiftedKey(Key{event.data1}, m_shift).value;
        if (m_part.folded && !m_part.drums && hasKey(event))
            event.data1 = foldedKey(Key{event.data1}, *m_part.folded).value;
        const auto index = static_cast<std::uint32_t>(m_line.events.size());
        if (event.isNoteOn()) {
            m_pairs.on(m_origin.of(m_song.trackOf(ref), m_song.event(ref)), event.data1,
                       static_cast<std::uint32_t>(m_line.notes.size()));
            m_line.notes.push_back({event.tick, -1, Key{event.data1}, Velocity{event.data2}});
            if (m_part.unisons != Unisons::KeepBoth) m_events.push_back({index, noEvent});
        } else if (event.isNoteOff()) {
            const std::uint32_t note =
                m_pairs.off(m_origin.of(m_song.trackOf(ref), m_song.event(ref)), event.data1);
            if (note != noEvent) {
                m_line.notes[note].end = event.tick;
                if (m_part.unisons != Unisons::KeepBoth) m_events[note].off = index;
            }
        }
        m_line.events.push_back(event);
        if (m_origins) m_origins->push_back(ref);
    }

    void shape(Event& event) const {
        const std::uint8_t key = event.data1;
        if (m_part.velocity != VelocityShape{}) event.data2 = shaped(event.data2, m_part.velocity, m_mean);
        if (const auto at = m_part.keyVelocity.find(key); at != m_part.keyVelocity.end())
            event.data2 = shaped(event.data2, at->second, m_keyMeans[key & 0x7FU]);
    }

    /// Joins notes of one key that start together, and cuts those that overlap.
    void settleUnisons() {
        std::array<std::uint32_t, 128> last{};
        last.fill(noEvent);
        std::vector<char> gone(m_line.notes.size(), 0);
        for (std::uint32_t i = 0; i < m_line.notes.size(); ++i) {
            Note& note = m_line.notes[i];
            std::uint32_t& before = last[note.key.value & 0x7FU];
            if (before != noEvent) {
                Note& kept = m_line.notes[before];
                if (kept.start == note.start) {
                    kept.end = std::max(kept.end, note.end);
                    kept.velocity = std::max(kept.velocity, note.velocity);
                    gone[i] = 1;
                    continue;
                }
                if (m_part.unisons == Unisons::Cut) kept.end = std::min(kept.end, note.start);
            }
            before = i;
        }
        rebuild(gone);
    }

    /// Writes the settled notes back into events: ends at their new places, those gone left out.
    void rebuild(const std::vector<char>& gone) {
        struct Placed {
            Event event;
            EventRef from;
            std::size_t on;
        };
        std::vector<char> isOff(m_line.events.size(), 0);
        std::vector<Placed> ends;
        for (std::size_t i = 0; i < m_line.notes.size(); ++i) {
            const auto [on, off] = m_events[i];
            if (off != noEvent) isOff[off] = 1;
            if (gone[i]) {
                isOff[on] = 1;
                continue;
            }
            m_line.events[on].data2 = m_line.notes[i].velocity.value;
            Event end = off != noEvent ? m_line.events[off] : m_line.events[on];
            if (off == noEvent)
                end = {0, static_cast<std::uint8_t>(0x80 | m_part.channel.value), end.data1, 64, end.port};
            end.tick = m_line.notes[i].end;
            ends.push_back({end, m_origins ? (*m_origins)[off != noEvent ? off : on] : EventRef{}, on});
        }
        std::stable_sort(ends.begin(), ends.end(),
                         [](const Placed& a, const Placed& b) { return a.event.tick < b.event.tick; });
        std::vector<Event> events;
        std::vector<EventRef> from;
        auto end = ends.begin();
        const auto put = [&](const Event& event, EventRef ref) {
            events.push_back(event);
            if (m_origins) from.push_back(ref);
        };
        for (std::size_t i = 0; i < m_line.events.size(); ++i) {
            if (isOff[i]) continue;
            for (; end != ends.end() && end->event.tick <= m_line.events[i].tick && end->on < i; ++end)
                put(end->event, end->from);
            put(m_line.events[i], m_origins ? (*m_origins)[i] : EventRef{});
        }
        for (; end != ends.end(); ++end) put(end->event, end->from);
        m_line.events = std::move(events);
        if (m_origins) *m_origins = std::move(from);
        std::vector<Note> notes;
        for (std::size_t i = 0; i < m_line.notes.size(); ++i)
            if (!gone[i]) notes.push_back(m_line.notes[i]);
        m_line.notes = std::move(notes);
    }

    struct Pair {
        std::uint32_t on, off;
    };
    const Song& m_song;
    const Part& m_part;
    std::vector<EventRef>* m_origins;
    ThinnedControllers m_thinned;
    Origins m_origin;
    NotePairs m_pairs;
    std::vector<Pair> m_events; ///< of each note, where its events stand; only for unisons
    int m_shift;
    bool m_shapes;
    double m_mean = 0;
    std::array<double, 128> m_keyMeans{};
    Line m_line;
};

} // namespace

Key shiftedKey(Key key, int semitones) {
    int shifted = key.value + semitones;
    while (shifted < 0) shifted += 12;
    while (shifted > 127) shifted -= 12;
    return Key{static_cast<std::uint8_t>(shifted)};
}

int shiftOf(const Song& song, const Part& part) {
    return part.drums ? 0 : song.keyShift + 12 * part.octaves + part.semitones;
}

Line realise(const Song& song, const Part& part, std::vector<EventRef>* origins) {
    return Realiser(song, part, origins).run();
}

PartFacts factsOf(const Song& song, const Part& part) {
    PartFacts facts;
    std::array<bool, 128> used{};
    for (const EventRef ref : *part.events) {
        const Event& event = song.event(ref);
        if (event.kind() == 0xB0) used[event.data1 & 0x7FU] = true;
        if (!event.isNoteOn()) continue;
        ++facts.notes;
        facts.lowest = std::min(facts.lowest, Key{event.data1});
        facts.highest = std::max(facts.highest, Key{event.data1});
    }
    for (std::size_t i = 0; i < used.size(); ++i)
        if (used[i]) facts.controllers.push_back(static_cast<std::uint8_t>(i));
    for (const Ask& ask : asksOf(song, part))
        if (ask.program &&
            std::find(facts.programs.begin(), facts.programs.end(), *ask.program) == facts.programs.end())
            facts.programs.push_back(*ask.program);
    return facts;
}

} // namespace cobbleway
