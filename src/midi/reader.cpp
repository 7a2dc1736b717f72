#include "midi/reader.h"

#include <algorithm>
#include <array>
#include <cctype>
#include <cstring>
#include <optional>
#include <string_view>
#include <utility>

namespace cobbleway {
namespace {

using Bytes = std::vector<std::uint8_t>;
using Cursor = const std::uint8_t*;

constexpr std::size_t maxReports = 200;
constexpr Tick lastTick = Tick{1} << 40; // ticks past this are held there: sums stay far from overflow

bool tagAt(const Bytes& bytes, std::size_t at, std::string_view tag) {
    return at + tag.size() <= bytes.size() && std::memcmp(bytes.data() + at, tag.data(), tag.size()) == 0;
}

std::uint32_t big32(Cursor at) {
    return (std::uint32_t{at[0]} << 24) | (std::uint32_t{at[1]} << 16) | (std::uint32_t{at[2]} << 8) | at[3];
}

int big16(Cursor at) { return (at[0] << 8) | at[1]; }

/// Data bytes of a channel message by its status (MIDI 1.0, table of channel messages).
int dataBytes(std::uint8_t status) { return (status & 0xE0) == 0xC0 ? 1 : 2; }

/// Where a tag next stands at or after `from`; the size of the file when nowhere.
std::size_t find(const Bytes& bytes, std::string_view tag, std::size_t from) {
    const auto at = std::search(bytes.begin() + static_cast<std::ptrdiff_t>(std::min(from, bytes.size())),
                                bytes.end(), tag.begin(), tag.end());
    return static_cast<std::size_t>(at - bytes.begin());
}

/// What a file that is not MIDI seems to be, by its first bytes.
Message seemsToBe(const Bytes& bytes) {
    struct Sign {
        std::string_view tag;
        const char* what; // an id of the catalogue
    };
    static constexpr Sign signs[] = {
        {"ID3", "seems.mp3"},        {"OggS", "seems.ogg"},          {"fLaC", "seems.flac"},
        {"PK\x03\x04", "seems.zip"}, {"\x1F\x8B", "seems.gzip"},     {"%PDF", "seems.pdf"},
        {"<?xml", "seems.xml"},      {"<!DOCTYPE", "seems.web"},     {"<html", "seems.web"},
        {"\x89PNG", "seems.png"},    {"\xFF\xD8\xFF", "seems.jpeg"}, {"\xFF\xFB", "seems.mp3"},
    };
    if (bytes.empty()) return {"seems.empty"};
    if (tagAt(bytes, 0, "RIFF") && tagAt(bytes, 8, "WAVE")) return {"seems.wav"};
    if (tagAt(bytes, 0, "RIFF") && tagAt(bytes, 8, "sfbk")) return {"seems.soundfont"};
    for (const Sign& sign : signs)
        if (tagAt(bytes, 0, sign.tag)) return {sign.what};
    return {"seems.other"};
}

class Reader {
  public:
    Reader(Bytes bytes, std::string name) {
        m_source.name = std::move(name);
        m_source.midi.pool = std::move(bytes);
    }

    Result<SourceFile> read() {
        const std::size_t header = find(pool(), "MThd", 0);
        std::size_t at = readHeader(header);
        if (header == pool().size() && find(pool(), "MTrk", 0) == pool().size()) return notMidi();
        readChunks(at);
        if (m_source.midi.tracks.empty()) report(at, 0, {"damage.no-track"});
        checkTrackCount();
        endHangingNotes();
        return std::move(m_source);
    }

  private:
    const Bytes& pool() const { return m_source.midi.pool; }

    void report(std::size_t offset, int track, Message what, bool harmless = false) {
        if (m_source.damage.size() < maxReports)
            m_source.damage.push_back({offset, track, std::move(what), harmless});
    }

    Error notMidi() const {
        return {{"error.not-midi", {{"seems", seemsToBe(pool())}}}, m_source.name, {"now.choose-midi"}};
    }

    /// Reads the header at `header` (or assumes one) and gives the place where chunks go on.
    std::size_t readHeader(std::size_t header) {
        if (header == pool().size()) {
            report(0, 0, {"damage.no-header"});
            return find(pool(), "MTrk", 0);
        }
        const bool wrapped = tagAt(pool(), 0, "RIFF") && tagAt(pool(), 8, "RMID");
        if (header == 128 && isMacBinary())
            report(0, 0, {"damage.macbinary"});
        else if (header > 0 && !wrapped)
            report(0, 0, {"damage.begins-late", {{"byte", header}}});
        if (header + 14 > pool().size()) {
            report(header, 0, {"damage.header-cut"});
            return pool().size();
        }
        const Cursor at = pool().data() + header;
        m_source.midi.type = big16(at + 8);
        m_tracksStated = big16(at + 10);
        readDivision(header + 12, at[12], at[13]);
        if (m_source.midi.type > 2) {
            report(header + 8, 0, {"damage.type", {{"type", m_source.midi.type}}});
            m_source.midi.type = 1;
        }
        return afterHeader(header, big32(at + 4));
    }

    /// A MacBinary header: 128 bytes that begin with 0, the length of a name (1–63) and the name, and zeros
    /// at 74 and 82 (published convention, from memory).
    bool isMacBinary() const {
        return pool().size() > 128 && pool()[0] == 0 && pool()[1] >= 1 && pool()[1] <= 63 &&
               pool()[74] == 0 && pool()[82] == 0;
    }

    std::size_t afterHeader(std::size_t header, std::uint32_t length) {
        if (length == 6) return header + 14;
        const std::size_t stated = header + 8 + std::size_t{length};
        if (length > 6 && tagAt(pool(), stated, "MTrk")) return stated; // longer headers are allowed for
        report(header + 4, 0, {"damage.header-length"});
        return header + 14;
    }

    void readDivision(std::size_t offset, std::uint8_t high, std::uint8_t low) {
        Division& division = m_source.midi.division;
        if (high & 0x80) {
            const int frames = 256 - high;
            const bool known = frames == 24 || frames == 25 || frames == 29 || frames == 30;
            division = {0, known ? frames : 25, low == 0 ? 40 : low};
            if (!known || low == 0) report(offset, 0, {"damage.frame-rate"});
        } else {
            division.ticksPerQuarter = (high << 8) | low;
            if (division.ticksPerQuarter > 0) return;
            division.ticksPerQuarter = 480;
            report(offset, 0, {"damage.no-ticks"});
        }
    }

    void readChunks(std::size_t at) {
        while (at + 8 <= pool().size()) {
            if (!tagAt(pool(), at, "MTrk")) {
                at = passOver(at);
                continue;
            }
            at = readTrack(at);
        }
        if (at < pool().size() && !onlyPadding(at)) report(at, 0, {"damage.bytes-after"});
    }

    bool onlyPadding(std::size_t at) const {
        return std::all_of(pool().begin() + static_cast<std::ptrdiff_t>(at), pool().end(),
                           [](std::uint8_t byte) { return byte == 0; });
    }

    /// Where the chunk of an unknown kind at `at` ends, if it is one: a type of four letters, and a length
    /// after which comes the next chunk, the file's end or padding (SMF 1.0: "alien" chunks are to be
    /// expected and ignored).
    std::optional<std::size_t> endOfUnknown(std::size_t at) const {
        const auto printable = [](std::uint8_t c) { return c >= 0x20 && c < 0x7F; };
        if (at + 8 > pool().size() || tagAt(pool(), at, "MThd") ||
            !std::all_of(pool().data() + at, pool().data() + at + 4, printable))
            return std::nullopt;
        const std::size_t end = at + 8 + std::size_t{big32(pool().data() + at + 4)};
        return end <= pool().size() ? std::optional(end) : std::nullopt;
    }

    /// Whether a file may go on as it does at `at` when what stands before is a chunk.
    bool goesOnWell(std::size_t at) const {
        std::size_t next = at;
        for (int chunks = 0; chunks < 64; ++chunks) {
            if (next == pool().size() || tagAt(pool(), next, "MTrk") || onlyPadding(next)) return true;
            const auto end = endOfUnknown(next);
            if (!end) return false;
            next = *end;
        }
        return true;
    }

    /// Steps over a chunk that is no track, or to the next track tag.
    std::size_t passOver(std::size_t at) {
        const auto after = endOfUnknown(at);
        const bool plausible = after && goesOnWell(*after);
        const std::size_t next = plausible ? *after : find(pool(), "MTrk", at + 1);
        const bool wrapperEnd = next == pool().size() && (onlyPadding(at) || tagAt(pool(), 0, "RIFF"));
        if (!wrapperEnd)
            report(at, 0, {plausible ? "damage.unknown-chunk" : "damage.bytes-between"}, plausible);
        return next;
    }

    void checkTrackCount() {
        const auto found = static_cast<int>(m_source.midi.tracks.size());
        if (m_tracksStated >= 0 && m_tracksStated != found)
            report(10, 0, {"damage.track-count", {{"stated", m_tracksStated}, {"found", found}}});
        if (m_source.midi.type == 0 && found > 1) {
            report(8, 0, {"damage.type-0"});
            m_source.midi.type = 1;
        }
    }

    /// Reads the track whose tag stands at `at`; gives the place after it.
    std::size_t readTrack(std::size_t at) {
        const std::size_t begin = at + 8;
        const std::uint64_t stated = big32(pool().data() + at + 4);
        const std::size_t limit =
            static_cast<std::size_t>(std::min<std::uint64_t>(begin + stated, pool().size()));
        m_track = static_cast<int>(m_source.midi.tracks.size()) + 1;
        if (begin + stated > pool().size()) report(at + 4, m_track, {"damage.track-longer"});
        m_source.midi.tracks.emplace_back();
        m_source.midi.besideNotes.emplace_back();
        const std::size_t after = readEvents(begin, limit, m_source.midi.tracks.back());
        reportOpenMessage();
        Track& track = m_source.midi.tracks.back();
        noteHanging(begin);
        if (track.events.capacity() - track.events.size() > track.events.size() / 8)
            track.events.shrink_to_fit();
        return after;
    }

    /// How far a track may be read: to its stated end when a chunk (or the file's end) stands there, else to
    /// the next track, for its length may be too short.
    std::size_t readingLimit(std::size_t begin, std::size_t limit) const {
        if (limit >= pool().size()) return pool().size();
        const bool chunk =
            limit + 8 <= pool().size() && std::all_of(&pool()[limit], &pool()[limit] + 4,
                                                      [](std::uint8_t c) { return std::isalpha(c) != 0; });
        return chunk || onlyPadding(limit) ? limit : find(pool(), "MTrk", begin);
    }

    /// Reads events until the end of track.
    std::size_t readEvents(std::size_t begin, std::size_t limit, Track& track) {
        const Cursor base = pool().data();
        Cursor at = base + begin;
        const Cursor end = base + readingLimit(begin, limit);
        std::uint8_t running = 0;
        bool metaSinceStatus = false;
        Tick tick = 0;
        m_port = 0;
        m_prefix = 0;
        m_cut = false;
        m_strayReported = m_rangeReported = m_runningReported = m_tempoReported = m_openReported =
            m_longReported = false;
        m_open.fill(0);
        m_loose.fill(0);
        while (at < end) {
            if (track.events.size() == track.events.capacity()) makeRoom(track, base + begin, at, end);
            if (!std::exchange(m_cut, false)) tick = std::min(lastTick, tick + readNumber(at, end));
            if (at >= end) break;
            std::uint8_t status = *at;
            if (status >= 0x80) {
                ++at;
            } else if (running != 0) {
                status = running;
                if (metaSinceStatus) reportOnce(m_runningReported, at, "damage.running-status");
            } else {
                reportOnce(m_strayReported, at, "damage.stray-bytes");
                while (at + 1 < end && at[1] < 0x80)
                    ++at; // the last of them is the next message's delta time
                continue;
            }
            if (status < 0xF0) {
                running = status;
                metaSinceStatus = false;
                if (!readChannel(status, tick, at, end, track)) break;
            } else if (status == 0xFF) {
                metaSinceStatus = true;
                if (!readMeta(tick, at, end, track)) {
                    if (notesGoOn(at, limit)) {
                        report(static_cast<std::size_t>(at - base), m_track, {"damage.early-end"});
                        continue;
                    }
                    track.end = tick;
                    return afterTrack(at, limit);
                }
            } else {
                metaSinceStatus = true;
                readSystem(status, tick, at, end, track);
            }
        }
        track.end = tick;
        report(static_cast<std::size_t>(at - base), m_track,
               {end == base + pool().size() ? "damage.track-cut" : "damage.no-end"});
        return static_cast<std::size_t>(end - base);
    }

    /// Room for as many events as the rest of the track will give, going by what it gave so far.
    static void makeRoom(Track& track, Cursor begin, Cursor at, Cursor end) {
        constexpr std::size_t few = 1024;
        const auto read = static_cast<std::size_t>(at - begin), left = static_cast<std::size_t>(end - at);
        const std::size_t size = track.events.size();
        if (size < few) return track.events.reserve(std::min(few, left / 2 + 1 + size));
        const double each = static_cast<double>(read) / static_cast<double>(size);
        const auto more = static_cast<std::size_t>(static_cast<double>(left) / each * 1.03) + few;
        track.events.reserve(size + std::max(more, size / 8));
    }

    /// Whether what follows an end mark within the track's stated length reads as events without a fault, and
    /// holds a note.
    bool notesGoOn(Cursor at, std::size_t limit) const {
        const Cursor end = pool().data() + limit;
        bool note = false;
        std::uint8_t running = 0;
        while (at < end) {
            readVariable(at, end);
            if (at >= end) return false;
            std::uint8_t status = *at;
            if (status >= 0x80)
                ++at;
            else
                status = running;
            if (status == 0xFF) {
                if (at >= end) return false;
                const bool endMark = *at++ == meta::endOfTrack;
                const std::uint32_t length = readVariable(at, end);
                if (length > static_cast<std::uint64_t>(end - at)) return false;
                at += length;
                if (endMark) return note;
                continue;
            }
            if (status == 0xF0 || status == 0xF7) {
                const std::uint32_t length = readVariable(at, end);
                if (length > static_cast<std::uint64_t>(end - at)) return false;
                at += length;
                continue;
            }
            if (status < 0x80 || status > 0xEF) return false;
            running = status;
            for (int i = 0; i < dataBytes(status); ++i)
                if (at >= end || *at++ >= 0x80) return false;
            note = note || (status & 0xF0) == 0x90;
        }
        return note;
    }

    /// Where to go on after an end mark at `at`: the stated length when a tag (or the end) stands there.
    std::size_t afterTrack(Cursor at, std::size_t limit) {
        const auto offset = static_cast<std::size_t>(at - pool().data());
        if (offset == limit) return limit;
        if (offset < limit && limit < pool().size() && !tagAt(pool(), limit, "MTrk")) {
            report(offset, m_track, {"damage.track-length"});
            return offset;
        }
        if (offset < limit) {
            report(offset, m_track, {"damage.after-end"});
            const std::size_t next = find(pool(), "MTrk", offset);
            return std::min(next, limit);
        }
        report(offset, m_track, {"damage.track-goes-on"});
        return offset;
    }

    /// A variable-length quantity; one of more than four bytes is damage (SMF 1.0, "Variable-length
    /// quantities").
    std::uint32_t readNumber(Cursor& at, Cursor end) {
        if (at < end && *at < 0x80) return *at++; // as most are
        const Cursor begin = at;
        const std::uint32_t number = readVariable(at, end);
        if (at - begin > 4) reportOnce(m_longReported, begin, "damage.long-number");
        return number;
    }

    void reportOnce(bool& done, Cursor at, const char* what) { // an id of the catalogue
        if (!done) report(static_cast<std::size_t>(at - pool().data()), m_track, {what});
        done = true;
    }

    /// The next event starts or ends no note.
    void noteBeside(const Track& track) {
        m_source.midi.besideNotes.back().push_back(static_cast<std::uint32_t>(track.events.size()));
    }

    bool readChannel(std::uint8_t status, Tick tick, Cursor& at, Cursor end, Track& track) {
        const int wanted = dataBytes(status);
        std::array<std::uint8_t, 2> data{};
        for (int i = 0; i < wanted; ++i) {
            if (at >= end) return false;
            if (*at & 0x80) {
                reportOnce(m_rangeReported, at, "damage.message-cut");
                m_cut = true; // what stands here is the next message itself, with no delta time before it
                return true;
            }
            data[static_cast<std::size_t>(i)] = *at++;
        }
        if (!isNoteStatus(status)) noteBeside(track);
        track.events.push_back({tick, status, data[0], data[1], m_port, noPayload});
        if (isNoteStatus(status)) {
            auto& open = m_open[(status & 0x0FU) * 128U + data[0]];
            if ((status & 0x10) && data[1] > 0)
                ++open;
            else if (open > 0)
                --open;
            else
                ++m_loose[(status & 0x0FU) * 128U + data[0]];
        }
        return true;
    }

    /// A payload whose length stands at `stated` and whose bytes are these.
    std::uint32_t payloadOf(Cursor stated, Cursor data, std::uint32_t length) {
        MidiFile& midi = m_source.midi;
        Cursor at = stated;
        if (readVariable(at, pool().data() + pool().size()) == length && at == data)
            return static_cast<std::uint32_t>(stated - pool().data());
        midi.cuts.push_back({static_cast<std::uint64_t>(data - pool().data()), length});
        return static_cast<std::uint32_t>(midi.cuts.size() - 1) | cutPayload;
    }

    /// The stated length, held within the bytes that are there.
    std::uint32_t boundedLength(Cursor& at, Cursor end) {
        const std::uint32_t stated = readNumber(at, end);
        const auto room = static_cast<std::uint64_t>(end - at);
        if (stated <= room) return stated;
        report(static_cast<std::size_t>(at - pool().data()), m_track, {"damage.text-cut"});
        return static_cast<std::uint32_t>(room);
    }

    /// Reads a meta event; false at an end-of-track mark.
    bool readMeta(Tick tick, Cursor& at, Cursor end, Track& track) {
        if (at >= end) return true;
        const std::uint8_t type = *at++;
        const Cursor stated = at;
        const std::uint32_t length = boundedLength(at, end);
        const Cursor data = at;
        at += length;
        if (type == meta::endOfTrack) return false;
        if (type == meta::tempo && tempoOf({data, length}) == 0)
            reportOnce(m_tempoReported, data, "damage.tempo");
        if (type == meta::port && length >= 1) m_port = data[0] & 0x7F;
        if (type == meta::channelPrefix && length >= 1)
            m_prefix = static_cast<std::uint8_t>((data[0] & 0x0F) + 1);
        noteBeside(track);
        track.events.push_back({tick, 0xFF, type, m_prefix, m_port, payloadOf(stated, data, length)});
        return true;
    }

    void readSystem(std::uint8_t status, Tick tick, Cursor& at, Cursor end, Track& track) {
        if (status == 0xF0 || status == 0xF7) {
            m_prefix = 0;
            const Cursor stated = at;
            const std::uint32_t length = boundedLength(at, end);
            noteBeside(track);
            track.events.push_back({tick, status, 0, 0, m_port, payloadOf(stated, at, length)});
            noteDeviceMessage(status, at, length);
            at += length;
            return;
        }
        // F1–F6 and F8–FE have no place in a file (SMF 1.0); their data bytes go with them.
        reportOnce(m_strayReported, at, "damage.live-message");
        const std::ptrdiff_t data = status == 0xF2 ? 2 : (status == 0xF1 || status == 0xF3 ? 1 : 0);
        at += std::min(data, end - at);
    }

    /// Keeps track of messages that come in pieces: F0 without a closing F7, then F7 pieces, the last of
    /// which closes (SMF 1.0).
    void noteDeviceMessage(std::uint8_t status, Cursor at, std::uint32_t length) {
        const bool closes = length > 0 && at[length - 1] == 0xF7;
        if (status == 0xF0) {
            reportOpenMessage();
            m_openMessage = closes ? nullptr : at;
        } else if (m_openMessage && closes) {
            m_openMessage = nullptr;
        }
    }

    void reportOpenMessage() {
        if (m_openMessage) reportOnce(m_openReported, m_openMessage, "damage.open-message");
        m_openMessage = nullptr;
    }

    /// Notes without an end so far, by channel and key.
    using OpenNotes = std::array<std::int32_t, std::size_t{16} * 128>;

    /// A track with notes that it does not end, or ends of none of its notes, by channel and key.
    struct Hanging {
        std::size_t offset = 0, track = 0; ///< 0-based
        std::vector<std::pair<std::size_t, std::int32_t>> open, loose;
    };

    /// Remembers what the track that was just read leaves open.
    void noteHanging(std::size_t offset) {
        Hanging hanging{offset, m_source.midi.tracks.size() - 1, {}, {}};
        for (std::size_t key = 0; key < m_open.size(); ++key) {
            if (m_open[key] > 0) hanging.open.emplace_back(key, m_open[key]);
            if (m_loose[key] > 0) hanging.loose.emplace_back(key, m_loose[key]);
        }
        if (!hanging.open.empty() || !hanging.loose.empty()) m_hanging.push_back(std::move(hanging));
    }

    /// Of type 1 a note may be ended on another track, since both are of one channel (MIDI 1.0): as many are
    /// left as other tracks have ends to spare.
    void endHangingNotes() {
        OpenNotes spare{};
        if (m_source.midi.type == 1)
            for (const Hanging& hanging : m_hanging)
                for (const auto& [key, count] : hanging.loose) spare[key] += count;
        for (const Hanging& hanging : m_hanging) {
            if (hanging.open.empty()) continue;
            OpenNotes surplus{}, own{};
            for (const auto& [key, count] : hanging.loose) own[key] = count;
            bool any = false;
            for (const auto& [key, count] : hanging.open) {
                const std::int32_t left = std::clamp(spare[key] - own[key], 0, count);
                spare[key] -= left;
                surplus[key] = count - left;
                any = any || surplus[key] > 0;
            }
            if (any) endHangingNotes(hanging.track, surplus, hanging.offset);
        }
    }

    /// Ends notes that have no note-off: at the next start of their key, or at the end of the track.
    void endHangingNotes(std::size_t number, OpenNotes& surplus, std::size_t offset) {
        Track& track = m_source.midi.tracks[number];
        const int ended = closeNotes(track, surplus);
        auto& beside = m_source.midi.besideNotes[number]; // which have moved
        beside.clear();
        for (std::uint32_t i = 0; i < track.events.size(); ++i)
            if (!isNoteStatus(track.events[i].status)) beside.push_back(i);
        report(offset, static_cast<int>(number) + 1, {"damage.open-notes", {{"notes", ended}}});
    }

    /// The notes that sound on each key, in the order they began, by the index of their event: lists by
    /// index, so that nothing is allocated a key.
    class Sounding {
      public:
        Sounding() {
            m_first.fill(none);
            m_last.fill(none);
        }
        void add(std::size_t key, std::uint32_t event) {
            const auto index = static_cast<std::uint32_t>(m_starts.size());
            m_starts.push_back({event, none});
            (m_first[key] == none ? m_first[key] : m_starts[m_last[key]].next) = index;
            m_last[key] = index;
        }
        /// Takes the one that began first; none when none sounds.
        std::optional<std::uint32_t> take(std::size_t key) {
            if (m_first[key] == none) return std::nullopt;
            const Start start = m_starts[m_first[key]];
            m_first[key] = start.next;
            return start.event;
        }
        [[nodiscard]] bool any(std::size_t key) const { return m_first[key] != none; }

      private:
        static constexpr std::uint32_t none = 0xFFFFFFFF;
        struct Start {
            std::uint32_t event, next;
        };
        std::vector<Start> m_starts;
        std::array<std::uint32_t, std::tuple_size_v<OpenNotes>> m_first, m_last;
    };

    /// An event that comes before the one with this index.
    using Insertion = std::pair<std::size_t, Event>;

    /// Puts them in, in order, within the memory that is there.
    static void insert(std::vector<Event>& events, const std::vector<Insertion>& insertions) {
        std::size_t from = events.size(), to = from + insertions.size();
        events.resize(to);
        for (auto at = insertions.rbegin(); at != insertions.rend(); ++at) {
            while (from > at->first) events[--to] = events[--from];
            events[--to] = at->second;
        }
    }

    /// For each key with more starts than ends, puts an end before the next start while one still sounds.
    static int closeNotes(Track& track, OpenNotes& surplus) {
        std::vector<Insertion> ends;
        Sounding sounding;
        const auto close = [&](std::uint32_t start, std::size_t before, Tick tick) {
            Event off = track.events[start];
            off.tick = std::max(tick, off.tick);
            off.status = static_cast<std::uint8_t>(0x80 | (off.status & 0x0F));
            off.data2 = 64;
            ends.emplace_back(before, off);
        };
        for (std::uint32_t i = 0; i < track.events.size(); ++i) {
            const Event& event = track.events[i];
            if (!event.isChannel()) continue;
            const std::size_t key = event.channel().value * 128U + (event.data1 & 0x7F);
            if (event.isNoteOn()) {
                if (sounding.any(key) && surplus[key] > 0) {
                    close(*sounding.take(key), i, event.tick);
                    --surplus[key];
                }
                sounding.add(key, i);
            } else if (event.isNoteOff()) {
                (void)sounding.take(key);
            }
        }
        for (std::size_t key = 0; key < surplus.size(); ++key)
            for (; surplus[key] > 0; --surplus[key])
                if (const auto start = sounding.take(key)) close(*start, track.events.size(), track.end);
        insert(track.events, ends);
        return static_cast<int>(ends.size());
    }

    SourceFile m_source;
    OpenNotes m_open{}, m_loose{}; ///< of the track that is read: starts without end, ends without start
    std::vector<Hanging> m_hanging;
    int m_tracksStated = -1;
    int m_track = 0;
    std::uint8_t m_port = 0;
    std::uint8_t m_prefix = 0;      ///< channel prefix + 1, 0 for none
    bool m_cut = false;             ///< the last message was cut short
    Cursor m_openMessage = nullptr; ///< a device message that is not closed yet
    bool m_strayReported = false, m_rangeReported = false, m_runningReported = false, m_tempoReported = false,
         m_openReported = false, m_longReported = false;
};

} // namespace

Result<SourceFile> readMidi(std::vector<std::uint8_t> bytes, std::string name) {
    if (bytes.size() >= cutPayload) return Error{{"error.too-large"}, std::move(name), {"now.other-file"}};
    return Reader(std::move(bytes), std::move(name)).read();
}

} // namespace cobbleway
