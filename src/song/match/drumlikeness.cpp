#include "song/match/drumlikeness.h"

#include "midi/gm.h"
#include "song/heard/notes.h"
#include "song/match/names.h"

#include <algorithm>
#include <array>
#include <bitset>

namespace cobbleway {

namespace {

/// How many notes of a part are of each piece of the kit, and how many lie on the keys of a plain beat.
struct Hits {
    int notes = 0, inKit = 0;
    std::array<int, pieceCount> pieces{};
    std::bitset<128> keys;

    Hits(const SongEvents& song, const Part& part) {
        std::array<int, 128> counts{};
        song.each(*part.source.events, [&](const Event& event, EventRef) {
            if (event.isNoteOn()) ++counts[event.data1 & 0x7FU];
        });
        for (std::uint8_t key = 0; key < 128; ++key) {
            const int count = counts[key];
            if (count == 0) continue;
            const DrumPiece piece = pieceOf(Key{key});
            notes += count;
            pieces[static_cast<std::size_t>(piece)] += count;
            keys.set(key);
            if (!drumName(Key{key}).empty() && piece != DrumPiece::Other && piece != DrumPiece::Toms)
                inKit += count;
        }
    }
    [[nodiscard]] bool has(DrumPiece piece) const { return pieces[static_cast<std::size_t>(piece)] > 0; }
};

} // namespace

std::optional<std::string> whyDrums(const SongFrame& song, const Part& part) {
    if (part.source.drums || part.aside) return std::nullopt;
    const Hits hits(song, part);
    // A melodic part may be called after drums ("steel drums"); one that uses many keys is not a single
    // piece.
    const bool named = namesDrums(part.name) && hits.keys.count() <= 16;
    const bool struck = hits.has(DrumPiece::Kick) && hits.has(DrumPiece::Snare) &&
                        hits.has(DrumPiece::Hats) && hits.notes >= 16 && hits.inKit * 10 >= hits.notes * 9;
    if (hits.notes == 0 || (!named && !struck)) return std::nullopt;
    const auto notes = notesOf(song, part.source);
    int together = 0, shortOnes = 0;
    const Tick quarter = song.tempo->quarter();
    for (std::size_t i = 0; i < notes.size(); ++i) {
        together += i > 0 && notes[i].start == notes[i - 1].start && notes[i].key != notes[i - 1].key;
        shortOnes += notes[i].end - notes[i].start <= quarter;
    }
    if (named && shortOnes * 10 >= hits.notes * 8) return "its name says so";
    if (struck && together * 8 >= hits.notes && shortOnes * 10 >= hits.notes * 9)
        return "its notes lie on the keys of kick, snare and hats";
    return std::nullopt;
}

std::optional<std::string> whyPitched(const SongFrame& song, const Part& part) {
    if (!part.source.drums || part.aside) return std::nullopt;
    if (part.nameGiven && programFromName(part.name)) return "its name says so";
    const auto notes = notesOf(song, part.source);
    const auto outside = std::count_if(
        notes.begin(), notes.end(), [](const PartNote& n) { return n.key.value < 27 || n.key.value > 87; });
    if (!notes.empty() && outside * 2 > static_cast<std::ptrdiff_t>(notes.size()))
        return "most of its notes lie where no drum is";
    return std::nullopt;
}

} // namespace cobbleway
