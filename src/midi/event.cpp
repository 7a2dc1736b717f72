#include "midi/event.h"

#include <algorithm>
#include <bit>

namespace cobbleway {

std::span<const std::uint8_t> MidiFile::bytes(const Event& event) const {
    if (event.payload & cutPayload) { // noPayload is past all of them
        const std::size_t index = event.payload & ~cutPayload;
        if (index >= cuts.size()) return {};
        return std::span(pool).subspan(cuts[index].offset, cuts[index].length);
    }
    if (event.payload >= pool.size()) return {};
    const std::uint8_t* at = pool.data() + event.payload;
    const std::uint8_t* end = pool.data() + pool.size();
    const std::size_t length = readVariable(at, end);
    return {at, std::min(length, static_cast<std::size_t>(end - at))};
}

std::string_view MidiFile::rawText(const Event& event) const {
    const auto data = bytes(event);
    return {reinterpret_cast<const char*>(data.data()), data.size()};
}

std::uint32_t MidiFile::addPayload(std::span<const std::uint8_t> bytes) {
    const auto at = static_cast<std::uint32_t>(pool.size());
    appendVariable(pool, static_cast<std::uint32_t>(bytes.size()));
    pool.insert(pool.end(), bytes.begin(), bytes.end());
    return at;
}

void MidiFile::addMeta(std::size_t track, Tick tick, std::uint8_t type, std::span<const std::uint8_t> bytes) {
    tracks[track].events.push_back({tick, 0xFF, type, 0, 0, addPayload(bytes)});
}

void MidiFile::addText(std::size_t track, Tick tick, std::uint8_t type, std::string_view text) {
    addMeta(track, tick, type, {reinterpret_cast<const std::uint8_t*>(text.data()), text.size()});
}

void MidiFile::addTempo(std::size_t track, Tick tick, int microseconds) {
    const std::uint8_t data[] = {static_cast<std::uint8_t>(microseconds >> 16),
                                 static_cast<std::uint8_t>(microseconds >> 8),
                                 static_cast<std::uint8_t>(microseconds)};
    addMeta(track, tick, meta::tempo, data);
}

void MidiFile::addTimeSignature(std::size_t track, Tick tick, int numerator, int denominator) {
    const auto power = std::bit_width(static_cast<unsigned>(denominator)) - 1;
    const std::uint8_t data[] = {static_cast<std::uint8_t>(numerator), static_cast<std::uint8_t>(power), 24,
                                 8};
    addMeta(track, tick, meta::timeSignature, data);
}

void MidiFile::addSysex(std::size_t track, Tick tick, std::span<const std::uint8_t> bytes) {
    tracks[track].events.push_back({tick, 0xF0, 0, 0, 0, addPayload(bytes)});
}

void MidiFile::addChannel(std::size_t track, Tick tick, std::uint8_t status, std::uint8_t data1,
                          std::uint8_t data2, std::uint8_t port) {
    tracks[track].events.push_back({tick, status, data1, data2, port, noPayload});
}

void MidiFile::sortTracks() {
    besideNotes.clear();
    for (Track& track : tracks) {
        std::stable_sort(track.events.begin(), track.events.end(),
                         [](const Event& a, const Event& b) { return a.tick < b.tick; });
        if (!track.events.empty()) track.end = std::max(track.end, track.events.back().tick);
    }
}

Tick MidiFile::end() const {
    Tick last = 0;
    for (const Track& track : tracks) last = std::max(last, track.end);
    return last;
}

std::uint32_t readVariable(const std::uint8_t*& at, const std::uint8_t* end) {
    std::uint32_t value = 0;
    for (int i = 0; i < 5 && at < end; ++i) {
        const std::uint8_t byte = *at++;
        value = (value << 7) | (byte & 0x7F);
        if (!(byte & 0x80)) return value;
    }
    return at >= end ? 0 : value;
}

void appendVariable(std::vector<std::uint8_t>& out, std::uint32_t value) {
    value = std::min<std::uint32_t>(value, 0x0FFFFFFF);
    for (int shift = 21; shift > 0; shift -= 7)
        if (value >> shift) out.push_back(static_cast<std::uint8_t>(0x80 | ((value >> shift) & 0x7F)));
    out.push_back(static_cast<std::uint8_t>(value & 0x7F));
}

int tempoOf(std::span<const std::uint8_t> bytes) {
    if (bytes.size() < 3) return 0;
    return (bytes[0] << 16) | (bytes[1] << 8) | bytes[2];
}

} // namespace cobbleway
