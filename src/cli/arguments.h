#pragma once
#include "midi/result.h"

#include <map>
#include <string>
#include <vector>

namespace cobbleway::cli {

/// A command line, taken apart: words, and options with their values ("" for those that take none).
struct Arguments {
    std::vector<std::string> words;
    std::map<std::string, std::string> options;
    [[nodiscard]] bool has(const std::string& option) const { return options.contains(option); }
    [[nodiscard]] std::string value(const std::string& option) const {
        return has(option) ? options.at(option) : "";
    }
};

/// Takes a command line apart. Options take a value, but those that `allowed` has with "!" after them. "--"
/// ends the options. An error for an option that `allowed` does not name or whose value is missing.
Result<Arguments> parseArguments(const std::vector<std::string>& given,
                                 const std::vector<std::string>& allowed);

/// "1,3,4" as numbers from 1 up; an error when it is anything else.
Result<std::vector<int>> parseNumbers(const std::string& text);

} // namespace cobbleway::cli
