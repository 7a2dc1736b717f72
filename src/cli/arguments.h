/// Command lines, taken apart by CLI11.
#pragma once
#include "midi/result.h"

#include <functional>
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

struct OptionSpec {
    std::string name;  ///< "--font"
    std::string value; ///< how help calls its value; empty for an option that takes none
    std::string help;
};

struct CommandSpec {
    std::string name;
    std::string words; ///< "IN OUT.mid"
    std::string help;  ///< one sentence without its end
    std::vector<OptionSpec> options;
    std::vector<std::string> examples; ///< without the program's name
    std::function<int(const Arguments&)> work;
};

/// What a command line asks for: help, or a command to be done.
struct Asked {
    const CommandSpec* command = nullptr; ///< null: the program itself
    bool help = false;
    bool version = false;
    Arguments arguments;
};

/// Takes a command line apart: "--font F" and "--font=F" are the same, "--" ends the options, "-" is a word.
/// Of an option that is given twice the last counts. An error for a command or option that there is not, with
/// the one that was perhaps meant, and for a value that is missing.
Result<Asked> parse(const std::vector<CommandSpec>& commands, const std::vector<std::string>& given);

/// "1,3,4" as numbers from 1 up; an error when it is anything else.
Result<std::vector<int>> parseNumbers(const std::string& text);

/// Of some names that which is nearest to what was written, when it is near enough to be meant; else empty.
std::string nearestOf(const std::string& written, const std::vector<std::string>& names);

} // namespace cobbleway::cli
