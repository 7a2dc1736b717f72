/// What a part's name tells about its instrument (common practice, no source).
#pragma once
#include "midi/event.h"

#include <optional>
#include <string>

namespace cobbleway {

/// A name folded for comparing: low ASCII letters, accents left out, Cyrillic in Latin letters, everything
/// else a blank; a blank before and after.
std::string plainWords(const std::string& name);

/// The program that a name asks for, by words of several languages: "Vln. II" → Violin. None when it tells
/// nothing, or tells of drums.
std::optional<Program> programFromName(const std::string& name);

/// Whether a name tells of drums: "Schlagzeug", "kick", "Perc. 2".
bool namesDrums(const std::string& name);

} // namespace cobbleway
