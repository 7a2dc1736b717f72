#include "song/heard/realise.h"

#include "song/heard/controllers.h"
#include "song/heard/notes.h"
#include "song/model/devicestate.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <optional>

namespace cobbleway {
namespace {

bool hasKey(const Event& event) {
    return event.kind() == 0x80 || event.kind() == 0x90 || event.kind() == 0xA0;
}

/// What is left of a controller's points, to be handed out in order.
class ThinnedControllers {
  public:
    ThinnedControllers(const SongEvents& events, const PartSource& source, const PartRecipe& recipe) {
        for (const auto& [id, plan] : recipe.controllers)
            if (!plan.drop) m_kept[id] = {thinned(controlPoints(events, source, id), plan.tolerance), 0};
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

/// The transpositions of device messages. A note ends on the key on which it began.
class DeviceShift {
  public:
    [[nodiscard]] bool shifts() const { return m_shifts; }

    void take(const SongEvents& all, const Event& event, EventRef ref) {
        if (!event.isSysex()) return;
        const DeviceSettings settings = deviceSettingsAt(all, ref);
        if (settings.reset != Dialect::None) {
            m_all = 0;
            m_ofChannel.fill(0);
        }
        m_all = settings.keyShift.value_or(m_all);
        if (settings.partKeyShift)
            for (std::size_t channel = 0; channel < 16; ++channel)
                if ((settings.channels >> channel & 1) != 0) m_ofChannel[channel] = *settings.partKeyShift;
        m_shifts = m_shifts || settings.keyShift || settings.partKeyShift;
    }

    void shift(Event& event) {
        const std::size_t channel = event.channel().value;
        int& held = m_held[channel * 128 + (event.data1 & 0x7FU)];
        if (event.isNoteOn()) held = m_all + m_ofChannel[channel];
        event.data1 = shiftedKey(Key{event.data1}, held).value;
    }

  private:
    bool m_shifts = false;
    int m_all = 0;
    std::array<int, 16> m_ofChannel{};
    std::array<int, std::size_t{16} * 128> m_held{}; ///< by channel and key of the file, at its last note
};

class Realiser {
  public:
    Realiser(const SongEvents& all, int keyShift, const PartSource& source, const PartRecipe& recipe)
        : m_all(all), m_source(source), m_recipe(recipe), m_thinned(all, source, recipe), m_origin(all),
          m_shift(shiftOf(keyShift, source, recipe)), m_mapped(!recipe.drumMap.empty()),
          m_shaped(recipe.velocity != VelocityShape{}), m_hitLength(source.drums ? recipe.hitLength : 0),
          m_settles(recipe.unisons != Unisons::KeepBoth || m_hitLength > 0) {
        if (recipe.velocity.compress != 0 || m_mapped) findMeans();
        if (m_mapped)
            for (const auto& [key, plan] : recipe.drumMap) m_plans[key & 0x7FU] = &plan;
    }

    HeardPart notes() {
        HeardPart heard;
        m_notes.reserve(m_source.events->size() / 2);
        m_pairs.reserve(m_source.events->size() / 2);
        eachEvent([&](const Event& event, EventRef ref) {
            if (!isNoteStatus(event.status))
                heard.controls.push_back(event);
            else
                (void)takeNote(event, ref);
        });
        endNotes();
        if (m_settles) dropGone(settle());
        heard.notes = std::move(m_notes);
        return heard;
    }

    std::vector<Event> events(std::vector<EventRef>* origins) {
        m_origins = origins;
        if (origins) origins->clear();
        m_events.reserve(m_source.events->size());
        eachEvent([&](const Event& event, EventRef ref) {
            if (m_settles && isNoteStatus(event.status)) takePlace(takeNote(event, ref), event.isNoteOn());
            m_events.push_back(event);
            if (origins) origins->push_back(ref);
        });
        if (m_settles) {
            endNotes();
            rebuild(settle());
        }
        return std::move(m_events);
    }

  private:
    /// All channel events that stay, shaped.
    template <class Take> void eachEvent(Take take) {
        m_all.each(*m_source.events, [&](Event event, EventRef ref) {
            if (!event.isChannel()) return m_device.take(m_all, event, ref);
            if (m_device.shifts() && !m_source.drums && hasKey(event)) m_device.shift(event);
            event.tick = m_all.tickOf(ref);
            event.status = static_cast<std::uint8_t>(event.kind() | m_source.channel.value);
            event.port = static_cast<std::uint8_t>(m_source.port);
            if (shape(event)) take(event, ref);
        });
    }

    void findMeans() {
        std::array<double, 128> sums{}, counts{};
        m_all.each(*m_source.events, [&](const Event& event, EventRef) {
            if (!event.isNoteOn()) return;
            sums[event.data1 & 0x7FU] += event.data2;
            counts[event.data1 & 0x7FU] += 1;
        });
        double sum = 0, count = 0;
        for (std::size_t key = 0; key < 128; ++key) {
            sum += sums[key];
            count += counts[key];
            m_keyMeans[key] = counts[key] > 0 ? sums[key] / counts[key] : 0;
        }
        m_mean = count > 0 ? sum / count : 0;
    }

    /// Does to an event what the recipe says of it alone; false when it is left out.
    bool shape(Event& event) {
        if (!m_recipe.controllers.empty()) {
            const ControllerId id = controllerOf(event);
            if (id >= 0 && (m_recipe.drops(id) || !m_thinned.takes(event))) return false;
        }
        if (event.isNoteOn() && m_shaped)
            event.data2 = static_cast<std::uint8_t>(shapedVelocity(event.data2, m_recipe.velocity, m_mean));
        if (m_mapped && hasKey(event) && !playDrum(event)) return false;
        if (m_shift != 0 && hasKey(event)) event.data1 = shiftedKey(Key{event.data1}, m_shift).value;
        if (m_recipe.folded && !m_source.drums && hasKey(event))
            event.data1 = foldedKey(Key{event.data1}, *m_recipe.folded).value;
        return true;
    }

    /// Begins or ends a note; gives its number, noEvent for an end of nothing.
    std::uint32_t takeNote(const Event& event, EventRef ref) {
        const std::size_t origin = m_origin.numberOf(m_all.trackOf(ref), m_all.event(ref));
        if (!event.isNoteOn()) {
            const std::uint32_t ended = m_pairs.off(origin, event.data1);
            if (ended != noEvent)
                m_notes[ended].end = event.tick;
            else
                m_loose.add({origin, event.data1, event.tick, static_cast<std::uint32_t>(m_events.size())});
            return ended;
        }
        const auto note = static_cast<std::uint32_t>(m_notes.size());
        m_pairs.on(origin, event.data1, note);
        m_notes.push_back({event.tick, -1, Key{event.data1}, Velocity{event.data2}});
        return note;
    }

    /// Remembers that the next event is the start or the end of a note.
    void takePlace(std::uint32_t note, bool start) {
        const auto index = static_cast<std::uint32_t>(m_events.size());
        if (start)
            m_places.push_back({index, noEvent});
        else if (note != noEvent)
            m_places[note].off = index;
    }

    /// Notes that their own track does not end; those that nothing ends last to the end of the song.
    void endNotes() {
        m_loose.settle(
            m_pairs, m_origin, [this](std::uint32_t note) { return m_notes[note].start; },
            [this](std::uint32_t note, const LooseEnds::End& end) {
                m_notes[note].end = end.tick;
                if (note < m_places.size()) m_places[note].off = end.event;
            });
        for (Note& note : m_notes)
            if (note.end < note.start) note.end = std::max(note.start, m_all.end);
    }

    /// Does to an event of a drum what its plan says; false when the drum is left out.
    bool playDrum(Event& event) const {
        const DrumPlan* plan = m_plans[event.data1 & 0x7FU];
        if (!plan) return true;
        if (plan->off && m_source.drums) return false;
        if (event.isNoteOn() && plan->trim != VelocityShape{})
            event.data2 = static_cast<std::uint8_t>(
                shapedVelocity(event.data2, plan->trim, m_keyMeans[event.data1 & 0x7FU]));
        if (plan->target && m_source.drums) event.data1 = plan->target->value;
        return true;
    }

    /// Gives hits their length, joins notes of one key that start together, and cuts those that overlap.
    /// Gives for each note whether it is gone.
    std::vector<char> settle() {
        std::array<std::uint32_t, 128> last{};
        last.fill(noEvent);
        std::vector<char> gone(m_notes.size(), 0);
        for (std::uint32_t i = 0; i < m_notes.size(); ++i) {
            Note& note = m_notes[i];
            if (m_hitLength > 0)
                note.end = std::max(note.start, std::min(note.start + m_hitLength, m_all.end));
            std::uint32_t& before = last[note.key.value & 0x7FU];
            if (before != noEvent && m_recipe.unisons != Unisons::KeepBoth) {
                Note& kept = m_notes[before];
                if (kept.start == note.start) {
                    kept.end = std::max(kept.end, note.end);
                    kept.velocity = std::max(kept.velocity, note.velocity);
                    gone[i] = 1;
                    continue;
                }
                if (m_recipe.unisons == Unisons::Cut) kept.end = std::min(kept.end, note.start);
            }
            before = i;
        }
        return gone;
    }

    void dropGone(const std::vector<char>& gone) {
        std::size_t kept = 0;
        for (std::size_t i = 0; i < m_notes.size(); ++i)
            if (!gone[i]) m_notes[kept++] = m_notes[i];
        m_notes.resize(kept);
    }

    /// Writes the settled notes back into events: ends at their new places, those gone left out.
    void rebuild(const std::vector<char>& gone) {
        struct Placed {
            Event event;
            EventRef from;
            std::size_t on;
        };
        std::vector<char> isOff(m_events.size(), 0);
        std::vector<Placed> ends;
        for (std::size_t i = 0; i < m_notes.size(); ++i) {
            const auto [on, off] = m_places[i];
            if (off != noEvent) isOff[off] = 1;
            if (gone[i]) {
                isOff[on] = 1;
                continue;
            }
            m_events[on].data2 = m_notes[i].velocity.value;
            Event end = off != noEvent ? m_events[off] : m_events[on];
            if (off == noEvent)
                end = {0, static_cast<std::uint8_t>(0x80 | m_source.channel.value), end.data1, 64, end.port};
            end.tick = m_notes[i].end;
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
        for (std::size_t i = 0; i < m_events.size(); ++i) {
            if (isOff[i]) continue;
            for (; end != ends.end() && end->event.tick <= m_events[i].tick && end->on < i; ++end)
                put(end->event, end->from);
            put(m_events[i], m_origins ? (*m_origins)[i] : EventRef{});
        }
        for (; end != ends.end(); ++end) put(end->event, end->from);
        m_events = std::move(events);
        if (m_origins) *m_origins = std::move(from);
    }

    struct Pair {
        std::uint32_t on, off;
    };
    const SongEvents& m_all;
    const PartSource& m_source;
    const PartRecipe& m_recipe;
    std::vector<EventRef>* m_origins = nullptr;
    ThinnedControllers m_thinned;
    Origins m_origin;
    NotePairs m_pairs;
    LooseEnds m_loose;
    DeviceShift m_device;
    std::vector<Pair> m_places; ///< of each note, where its events stand; only to settle events
    int m_shift;
    bool m_mapped;
    bool m_shaped; ///< velocities are shaped
    Tick m_hitLength;
    bool m_settles;
    std::array<const DrumPlan*, 128> m_plans{};
    double m_mean = 0;
    std::array<double, 128> m_keyMeans{};
    std::vector<Note> m_notes;
    std::vector<Event> m_events;
};

} // namespace

int shapedVelocity(int velocity, const VelocityShape& shape, double mean) {
    const double even = mean + (velocity - mean) * (1 - shape.compress);
    return static_cast<int>(std::clamp(std::lround(even * shape.scale) + shape.offset, 1L, 127L));
}

Key shiftedKey(Key key, int semitones) {
    int shifted = key.value + semitones;
    while (shifted < 0) shifted += 12;
    while (shifted > 127) shifted -= 12;
    return Key{static_cast<std::uint8_t>(shifted)};
}

int shiftOf(int keyShift, const PartSource& source, const PartRecipe& recipe) {
    return source.drums ? 0 : keyShift + 12 * recipe.octaves + recipe.semitones;
}

Key foldedKey(Key key, const KeyRange& range) {
    int folded = key.value;
    while (folded < range.lowest) folded += 12;
    while (folded > range.highest) folded -= 12;
    return folded < range.lowest || folded > 127 ? key : Key{static_cast<std::uint8_t>(folded)};
}

HeardPart realise(const SongEvents& events, int keyShift, const PartSource& source,
                  const PartRecipe& recipe) {
    return Realiser(events, keyShift, source, recipe).notes();
}

std::vector<Event> realisedEvents(const SongEvents& events, int keyShift, const PartSource& source,
                                  const PartRecipe& recipe, std::vector<EventRef>* origins) {
    return Realiser(events, keyShift, source, recipe).events(origins);
}

} // namespace cobbleway
