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

/// Facts in the order in which they are told.
using Json = nlohmann::ordered_json;

/// Writes what a command found as JSON on the output: an object of "version" (1), "command" and "result".
/// Text that is no UTF-8 is replaced.
void print(const char* command, const Json& result);

/// Whether all that was written on the output has gone out; else the error is told.
bool outputIsWhole();

} // namespace cobbleway::cli
