#include "song/realise.h"

#include "song/asks.h"

#include <algorithm>
#include <array>

namespace cobbleway {
namespace {

/// Pairs note-ons with note-offs, first in first out for each key.
class Pairing {
  public:
    explicit Pairing(std::vector<Note>& notes) : m_notes(notes) {
        m_first.fill(none);
        m_last.fill(none);
    }

    void on(const Event& event) {
        const std::size_t key = event.data1 & 0x7FU;
        const auto index = static_cast<std::uint32_t>(m_notes.size());
        m_notes.push_back({event.tick, -1, Key{event.data1}, Velocity{event.data2}});
        m_next.push_back(none);
        (m_first[key] == none ? m_first[key] : m_next[m_last[key]]) = index;
        m_last[key] = index;
    }

    void off(const Event& event) {
        const std::size_t key = event.data1 & 0x7FU;
        const std::uint32_t index = m_first[key];
        if (index == none) return;
        m_notes[index].end = event.tick;
        m_first[key] = m_next[index];
    }

  private:
    static constexpr std::uint32_t none = 0xFFFFFFFF;
    std::vector<Note>& m_notes;
    std::vector<std::uint32_t> m_next;
    std::array<std::uint32_t, 128> m_first{}, m_last{};
};

bool hasKey(const Event& event) {
    return event.kind() == 0x80 || event.kind() == 0x90 || event.kind() == 0xA0;
}

bool isSoundChoice(const Event& event) {
    return event.isProgram() || event.isController(cc::bankMsb) || event.isController(cc::bankLsb);
}

} // namespace

Key shiftedKey(Key key, int semitones) {
    int shifted = key.value + semitones;
    while (shifted < 0) shifted += 12;
    while (shifted > 127) shifted -= 12;
    return Key{static_cast<std::uint8_t>(shifted)};
}

Line realise(const Song& song, const Part& part) {
    Line line;
    line.events.reserve(part.events->size());
    Pairing pairing(line.notes);
    const int shift = part.drums ? 0 : song.keyShift + 12 * part.octaves;
    for (const EventRef ref : *part.events) {
        Event event = song.event(ref);
        if (!event.isChannel()) continue;
        event.tick += song.trackStarts[ref.track];
        if (part.chosen && isSoundChoice(event)) continue;
        if (event.kind() == 0xB0 && part.droppedControllers.contains(event.data1)) continue;
        if (shift != 0 && hasKey(event)) event.data1 = shiftedKey(Key{event.data1}, shift).value;
        if (event.isNoteOn())
            pairing.on(event);
        else if (event.isNoteOff())
            pairing.off(event);
        line.events.push_back(event);
    }
    for (Note& note : line.notes)
        if (note.end < note.start) note.end = std::max(note.start, song.end);
    return line;
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
