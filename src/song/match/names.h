/// What a part's name tells about its instrument (common practice, no source).
#pragma once
#include "midi/event.h"
#include "song/match/namewords.h"

#include <optional>
#include <string>

namespace cobbleway {

/// All that a name tells.
struct NameReading {
    std::optional<Program> program; ///< none when it tells of no instrument, or of drums
    unsigned marks = 0;             ///< NameMark, of all its words
    bool drums = false;
    NameRank rank = NameRank::None;
};

/// Words of sixteen languages, abbreviated, joined or misspelt: "Altblockflöte", "Bs. Cl.", "Trumpett". A
/// noun says what plays, other words how ("Gitarre, verzerrt"); what a part does ("lead", "solo") never
/// outranks an instrument. The names of General MIDI's programs fit as they are.
NameReading readName(const std::string& name);

/// The program that a name asks for: "Vln. II" → Violin. None when it tells nothing, or tells of drums.
std::optional<Program> programFromName(const std::string& name);

/// Whether a name tells of drums: "Schlagzeug", "kick", "Perc. 2".
bool namesDrums(const std::string& name);

} // namespace cobbleway
