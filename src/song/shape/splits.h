/// Splitting a part: who gets which note.
///
/// Every split hands each note, with both its events, to one of the new parts. All of them keep the part's
/// controllers and bends, so that each sounds as before, and its recipe. Joining them again gives the events
/// they came from.
#pragma once
#include "midi/gm.h"
#include "song/heard/notes.h"

#include <optional>
#include <string>
#include <vector>

namespace cobbleway {

/// Groups for a part's notes, at most 10 000. A group that no note falls to makes no part.
struct Split {
    std::vector<int> groupOf;       ///< of each note of notesOf(), 0-based
    std::vector<std::string> names; ///< of each group
    /// How many groups have notes.
    [[nodiscard]] int used() const;
};

/// A group a channel of the file, for a part that was joined of several.
Split splitByChannel(const Song& song, const Part& part);
/// A group a program, in order of first use. A part with a name of its own keeps it: "Violin I, pizzicato".
Split splitByProgram(const Song& song, const Part& part);
/// Two groups: `lowest` and above, and below it.
Split splitByPitch(const Song& song, const Part& part, Key lowest);
/// The key at which splitByPitch() divides best: few notes close to it, parts of like size, a tenth of the
/// notes at least on each side; else the median.
Key suggestedSplitKey(const Song& song, const Part& part);
/// Lines from top to bottom, 2–8.
///
/// The rule: notes that start within 40 ms of each other and sound together are a chord; ends that reach over
/// the next start by less do not count. A chord with at least as many notes as there are lines gives its
/// highest note to the first line and its lowest to the last; a note between goes to the nearest line of
/// those between and at the ends, in order. A smaller chord is given out so that the sum of distances from
/// each line's last note is least, in order of pitch; a line that still sounds counts as an octave farther
/// away, and so nearly does passing a line that sounds. A line that has not begun is taken to stand at its
/// share of the part's range.
Split splitIntoLines(const Song& song, const Part& part, int lines);
/// Three groups, by the same rule: of each chord the highest note is melody, the lowest bass, all others
/// middle.
Split splitIntoMelodyAndBass(const Song& song, const Part& part);
/// A group a piece of the kit: kick, snare, hats, toms, cymbals, percussion, other; by pieceOf().
Split splitByPiece(const Song& song, const Part& part);
/// Two groups: all others, and the notes of one piece.
Split splitOffPiece(const Song& song, const Part& part, DrumPiece piece);
/// A group a track, port and channel that the notes come from, for a part that was joined of several.
Split splitByOrigin(const Song& song, const Part& part);
/// Two groups: notes that start before a tick, and from it on.
Split splitAtTime(const Song& song, const Part& part, Tick tick);
/// A group a section in which notes start; those before the first section and of equal names together.
Split splitBySection(const Song& song, const Part& part);

namespace edits {
/// Makes a part of each group that has notes; the first keeps the part's place and channel, others follow it
/// on free channels (drums stay on theirs). A split with fewer than two groups in use changes nothing.
Song split(Song song, PartId part, const Split& split);
} // namespace edits

} // namespace cobbleway
