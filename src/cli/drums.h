/// Drum parts and lists of drum names, for the command line.
#pragma once
#include "cli/describe.h"
#include "files/notenames.h"

namespace cobbleway::cli {

/// A list of drum parts: notes, kits, what is silent. Keys and programs of fonts from 0, indexes of parts
/// from 1.
Json drumsJson(const Song& song, const Catalogue& catalogue);
std::string drumsText(const Json& parts);

/// One list of a file of names, counted from 0; with `meant` the drum that each name means.
Json namesJson(const NameFile& file, std::size_t list, bool meant);
std::string namesText(const Json& names);

} // namespace cobbleway::cli
