/// A few notes by which a sound is tried.
#pragma once
#include "song/heard/realise.h"

#include <vector>

namespace cobbleway {

/// A note of a phrase; times in seconds from its beginning.
struct PhraseNote {
    double start = 0, end = 0;
    Key key;
    Velocity velocity;
    bool operator==(const PhraseNote&) const = default;
};

/// What a part plays from its first note at or after `from` on, or else from its very first: the notes that
/// begin within two and a half seconds, at the song's tempo, none longer than to the third second. In order
/// of start. Empty for a part without notes.
std::vector<PhraseNote> phraseOf(const Song& song, const HeardPart& heard, Tick from);

/// Five notes of a major scale upwards, the middle one in the middle of a range (0–127), of a quarter second
/// each.
std::vector<PhraseNote> scaleIn(KeyRange range);

} // namespace cobbleway
