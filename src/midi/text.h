/// The text in MIDI files: bytes in an encoding that the file does not name → UTF-8.
#pragma once
#include "midi/event.h"

#include <string>
#include <string_view>
#include <vector>

namespace cobbleway {

/// The encoding that fits all text of a file best, as a name for toUtf8(): by language codes in the text
/// (RP-026), UTF-16 by its zeros, else found by uchardet over the file as a whole, since single names are too
/// short to tell; where uchardet has little to go by, Windows-1252. "UTF-8" when all is plain ASCII.
std::string guessEncoding(const MidiFile& file);

/// An encoding by its language, for people: "Japanese (Shift-JIS)".
std::string encodingText(const std::string& encoding);

/// Encodings that a person may choose, names for toUtf8().
const std::vector<std::string>& knownEncodings();

/// The encoding that fits some text best, with the same names; UTF-16 by its mark or its zeros.
std::string guessEncoding(std::string_view text);

/// Text in `encoding` as UTF-8 without control characters or surrounding blanks. Bytes that the encoding
/// does not know become U+FFFD; an unknown encoding is read as Windows-1252.
std::string toUtf8(std::string_view text, const std::string& encoding);
/// The same with line ends and surrounding blanks kept, as lyrics need them.
std::string toUtf8Untrimmed(std::string_view text, const std::string& encoding);

/// The same with control characters kept, too.
std::string toUtf8Whole(std::string_view text, const std::string& encoding);

/// Replaces what is not valid UTF-8 by U+FFFD.
std::string validUtf8(std::string_view text);

} // namespace cobbleway
