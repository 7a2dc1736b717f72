#include "midi/writer.h"

#include <algorithm>
#include <string_view>

namespace cobbleway {
namespace {

using Bytes = std::vector<std::uint8_t>;

void append16(Bytes& out, unsigned value) {
    out.push_back(static_cast<std::uint8_t>(value >> 8));
    out.push_back(static_cast<std::uint8_t>(value));
}

void append32(Bytes& out, std::uint32_t value) {
    append16(out, value >> 16);
    append16(out, value & 0xFFFF);
}

void appendTag(Bytes& out, std::string_view tag) { out.insert(out.end(), tag.begin(), tag.end()); }

void appendDivision(Bytes& out, const Division& division) {
    if (!division.isSmpte()) return append16(out, static_cast<unsigned>(division.ticksPerQuarter));
    out.push_back(static_cast<std::uint8_t>(256 - division.framesPerSecond));
    out.push_back(static_cast<std::uint8_t>(division.ticksPerFrame));
}

constexpr Tick greatestDelta = 0x0FFFFFFF;

/// The time from `now` to `tick`. What is more than a delta time can say is bridged by empty messages of no
/// meaning (FF 7F with no bytes), which end running status as every meta event does.
void appendDelta(Bytes& out, Tick& now, Tick tick, std::uint8_t& running) {
    for (; tick - now > greatestDelta; now += greatestDelta) {
        appendVariable(out, static_cast<std::uint32_t>(greatestDelta));
        out.insert(out.end(), {0xFF, meta::sequencerSpecific, 0x00});
        running = 0;
    }
    appendVariable(out, static_cast<std::uint32_t>(std::max<Tick>(0, tick - now)));
    now = std::max(now, tick);
}

void appendPayload(Bytes& out, std::span<const std::uint8_t> bytes) {
    appendVariable(out, static_cast<std::uint32_t>(bytes.size()));
    out.insert(out.end(), bytes.begin(), bytes.end());
}

void appendEvent(Bytes& out, const MidiFile& file, const Event& event, std::uint8_t& running,
                 bool useRunning) {
    if (event.isChannel()) {
        if (!useRunning || event.status != running) out.push_back(event.status);
        running = event.status;
        out.push_back(event.data1);
        if ((event.status & 0xE0) != 0xC0) out.push_back(event.data2);
        return;
    }
    running = 0;
    out.push_back(event.status);
    if (event.isMeta()) out.push_back(event.data1);
    appendPayload(out, file.bytes(event));
}

void appendTrack(Bytes& out, const MidiFile& file, const Track& track, WriteOptions options) {
    appendTag(out, "MTrk");
    const std::size_t lengthAt = out.size();
    append32(out, 0);
    Tick now = 0;
    std::uint8_t running = 0;
    for (const Event& event : track.events) {
        appendDelta(out, now, event.tick, running);
        appendEvent(out, file, event, running, options.runningStatus);
    }
    appendDelta(out, now, track.end, running);
    out.insert(out.end(), {0xFF, meta::endOfTrack, 0x00});
    const auto length = static_cast<std::uint32_t>(out.size() - lengthAt - 4);
    for (unsigned i = 0; i < 4; ++i) out[lengthAt + i] = static_cast<std::uint8_t>(length >> (24 - 8 * i));
}

} // namespace

Bytes writeMidi(const MidiFile& file, WriteOptions options) {
    Bytes out;
    appendTag(out, "MThd");
    append32(out, 6);
    append16(out, static_cast<unsigned>(file.type));
    append16(out, static_cast<unsigned>(file.tracks.size()));
    appendDivision(out, file.division);
    for (const Track& track : file.tracks) appendTrack(out, file, track, options);
    return out;
}

} // namespace cobbleway
