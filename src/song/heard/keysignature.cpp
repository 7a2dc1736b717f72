#include "song/heard/keysignature.h"

#include "midi/text.h"

#include <algorithm>
#include <cstdlib>

namespace cobbleway {
namespace {

/// The first event of the whole file that is a meta of a type and holds something; by tick, then track.
const Event* firstMeta(const MidiFile& midi, std::uint8_t type, std::size_t leastBytes) {
    const Event* first = nullptr;
    for (const Track& track : midi.tracks) {
        const auto at = std::find_if(track.events.begin(), track.events.end(), [&](const Event& event) {
            return event.isMeta(type) && midi.bytes(event).size() >= leastBytes;
        });
        if (at != track.events.end() && (!first || at->tick < first->tick)) first = &*at;
    }
    return first;
}

} // namespace

std::vector<KeySignature> signaturesOf(const Song& song) {
    const MidiFile& midi = song.source->midi;
    std::vector<KeySignature> found;
    for (std::size_t track = 0; track < midi.tracks.size(); ++track)
        midi.eachBesideNotes(track, [&](const Event& event, std::uint32_t) {
            if (!event.isMeta(meta::keySignature)) return;
            const auto bytes = midi.bytes(event);
            const int sharps = bytes.size() < 2 ? 99 : static_cast<std::int8_t>(bytes[0]);
            if (std::abs(sharps) <= 7)
                found.push_back({event.tick + (*song.trackStarts)[track], sharps, bytes[1] == 1});
        });
    std::stable_sort(found.begin(), found.end(),
                     [](const KeySignature& a, const KeySignature& b) { return a.tick < b.tick; });
    found.erase(std::unique(found.begin(), found.end(),
                            [](const KeySignature& a, const KeySignature& b) {
                                return a.sharps == b.sharps && a.minor == b.minor;
                            }),
                found.end());
    return found;
}

std::string signatureKey(const Song& song) {
    const MidiFile& midi = song.source->midi;
    const Event* event = firstMeta(midi, meta::keySignature, 2);
    if (!event) return {};
    const int sharps = static_cast<std::int8_t>(midi.bytes(*event)[0]); // flats below 0
    const bool minor = midi.bytes(*event)[1] == 1;
    if (sharps < -7 || sharps > 7 || (sharps == 0 && !minor)) return {};
    // Keys stand in fifths; a shift of one semitone is seven of them, and spelled with as few signs as can
    // be.
    int fifths = sharps + 7 * song.keyShift;
    while (song.keyShift != 0 && fifths > 6) fifths -= 12;
    while (song.keyShift != 0 && fifths < -5) fifths += 12;
    constexpr std::string_view line = "FCGDAEB"; // of fifths, from F; C major has none
    const int place = fifths + 1 + (minor ? 3 : 0);
    const int signs = place >= 0 ? place / 7 : -((6 - place) / 7);
    std::string key(1, line[static_cast<std::size_t>(place - 7 * signs)]);
    if (signs != 0) key += signs > 0 ? "#" : "b";
    return minor ? key + "m" : key;
}

std::string copyrightOf(const Song& song) {
    const MidiFile& midi = song.source->midi;
    const Event* event = firstMeta(midi, meta::copyright, 1);
    return event ? toUtf8(midi.rawText(*event), song.encoding) : std::string();
}

} // namespace cobbleway
