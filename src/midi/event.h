/// What a MIDI file holds, as plain values: events, tracks, the file.
#pragma once
#include <algorithm>
#include <compare>
#include <cstdint>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace cobbleway {

/// A time in ticks from the start of the song, 0-based. How long a tick lasts is the TempoMap's matter.
using Tick = std::int64_t;

/// A MIDI channel, 0-based (0–15; people see 1–16).
struct Channel {
    std::uint8_t value = 0;
    auto operator<=>(const Channel&) const = default;
};
/// A key number, 0–127; 60 is middle C, shown as C4.
struct Key {
    std::uint8_t value = 0;
    auto operator<=>(const Key&) const = default;
};
/// How hard a note is struck, 0–127.
struct Velocity {
    std::uint8_t value = 0;
    auto operator<=>(const Velocity&) const = default;
};
/// A program number, 0-based (0–127; people see 1–128).
struct Program {
    std::uint8_t value = 0;
    auto operator<=>(const Program&) const = default;
};

/// The channel the General MIDI standard (RP-003) gives to percussion: 10 for people.
inline constexpr Channel drumChannel{9};

/// Meta event types (SMF 1.0 unless another clause is named).
namespace meta {
inline constexpr std::uint8_t sequenceNumber = 0x00, text = 0x01, copyright = 0x02, trackName = 0x03,
                              instrumentName = 0x04, lyric = 0x05, marker = 0x06, cue = 0x07,
                              programName = 0x08, ///< RP-019
    deviceName = 0x09,                            ///< RP-019
    channelPrefix = 0x20, port = 0x21, endOfTrack = 0x2F, tempo = 0x51, smpteOffset = 0x54,
                              timeSignature = 0x58, keySignature = 0x59, sequencerSpecific = 0x7F;
} // namespace meta

/// Controller numbers (MIDI 1.0) that the application looks at.
namespace cc {
inline constexpr std::uint8_t bankMsb = 0, modulation = 1, portamentoTime = 5, dataEntryMsb = 6, volume = 7,
                              pan = 10, expression = 11, bankLsb = 32, dataEntryLsb = 38, sustain = 64,
                              portamento = 65, sostenuto = 66, soft = 67, legato = 68, portamentoControl = 84,
                              reverbSend = 91, chorusSend = 93, dataIncrement = 96, dataDecrement = 97,
                              nrpnLsb = 98, nrpnMsb = 99, rpnLsb = 100, rpnMsb = 101, allSoundOff = 120,
                              resetAll = 121, localControl = 122, allNotesOff = 123, omniOff = 124,
                              omniOn = 125, mono = 126, poly = 127;
} // namespace cc

inline constexpr std::uint32_t noPayload = 0xFFFFFFFF;
inline constexpr std::uint32_t cutPayload = 0x80000000; ///< set: the rest is an index into MidiFile::cuts

/// One event. 16 bytes, so that a note (two events) stays small.
struct Event {
    Tick tick = 0;
    std::uint8_t status = 0; ///< 0x80–0xEF with channel; 0xF0, 0xF7 system exclusive; 0xFF meta
    std::uint8_t data1 = 0;  ///< first data byte, or the meta type
    std::uint8_t data2 = 0;  ///< second data byte; of a meta event: channel prefix + 1, 0 for none
    std::uint8_t port = 0;   ///< from FF 21, 0-based
    std::uint32_t payload =
        noPayload; ///< of meta and system exclusive: where in MidiFile::pool its length is

    [[nodiscard]] bool isChannel() const { return status >= 0x80 && status < 0xF0; }
    [[nodiscard]] std::uint8_t kind() const { return isChannel() ? status & 0xF0 : status; }
    [[nodiscard]] Channel channel() const { return Channel{static_cast<std::uint8_t>(status & 0x0F)}; }
    [[nodiscard]] bool isNoteOn() const { return (status & 0xF0) == 0x90 && data2 > 0; }
    /// Note-on with velocity 0 is note-off (MIDI 1.0).
    [[nodiscard]] bool isNoteOff() const {
        return (status & 0xF0) == 0x80 || ((status & 0xF0) == 0x90 && data2 == 0);
    }
    [[nodiscard]] bool isController(std::uint8_t number) const {
        return (status & 0xF0) == 0xB0 && data1 == number;
    }
    [[nodiscard]] bool isProgram() const { return (status & 0xF0) == 0xC0; }
    /// A program, or a bank select, which takes effect at the next program (MIDI 1.0).
    [[nodiscard]] bool choosesSound() const {
        return isProgram() || isController(cc::bankMsb) || isController(cc::bankLsb);
    }
    [[nodiscard]] bool isMeta() const { return status == 0xFF; }
    [[nodiscard]] bool isMeta(std::uint8_t type) const { return status == 0xFF && data1 == type; }
    [[nodiscard]] bool isSysex() const { return status == 0xF0 || status == 0xF7; }
    /// Pitch bend as 0–16383, centre 8192.
    [[nodiscard]] int bend() const { return data1 | (data2 << 7); }

    bool operator==(const Event&) const = default; ///< within a file: payloads are compared by place
};
static_assert(sizeof(Event) == 16);

/// Bytes of a payload whose stated length cannot be: a stretch of MidiFile::pool.
struct Slice {
    std::uint64_t offset = 0;
    std::uint32_t length = 0;
    bool operator==(const Slice&) const = default;
};

/// What a tick is (SMF 1.0, the header's division).
struct Division {
    int ticksPerQuarter = 480; ///< 1–32767; 0 when SMPTE
    int framesPerSecond = 0;   ///< 24, 25, 29 (29.97 drop) or 30 when SMPTE, else 0
    int ticksPerFrame = 0;     ///< 1–255 when SMPTE
    [[nodiscard]] bool isSmpte() const { return ticksPerQuarter == 0; }
    /// Ticks a second of an SMPTE division; 29 stands for 30000/1001 frames.
    [[nodiscard]] double smpteTicksPerSecond() const {
        return (framesPerSecond == 29 ? 30000.0 / 1001.0 : framesPerSecond) * ticksPerFrame;
    }
    bool operator==(const Division&) const = default;
};

/// Whether it starts or ends a note.
constexpr bool isNoteStatus(std::uint8_t status) { return (status & 0xE0) == 0x80; }

struct Track {
    std::vector<Event> events; ///< in order of tick; the end-of-track event is not among them
    Tick end = 0;              ///< tick of the end of the track, at or after the last event
    bool operator==(const Track&) const = default;
};

/// A whole MIDI file as a value. After reading, `pool` is the file's raw bytes themselves.
struct MidiFile {
    int type = 1; ///< 0, 1 or 2
    Division division;
    std::vector<Track> tracks;
    std::vector<std::uint8_t> pool; ///< below 2 GiB
    std::vector<Slice> cuts;        ///< of messages that say they are longer than their track
    /// Of each track the places of the events that start or end no note, in order: few among many. Made by
    /// readMidi(); empty in files made otherwise, which are looked through instead.
    std::vector<std::vector<std::uint32_t>> besideNotes;

    /// Calls `is(event, place)` for the events of a track, by place from `first` to before `last`, that start
    /// or end no note, until it gives true; says whether it did.
    template <class Is>
    bool anyBesideNotes(std::size_t track, std::uint32_t first, std::uint32_t last, Is is) const {
        const auto& events = tracks[track].events;
        constexpr std::uint32_t few = 16; // are looked at sooner than looked up
        if (track >= besideNotes.size() || last - first <= few) {
            for (std::uint32_t i = first; i < last; ++i)
                if (!isNoteStatus(events[i].status) && is(events[i], i)) return true;
            return false;
        }
        const auto& places = besideNotes[track];
        for (auto at = std::lower_bound(places.begin(), places.end(), first);
             at != places.end() && *at < last; ++at)
            if (is(events[*at], *at)) return true;
        return false;
    }
    /// Calls `take(event, place)` for all of a track.
    template <class Take> void eachBesideNotes(std::size_t track, Take take) const {
        const auto all = static_cast<std::uint32_t>(tracks[track].events.size());
        (void)anyBesideNotes(track, 0, all, [&](const Event& event, std::uint32_t place) {
            take(event, place);
            return false;
        });
    }

    /// Bytes of a meta or system exclusive event (without F0/FF, type and length; an F0 event's closing F7
    /// included). Valid as long as the file is unchanged. Empty for channel events.
    [[nodiscard]] std::span<const std::uint8_t> bytes(const Event& event) const;
    /// The same bytes as undecoded text.
    [[nodiscard]] std::string_view rawText(const Event& event) const;

    /// Adds a payload, its length before it, and gives its place.
    std::uint32_t addPayload(std::span<const std::uint8_t> bytes);
    void addMeta(std::size_t track, Tick tick, std::uint8_t type, std::span<const std::uint8_t> bytes);
    void addText(std::size_t track, Tick tick, std::uint8_t type, std::string_view text);
    void addTempo(std::size_t track, Tick tick, int microsecondsPerQuarter);
    void addTimeSignature(std::size_t track, Tick tick, int numerator, int denominator);
    /// A system exclusive message; `bytes` begin after F0 and end with F7.
    void addSysex(std::size_t track, Tick tick, std::span<const std::uint8_t> bytes);
    void addChannel(std::size_t track, Tick tick, std::uint8_t status, std::uint8_t data1,
                    std::uint8_t data2 = 0, std::uint8_t port = 0);
    /// Sorts every track by tick (stable) and moves each end to at least its last event.
    void sortTracks();
    /// The greatest track end.
    [[nodiscard]] Tick end() const;
};

/// Reads a variable-length quantity (SMF 1.0): seven bits a byte, at most four bytes by the standard; a fifth
/// is taken too, as real files have it. Advances `at`. Gives 0 and moves to `end` when bytes run out.
std::uint32_t readVariable(const std::uint8_t*& at, const std::uint8_t* end);
/// Appends a variable-length quantity (SMF 1.0), 0 to 0x0FFFFFFF.
void appendVariable(std::vector<std::uint8_t>& out, std::uint32_t value);

/// The microseconds a quarter of a tempo event's three bytes; 0 when there are fewer.
int tempoOf(std::span<const std::uint8_t> bytes);

} // namespace cobbleway
