#include "song/match/drumlikeness.h"

#include "midi/gm.h"
#include "song/heard/notes.h"
#include "song/match/names.h"

#include <algorithm>
#include <array>

namespace cobbleway {

std::optional<std::string> whyDrums(const SongFrame& song, const Part& part) {
    if (part.source.drums || part.aside) return std::nullopt;
    const auto notes = notesOf(song, part.source);
    if (notes.empty()) return std::nullopt;
    std::array<int, pieceCount> hits{};
    std::array<bool, 128> keys{};
    int together = 0, inKit = 0, shortOnes = 0;
    const Tick quarter = song.tempo->quarter();
    for (std::size_t i = 0; i < notes.size(); ++i) {
        ++hits[static_cast<std::size_t>(pieceOf(notes[i].key))];
        keys[notes[i].key.value & 0x7FU] = true;
        const bool known = !drumName(notes[i].key).empty();
        inKit +=
            known && pieceOf(notes[i].key) != DrumPiece::Other && pieceOf(notes[i].key) != DrumPiece::Toms;
        together += i > 0 && notes[i].start == notes[i - 1].start && notes[i].key != notes[i - 1].key;
        shortOnes += notes[i].end - notes[i].start <= quarter;
    }
    const auto count = static_cast<int>(notes.size());
    const auto distinct = std::count(keys.begin(), keys.end(), true);
    // A melodic part may be called after drums ("steel drums"); one that uses many keys is not a single
    // piece.
    if (namesDrums(part.name) && shortOnes * 10 >= count * 8 && distinct <= 16) return "its name says so";
    const auto hitsOf = [&](DrumPiece piece) { return hits[static_cast<std::size_t>(piece)]; };
    const bool all =
        hitsOf(DrumPiece::Kick) > 0 && hitsOf(DrumPiece::Snare) > 0 && hitsOf(DrumPiece::Hats) > 0;
    if (all && count >= 16 && inKit * 10 >= count * 9 && together * 8 >= count && shortOnes * 10 >= count * 9)
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
