/// Lists of drum note names on disk: plain text, CSV, and MIDI name documents.
#pragma once
#include "files/atomicfile.h"
#include "song/drums/drumedits.h"
#include "words/message.h"

#include <string>
#include <vector>

namespace cobbleway {

enum class NameFormat {
    Text,  ///< a line a note: number, separator, name
    Csv,   ///< RFC 4180, with or without a heading
    Midnam ///< a MIDI name document (the XML of the MIDI Manufacturers Association)
};
/// "text", "csv", "midnam".
std::string_view nameFormatWord(NameFormat format);
/// By the ending of a file's name: .csv, .midnam, else text.
NameFormat nameFormatOf(const std::filesystem::path& path);

/// A line that was ignored or repaired, and why.
struct RepairedLine {
    int line = 0; ///< from 1; the first of them, where many have the same fault
    Message what; ///< one sentence
    bool operator==(const RepairedLine&) const = default;
};

/// One list; a name document may hold several, and each has a title there.
struct NameList {
    std::string title;
    DrumNames names;
    bool operator==(const NameList&) const = default;
};

struct NameFile {
    NameFormat format = NameFormat::Text;
    std::vector<NameList> lists; ///< at least one, none of them empty
    std::vector<RepairedLine> repaired;
};

/// Reads a list of names from the bytes of a file.
///
/// Text: numbers are decimal, hexadecimal ("0x24", "$24", "24h") or note names ("C#2", "Eb3", "H1"); for
/// note names the octave convention counts under which most names mean the drum on their key (RP-003), else
/// C4 = 60. Separators are spaces, tabs, "=", ";" or ",". A line that starts with "#", "//" or ";" is a
/// comment, and so is what follows a "#" between spaces. Of two names for a key the last counts. Names are
/// cut at 64 characters. Invisible characters go. Whatever was ignored or repaired is told.
///
/// In a name document entities are not expanded. Fails with a sentence where no name is found.
Result<NameFile> parseNames(std::string_view bytes, const std::filesystem::path& path);
Result<NameFile> readNames(const std::filesystem::path& path);

/// The names as a file of a format. `title` is that of the list in a name document.
std::string namesText(const DrumNames& names, NameFormat format, const std::string& title);
/// Writes them in the format that the ending tells.
Result<Done> writeNames(const DrumNames& names, const std::string& title, const std::filesystem::path& path);

} // namespace cobbleway
