/// What all commands stand on: errors, fonts, JSON.
#pragma once
#include "cli/arguments.h"
#include "font/catalogue.h"

#include <nlohmann/json.hpp>

namespace cobbleway::cli {

/// Tells an error on the error stream; gives the exit code.
int fail(const Error& error, int code = 1);

/// The house font and those named, in the order named; without any the system's.
Result<Catalogue> catalogueOf(const Arguments& arguments);

/// Writes JSON on the output; text that is no UTF-8 is replaced.
void print(const nlohmann::json& json);

} // namespace cobbleway::cli
