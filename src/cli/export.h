#pragma once
#include "cli/arguments.h"

namespace cobbleway::cli {

/// The options of export, as parseArguments() takes them.
std::vector<std::string> exportOptions();

/// Writes files of songs: the work of the Export page. Exit code as main() gives it.
int exportSongs(const Arguments& arguments);

} // namespace cobbleway::cli
