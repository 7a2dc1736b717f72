/// The commands that tell what is there. Each gives the exit code.
#pragma once
#include "cli/arguments.h"

namespace cobbleway::cli {

int inspect(const Arguments& arguments);
int match(const Arguments& arguments);
int fonts(const Arguments& arguments);
int instruments(const Arguments& arguments);
int drums(const Arguments& arguments);
int names(const Arguments& arguments);
int sections(const Arguments& arguments);

} // namespace cobbleway::cli
