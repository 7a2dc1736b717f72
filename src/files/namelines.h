/// Drum names in plain text and CSV, line by line.
#pragma once
#include "files/notenames.h"

namespace cobbleway {

struct NameLines {
    DrumNames names;
    std::vector<RepairedLine> repaired; ///< in order of line
};

/// `text` is UTF-8 with all its control characters. See parseNames().
NameLines textLines(const std::string& text);
NameLines csvLines(const std::string& text);
/// A number and a name that something else has told apart.
NameLines pairLine(const std::string& number, const std::string& name);
/// What is said once of many lines that have the same fault.
Message onManyLines(const Message& fault, std::size_t lines, int first, int last);
/// Whether text is CSV whatever its file is called: a heading of known words, or quoted fields.
bool looksLikeCsv(const std::string& text);

} // namespace cobbleway
