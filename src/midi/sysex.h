/// System exclusive messages as the tracks of a file hold them.
#pragma once
#include "midi/event.h"

#include <initializer_list>
#include <span>
#include <vector>

namespace cobbleway {

/// Whether bytes begin with a pattern in which −1 stands for any byte.
bool sysexMatches(std::span<const std::uint8_t> bytes, std::initializer_list<int> pattern);

/// Where a message is: its events from the first to the last, 0-based, among others of its track.
struct SysexPlace {
    std::uint32_t track = 0, first = 0, last = 0;
};

/// Calls `visit(bytes, event, place)` for the messages of a track, with the first event of each. The bytes
/// begin after F0. Those that come in pieces (SMF 1.0: F0 without a closing F7, then F7 events) are put
/// together; pieces that are none of a message are left out.
template <class Visit> void forEachSysex(const MidiFile& file, std::uint32_t track, Visit visit) {
    std::vector<std::uint8_t> pieces;
    Event first;
    SysexPlace place{track, 0, 0};
    bool open = false;
    const auto visitPieces = [&] { visit(std::span<const std::uint8_t>(pieces), first, place); };
    file.eachBesideNotes(track, [&](const Event& event, std::uint32_t index) {
        if (!event.isSysex()) return;
        const std::span<const std::uint8_t> bytes = file.bytes(event);
        const bool closes = !bytes.empty() && bytes.back() == 0xF7;
        if (event.status == 0xF0) {
            if (open) visitPieces(); // it was never closed
            open = !closes;
            if (closes) return visit(bytes, event, SysexPlace{track, index, index});
            first = event;
            place.first = place.last = index;
            pieces.assign(bytes.begin(), bytes.end());
        } else if (open) {
            pieces.insert(pieces.end(), bytes.begin(), bytes.end());
            place.last = index;
            if (!closes) return;
            open = false;
            visitPieces();
        }
    });
    if (open) visitPieces();
}

/// The same for all tracks, in order.
template <class Visit> void forEachSysex(const MidiFile& file, Visit visit) {
    for (std::uint32_t t = 0; t < file.tracks.size(); ++t) forEachSysex(file, t, visit);
}

/// The bytes of the message that begins with an event, put together.
std::vector<std::uint8_t> sysexFrom(const MidiFile& file, std::uint32_t track, std::uint32_t first);

} // namespace cobbleway
