/// What a part seems to be, when its file does not say or says what cannot be right.
#pragma once
#include "song/heard/realise.h"
#include "song/match/instruments.h"
#include "song/model/asks.h"
#include "words/message.h"

namespace cobbleway {

/// What the notes themselves tell.
struct PartTraits {
    KeyWeights keys{}; ///< length of notes on each key, in ticks
    int notes = 0;
    double alone = 1;    ///< share of the sounding time, 0–1, in which a single note sounds
    double quarters = 0; ///< length of the middle note, in quarter notes
    int lowest = 0, middle = 0, highest = 0; ///< keys; the middle one by length
    bool operator==(const PartTraits&) const = default;
};
PartTraits traitsOf(const SongFrame& song, const HeardPart& heard);

/// One guess, with what speaks for it.
struct Guess {
    Program program;
    bool drums = false;           ///< a kit; `program` is then the kit's
    double points = 0;            ///< more is likelier; comparable within one part only
    bool named = false;           ///< a name speaks for it
    std::vector<Message> reasons; ///< half-sentences: "its name says Violin"
};

/// Guesses for a part, likeliest first, at most `most`. Weighed are: the program that the file gives (6
/// points, less where the notes contradict it), the part's name and the instrument names in its track (5),
/// words of the same kin (1.5), keys that are struck like drums (5), notes within the instrument's range (2,
/// down to −4), one note at a time against chords (±1), long notes against short ones (±0.5), a low line for
/// basses (1.5), and half a point for the piano, which any part can be played on.
/// `asked`: the first of asksOf().
std::vector<Guess> guessesOf(const SongFrame& song, const Part& part, const Ask& asked,
                             const PartTraits& traits, std::size_t most = 6);

} // namespace cobbleway
