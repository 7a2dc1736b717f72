/// The words of instruments, voices and drums in sixteen languages: English, German, French, Italian,
/// Spanish, Dutch, Portuguese, Polish, Swedish, Danish, Norwegian, Finnish, Czech, Hungarian, Russian and
/// Japanese (common practice, no source).
#pragma once
#include <optional>
#include <string>

namespace cobbleway {

/// What a word adds to an instrument's name.
enum NameMark : unsigned {
    Soprano = 1U << 0,
    Alto = 1U << 1,
    Tenor = 1U << 2,
    Baritone = 1U << 3,
    Low = 1U << 4, ///< bass, contrabass
    Electric = 1U << 5,
    Acoustic = 1U << 6,
    Classical = 1U << 7, ///< nylon strings
    Steel = 1U << 8,
    Jazz = 1U << 9,
    Clean = 1U << 10,
    Muted = 1U << 11,
    Overdriven = 1U << 12,
    Distorted = 1U << 13,
    Harmonics = 1U << 14,
    Fretless = 1U << 15,
    Slapped = 1U << 16,
    Picked = 1U << 17,
    Synthetic = 1U << 18,
    Tremolo = 1U << 19,
    Plucked = 1U << 20,
    Slow = 1U << 21,
    Church = 1U << 22, ///< of pipes
    Rock = 1U << 23,
    Reed = 1U << 24,
    Sweet = 1U << 25, ///< of flutes: a recorder
    Pan = 1U << 26,
    Small = 1U << 27,
    Mouth = 1U << 28,
    English = 1U << 29,
    Sung = 1U << 30,
    Several = 1U << 31 ///< a section
};

/// Of two nouns in a name the one of higher rank says what plays; of equal ones the first.
enum class NameRank { None, Synth, Lead, Pad, Voice, Bass, Light, Full, Drums };

/// What a word says.
struct NameSense {
    int program = -1; ///< 0-based; −1 for words that are no noun
    unsigned marks = 0;
    NameRank rank = NameRank::None;
};

/// What a word says, or several with blanks between; in letters as of plainWords(). Only as it stands here.
std::optional<NameSense> senseOf(const std::string& words);

/// What one word says that does not stand here: with an ending, in another spelling, made of two, or with a
/// slip of a letter or two. None for words too short to tell.
std::optional<NameSense> likelySenseOf(const std::string& word);

/// The program of an instrument that plays in a way which has a program of its own: 24 with Distorted is 30.
int programWith(int program, unsigned marks);

/// A name with Japanese words written in English ones.
std::string withoutKana(const std::string& name);

} // namespace cobbleway
