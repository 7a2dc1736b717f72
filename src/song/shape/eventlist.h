/// A part's events as a list: filtering, words for them, and changing them.
#pragma once
#include "song/model/song.h"

#include <limits>
#include <optional>
#include <string>
#include <vector>

namespace cobbleway {

/// Kinds of event that people tell apart.
enum class EventKind { Note, NoteEnd, KeyPressure, Controller, Program, Pressure, Bend, Text, Device, Other };
inline constexpr int eventKindCount = 10;
EventKind kindOf(const Event& event);
/// "note", "note end", "controller", …
std::string_view eventKindName(EventKind kind);

/// What to list. All of it must hold.
struct EventFilter {
    std::optional<EventKind> kind = std::nullopt;
    std::optional<int> controller = std::nullopt;         ///< 0–127; only such controllers
    int lowestKey = 0, highestKey = 127;                  ///< of notes, their ends and key pressure
    Tick from = 0, to = std::numeric_limits<Tick>::max(); ///< from ≤ tick < to
    int lowestValue = 0, highestValue = 16383;            ///< see eventValue(); of events that have one
    bool operator==(const EventFilter&) const = default;
};

/// Places within Part::events of the events that pass, in order.
std::vector<std::uint32_t> filterEvents(const Song& song, const Part& part, const EventFilter& filter);

/// Velocity of a note or its end, value of a controller or pressure, program 1–128, bend −8192 to 8191; none
/// for texts and device messages.
std::optional<int> eventValue(const Event& event);
/// The range that eventValue() has for this kind of event.
struct ValueRange {
    int lowest = 0, highest = 127;
};
ValueRange valueRange(const Event& event);
/// The event with another value, held within the range. A note stays a note: at least 1.
Event withValue(Event event, int value);

/// "C4", "volume (7)", "Trumpet", a text, bytes in hexadecimal: what stands beside kind and value.
std::string eventText(const Song& song, EventRef ref, bool drums);

namespace edits {

/// Changes the value of one event of a part (withValue()). An event that is not the part's changes nothing.
Song setEventValue(Song song, PartId part, EventRef event, int value);

/// Takes events out of a part. A note goes with its end, whichever of the two is named.
Song deleteEvents(Song song, PartId part, const std::vector<EventRef>& events);

/// Moves events to a new part right after this one: notes with their ends. The new part has copies of the
/// part's controllers, programs and bends when notes are moved, so that they sound as before; named ones are
/// moved, not copied. Moving none or all changes nothing.
Song moveEvents(Song song, PartId part, const std::vector<EventRef>& events, const std::string& name);

/// Moves events to another part, notes with their ends: single notes from one line to another. They sound as
/// that part does; nothing else goes with them. A part without notes is set aside.
Song moveEventsTo(Song song, PartId part, const std::vector<EventRef>& events, PartId to);

} // namespace edits
} // namespace cobbleway
