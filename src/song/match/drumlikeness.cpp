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

    static std::array<int, 128> countsOf(const SongEvents& song, const Part& part) {
        std::array<int, 128> counts{};
        song.each(*part.source.events, [&](const Event& event, EventRef) {
            if (event.isNoteOn()) ++counts[event.data1 & 0x7FU];
        });
        return counts;
    }
    Hits(const SongEvents& song, const Part& part) : Hits(countsOf(song, part), 0) {}
    /// `counts` of each key, moved by so many semitones.
    Hits(const std::array<int, 128>& counts, int semitones) {
        for (int from = 0; from < 128; ++from) {
            const int count = counts[static_cast<std::size_t>(from)];
            if (count == 0 || from + semitones < 0 || from + semitones > 127) continue;
            const auto key = static_cast<std::uint8_t>(from + semitones);
            const DrumPiece piece = pieceOf(Key{key});
            notes += count;
            pieces[static_cast<std::size_t>(piece)] += count;
            keys.set(key);
            if (isInKit(Key{key})) inKit += count;
        }
    }
    static bool isInKit(Key key) {
        const DrumPiece piece = pieceOf(key);
        return !drumName(key).empty() && piece != DrumPiece::Other && piece != DrumPiece::Percussion &&
               piece != DrumPiece::Toms;
    }
    [[nodiscard]] bool has(DrumPiece piece) const { return pieces[static_cast<std::size_t>(piece)] > 0; }
};

/// Whether more than a tenth of a part's notes are none of a kit's, found without looking at all: there are
/// no more notes than events.
bool mostlyOutsideKit(const SongEvents& song, const Part& part) {
    static const auto inKit = [] {
        std::array<bool, 128> keys{};
        for (std::size_t key = 0; key < keys.size(); ++key)
            keys[key] = Hits::isInKit(Key{static_cast<std::uint8_t>(key)});
        return keys;
    }();
    const std::size_t most = part.source.events->size() / 10;
    std::size_t outside = 0;
    return song.any(*part.source.events, [&](const Event& event, EventRef) {
        return event.isNoteOn() && !inKit[event.data1 & 0x7FU] && ++outside > most;
    });
}

} // namespace

std::optional<Message> whyDrums(const SongFrame& song, const Part& part) {
    if (part.source.drums || part.aside) return std::nullopt;
    const bool isCalledSo = namesDrums(part.name);
    if (!isCalledSo && mostlyOutsideKit(song, part)) return std::nullopt;
    const Hits hits(song, part);
    // A melodic part may be called after drums ("steel drums"); one that uses many keys is not a single
    // piece.
    const bool named = isCalledSo && hits.keys.count() <= 16;
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
    if (named && shortOnes * 10 >= hits.notes * 8) return Message("reason.name-says-so");
    if (struck && together * 8 >= hits.notes && shortOnes * 10 >= hits.notes * 9)
        return Message("reason.drum-keys");
    return std::nullopt;
}

int octavesToKit(const SongFrame& song, const Part& part) {
    const auto counts = Hits::countsOf(song, part);
    int all = 0;
    for (const int count : counts) all += count;
    const auto fits = [&](int octaves) {
        const Hits hits(counts, 12 * octaves);
        const bool whole =
            hits.has(DrumPiece::Kick) && hits.has(DrumPiece::Snare) && hits.has(DrumPiece::Hats);
        return whole ? hits.inKit : 0;
    };
    const int here = fits(0);
    int best = 0;
    for (const int octaves : {1, -1, 2, -2})
        if (fits(octaves) > (best ? fits(best) : here)) best = octaves;
    return best && fits(best) * 10 >= all * 8 && here * 2 < fits(best) ? best : 0;
}

std::optional<Message> whyPitched(const SongFrame& song, const Part& part) {
    if (!part.source.drums || part.aside) return std::nullopt;
    // A kit's track may be called after anything ("Bass", "Timpani"): its notes must look like a melody, too.
    const Hits hits(song, part);
    const bool kit = hits.has(DrumPiece::Kick) && hits.has(DrumPiece::Snare);
    if (part.nameGiven && !kit && hits.keys.count() >= 8 && programFromName(part.name))
        return Message("reason.name-and-melody");
    const auto notes = notesOf(song, part.source);
    const auto outside = std::count_if(
        notes.begin(), notes.end(), [](const PartNote& n) { return n.key.value < 27 || n.key.value > 87; });
    if (!notes.empty() && outside * 2 > static_cast<std::ptrdiff_t>(notes.size()))
        return Message("reason.no-drum-keys");
    return std::nullopt;
}

} // namespace cobbleway
