/// Every command with its options and what help says of it.
#pragma once
#include "cli/arguments.h"

namespace cobbleway::cli {

const std::vector<CommandSpec>& commands();

/// What the program can do, a line a command.
std::string helpText();
/// One command: its words, options and examples.
std::string helpText(const CommandSpec& command);

} // namespace cobbleway::cli
