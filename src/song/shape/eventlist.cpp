#include "song/shape/eventlist.h"

#include "midi/gm.h"
#include "midi/text.h"
#include "song/heard/controllers.h"
#include "song/heard/notes.h"
#include "song/shape/join.h"

#include <algorithm>
#include <array>
#include <cstdio>

namespace cobbleway {

EventKind kindOf(const Event& event) {
    switch (event.kind()) {
    case 0x80: return EventKind::NoteEnd;
    case 0x90: return event.data2 ? EventKind::Note : EventKind::NoteEnd;
    case 0xA0: return EventKind::KeyPressure;
    case 0xB0: return EventKind::Controller;
    case 0xC0: return EventKind::Program;
    case 0xD0: return EventKind::Pressure;
    case 0xE0: return EventKind::Bend;
    case 0xF0:
    case 0xF7: return EventKind::Device;
    default: break;
    }
    return event.isMeta() && event.data1 >= meta::text && event.data1 <= meta::deviceName ? EventKind::Text
                                                                                          : EventKind::Other;
}

std::string_view eventKindName(EventKind kind) {
    static constexpr std::array<std::string_view, eventKindCount> names = {
        "note",     "note end", "key pressure", "controller",     "program",
        "pressure", "bend",     "text",         "device message", "other"};
    return names[static_cast<std::size_t>(kind)];
}

std::vector<std::uint32_t> filterEvents(const Song& song, const Part& part, const EventFilter& filter) {
    std::vector<std::uint32_t> found;
    std::uint32_t next = 0;
    for (const EventRef ref : *part.source.events) {
        const std::uint32_t i = next++;
        const Event& event = song.event(ref);
        if (filter.kind && kindOf(event) != *filter.kind) continue;
        if (filter.controller && !event.isController(static_cast<std::uint8_t>(*filter.controller))) continue;
        const bool key = event.kind() >= 0x80 && event.kind() <= 0xA0;
        if ((filter.lowestKey > 0 || filter.highestKey < 127) &&
            (!key || event.data1 < filter.lowestKey || event.data1 > filter.highestKey))
            continue;
        const Tick tick = song.tickOf(ref);
        if (tick < filter.from || tick >= filter.to) continue;
        if (filter.lowestValue != 0 || filter.highestValue != 16383) {
            const auto value = eventValue(event);
            if (!value || *value < filter.lowestValue || *value > filter.highestValue) continue;
        }
        found.push_back(i);
    }
    return found;
}

std::optional<int> eventValue(const Event& event) {
    switch (event.kind()) {
    case 0x80:
    case 0x90:
    case 0xA0:
    case 0xB0: return event.data2;
    case 0xC0: return event.data1 + 1;
    case 0xD0: return event.data1;
    case 0xE0: return event.bend() - 8192;
    default: return std::nullopt;
    }
}

ValueRange valueRange(const Event& event) {
    if (event.isNoteOn()) return {1, 127};
    if (event.isProgram()) return {1, 128};
    if (event.kind() == 0xE0) return {-8192, 8191};
    return {0, 127};
}

Event withValue(Event event, int value) {
    if (!eventValue(event)) return event;
    const auto [lowest, highest] = valueRange(event);
    value = std::clamp(value, lowest, highest);
    switch (event.kind()) {
    case 0xC0: event.data1 = static_cast<std::uint8_t>(value - 1); break;
    case 0xD0: event.data1 = static_cast<std::uint8_t>(value); break;
    case 0xE0:
        event.data1 = static_cast<std::uint8_t>((value + 8192) & 0x7F);
        event.data2 = static_cast<std::uint8_t>((value + 8192) >> 7);
        break;
    default:
        if (event.kind() == 0x90 && event.data2 == 0) break; // an end in the form of a note: stays an end
        event.data2 = static_cast<std::uint8_t>(value);
    }
    return event;
}

std::string eventText(const Song& song, EventRef ref, bool drums) {
    const Event& event = song.event(ref);
    switch (kindOf(event)) {
    case EventKind::Note:
    case EventKind::NoteEnd:
    case EventKind::KeyPressure: {
        const auto drum = drums ? drumName(Key{event.data1}) : std::string_view();
        return keyName(Key{event.data1}) + (drum.empty() ? "" : " " + std::string(drum));
    }
    case EventKind::Controller: return controllerName(event.data1);
    case EventKind::Program:
        return drums ? std::string(kitName(Program{event.data1}))
                     : std::string(programName(Program{event.data1}));
    case EventKind::Text: return toUtf8(song.source->midi.rawText(event), song.encoding);
    case EventKind::Device: {
        std::string text;
        const auto bytes = song.source->midi.bytes(event);
        for (std::size_t i = 0; i < std::min<std::size_t>(bytes.size(), 16); ++i) {
            char hex[4];
            std::snprintf(hex, sizeof hex, "%02X ", bytes[i]);
            text += hex;
        }
        return bytes.size() > 16 ? text + "…" : text;
    }
    default: return {};
    }
}

namespace edits {
namespace {

/// Marks the given events of a part, and of notes both halves.
std::vector<char> marked(const Song& song, const Part& part, const std::vector<EventRef>& events) {
    std::vector<EventRef> named = events;
    std::sort(named.begin(), named.end());
    std::vector<char> marks;
    marks.reserve(part.source.events->size());
    for (const EventRef ref : *part.source.events)
        marks.push_back(std::binary_search(named.begin(), named.end(), ref));
    for (const PartNote& note : notesOf(song, part.source)) {
        if (note.off == noEvent) continue;
        const char both = marks[note.on] || marks[note.off];
        marks[note.on] = marks[note.off] = both;
    }
    return marks;
}

void setEvents(const Song& song, Part& part, EventRefs events) {
    part.source.events = Shared(std::move(events));
    part.aside = std::none_of(part.source.events->begin(), part.source.events->end(),
                              [&](EventRef ref) { return song.event(ref).isNoteOn(); });
}

} // namespace

Song setEventValue(Song song, PartId id, EventRef ref, int value) {
    Part* part = song.part(id);
    if (!part) return song;
    const auto at = std::find(part->source.events->begin(), part->source.events->end(), ref);
    if (at == part->source.events->end()) return song;
    const Event changed = withValue(song.event(ref), value);
    if (changed == song.event(ref)) return song;
    EventRefs events;
    for (auto it = part->source.events->begin(); it != part->source.events->end(); ++it)
        events.push_back(it == at ? EventRef{madeTrack, static_cast<std::uint32_t>(song.made.size())} : *it);
    song.made.push_back({changed, song.trackOf(ref)});
    part->source.events = Shared(std::move(events));
    return song;
}

Song deleteEvents(Song song, PartId id, const std::vector<EventRef>& events) {
    Part* part = song.part(id);
    if (!part) return song;
    const auto marks = marked(song, *part, events);
    if (std::find(marks.begin(), marks.end(), 1) == marks.end()) return song;
    EventRefs left;
    auto mark = marks.begin();
    for (const EventRef ref : *part->source.events)
        if (!*mark++) left.push_back(ref);
    setEvents(song, *part, std::move(left));
    return song;
}

Song moveEvents(Song song, PartId id, const std::vector<EventRef>& events, const std::string& name) {
    Part* part = song.part(id);
    if (!part) return song;
    const auto marks = marked(song, *part, events);
    const auto count = std::count(marks.begin(), marks.end(), 1);
    if (count == 0 || count == static_cast<std::ptrdiff_t>(marks.size())) return song;
    bool notes = false;
    auto mark = marks.begin();
    for (const EventRef ref : *part->source.events) notes = (*mark++ && song.event(ref).isNoteOn()) || notes;
    EventRefs moved, left;
    mark = marks.begin();
    for (const EventRef ref : *part->source.events) {
        const bool goes = *mark++;
        const Event& event = song.event(ref);
        const bool steers = !event.isMeta() && !isNoteStatus(event.status) && event.kind() != 0xA0;
        if (goes || (notes && steers)) moved.push_back(ref);
        if (!goes) left.push_back(ref);
    }
    Part fresh = *part;
    fresh.id = song.takeId();
    fresh.colour = (part->colour + fresh.id) % 12;
    fresh.nameGiven = true;
    fresh.name = uniqueName(song, name.empty() ? part->name : name, fresh.id);
    if (!fresh.source.drums) {
        const PortChannel free = freeChannel(song);
        fresh.source.port = free.port;
        fresh.source.channel = free.channel;
    }
    setEvents(song, *part, std::move(left));
    setEvents(song, fresh, std::move(moved));
    const auto at = part - song.parts.data();
    song.parts.insert(song.parts.begin() + at + 1, std::move(fresh));
    return song;
}

Song moveEventsTo(Song song, PartId id, const std::vector<EventRef>& events, PartId to) {
    Part* part = song.part(id);
    Part* target = song.part(to);
    if (!part || !target || id == to) return song;
    const auto marks = marked(song, *part, events);
    EventRefs moved, left;
    auto mark = marks.begin();
    for (const EventRef ref : *part->source.events) (*mark++ ? moved : left).push_back(ref);
    if (moved.empty()) return song;
    setEvents(song, *target, EventRefs(mergedEvents(song, {&*target->source.events, &moved})));
    setEvents(song, *part, std::move(left));
    return song;
}

} // namespace edits
} // namespace cobbleway
