/// The commands that write MIDI files anew. Each gives the exit code.
#pragma once
#include "cli/arguments.h"
#include "song/out/tomidi.h"

namespace cobbleway::cli {

int rewrite(const Arguments& arguments, Layout layout); ///< split and join
int parts(const Arguments& arguments);

} // namespace cobbleway::cli
