#include "midi/event.h"

#include <algorithm>
#include <bit>

namespace cobbleway {

std::span<const std::uint8_t> MidiFile::bytes(const Event& event) const {
    if (event.payload >= slices.size()) return {};
    const Slice& slice = slices[event.payload];
    return std::span(pool).subspan(slice.offset, slice.length);
}

std::string_view MidiFile::rawText(const Event& event) const {
    const auto data = bytes(event);
    return {reinterpret_cast<const char*>(data.data()), data.size()};
}

std::uint32_t MidiFile::addPayload(std::span<const std::uint8_t> bytes) {
    slices.push_back({pool.size(), static_cast<std::uint32_t>(bytes.size())});
    pool.insert(pool.end(), bytes.begin(), bytes.end());
    return static_cast<std::uint32_t>(slices.size() - 1);
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

int tempoOf(std::span<const std::uint8_t> bytes) {
    if (bytes.size() < 3) return 0;
    return (bytes[0] << 16) | (bytes[1] << 8) | bytes[2];
}

} // namespace cobbleway
