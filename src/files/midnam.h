/// MIDI name documents: the XML in which note names are published (MIDI Manufacturers Association, DTD
/// MIDINameDocument 1.0).
#pragma once
#include "files/notenames.h"

namespace cobbleway {

bool looksLikeXml(const std::string& text);

/// All lists of note names in a document, those without a name in them left out. Entities are not expanded,
/// nothing else is read, and nothing is fetched. Fails where the XML cannot be read.
Result<NameFile> parseMidnam(std::string_view bytes, const std::filesystem::path& path);

/// A document with one list.
std::string midnamOf(const DrumNames& names, const std::string& title);

} // namespace cobbleway
