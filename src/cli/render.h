/// A sound file of a song, or of a mix of it.
#pragma once
#include "cli/arguments.h"

namespace cobbleway::cli {

int render(const Arguments& arguments); ///< gives the exit code

} // namespace cobbleway::cli
