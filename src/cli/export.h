#pragma once
#include "cli/arguments.h"

namespace cobbleway::cli {

/// Writes files of songs: the work of the Export page. Exit code as main() gives it.
int exportSongs(const Arguments& arguments);

} // namespace cobbleway::cli
