/// The text in MIDI files: bytes in an encoding that the file does not name → UTF-8.
#pragma once
#include "midi/event.h"

#include <string>
#include <string_view>
#include <vector>

namespace cobbleway {

/// The encoding that fits all text of a file best, as a name for toUtf8(): found by uchardet over the file as
/// a whole, since single names are too short to tell. "UTF-8" when all is plain ASCII.
std::string guessEncoding(const MidiFile& file);

/// The encoding that fits some text best, with the same names.
std::string guessEncoding(std::string_view text);

/// Text in `encoding` as UTF-8 without control characters or surrounding blanks. Bytes that the encoding
/// does not know become U+FFFD; an unknown encoding is read as Windows-1252.
std::string toUtf8(std::string_view text, const std::string& encoding);

/// Replaces what is not valid UTF-8 by U+FFFD.
std::string validUtf8(std::string_view text);

} // namespace cobbleway
