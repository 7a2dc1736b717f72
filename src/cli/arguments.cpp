#include "cli/arguments.h"

#include <CLI/CLI.hpp>
#include <algorithm>
#include <charconv>
#include <numeric>
#include <sstream>

namespace cobbleway::cli {
namespace {

/// How many letters must be changed, added or taken away to make one of the other (Levenshtein).
std::size_t changesBetween(const std::string& a, const std::string& b) {
    std::vector<std::size_t> row(b.size() + 1);
    std::iota(row.begin(), row.end(), std::size_t{0});
    for (std::size_t i = 0; i < a.size(); ++i) {
        std::size_t before = row[0];
        row[0] = i + 1;
        for (std::size_t j = 0; j < b.size(); ++j) {
            const std::size_t here = before + (a[i] == b[j] ? 0 : 1);
            before = row[j + 1];
            row[j + 1] = std::min({here, row[j] + 1, before + 1});
        }
    }
    return row.back();
}

/// What now, with the name that was perhaps meant.
Message hint(const std::string& written, const std::vector<std::string>& names, const CommandSpec* command) {
    const std::string nearest = nearestOf(written, names);
    const std::string help = command ? "cobbleway-cli " + command->name + " --help" : "cobbleway-cli --help";
    if (nearest.empty()) return {"cli.see-help-of", {{"help", help}}};
    return {"cli.perhaps", {{"name", nearest}, {"help", help}}};
}

std::vector<std::string> namesOf(const CommandSpec& command) {
    std::vector<std::string> names(command.options.size());
    std::transform(command.options.begin(), command.options.end(), names.begin(),
                   [](const OptionSpec& option) { return option.name; });
    return names;
}

/// The parts of a command's own parser: what it puts the words and values into.
struct Parser {
    CLI::App* app = nullptr;
    std::vector<std::string> words;
    std::map<std::string, std::string> values;
};

void declare(CLI::App& app, const CommandSpec& command, Parser& parser) {
    parser.app = app.add_subcommand(command.name, command.help);
    parser.app->allow_extras(); // told by ourselves, with a hint
    parser.app->add_option("words", parser.words);
    for (const OptionSpec& option : command.options)
        if (option.value.empty())
            parser.app->add_flag(option.name);
        else
            parser.app->add_option(option.name, parser.values[option.name])->take_last();
}

} // namespace

std::string nearestOf(const std::string& written, const std::vector<std::string>& names) {
    std::string nearest;
    std::size_t fewest = std::max<std::size_t>(1, written.size() / 3) + 1;
    for (const std::string& name : names)
        if (const std::size_t changes = changesBetween(written, name); changes < fewest) {
            fewest = changes;
            nearest = name;
        }
    return nearest;
}

Result<Asked> parse(const std::vector<CommandSpec>& commands, const std::vector<std::string>& given) {
    CLI::App app("cobbleway-cli");
    app.allow_extras();
    bool version = false;
    app.add_flag("--version", version);
    std::vector<Parser> parsers(commands.size());
    for (std::size_t i = 0; i < commands.size(); ++i) declare(app, commands[i], parsers[i]);
    // What comes after "--" are words, whatever they look like.
    const auto end = std::find(given.begin(), given.end(), "--");
    Asked asked;
    const auto chosen = [&]() -> std::size_t {
        for (std::size_t i = 0; i < parsers.size(); ++i)
            if (parsers[i].app->parsed()) return i;
        return parsers.size();
    };
    try {
        app.parse(std::vector<std::string>(std::make_reverse_iterator(end), given.rend()));
    } catch (const CLI::CallForHelp&) {
        asked.help = true;
        const std::size_t which = chosen();
        asked.command = which < commands.size() ? &commands[which] : nullptr;
        return asked;
    } catch (const CLI::ParseError& error) { // all that is left: a value is missing, or one too many
        const std::string what = error.what();
        const std::string option = what.substr(0, what.find_first_of(":= "));
        const std::size_t which = chosen();
        return Error{{"cli.needs-value", {{"option", option}}},
                     "",
                     {hint({}, {}, which < commands.size() ? &commands[which] : nullptr)}};
    }
    const std::size_t which = chosen();
    asked.version = version;
    if (which == parsers.size()) {
        const auto rest = app.remaining();
        if (rest.empty()) return asked;
        std::vector<std::string> names(commands.size());
        std::transform(commands.begin(), commands.end(), names.begin(),
                       [](const CommandSpec& command) { return command.name; });
        const bool isOption = rest.front().starts_with("-");
        return Error{{isOption ? "cli.no-option" : "cli.no-command",
                      {{isOption ? "option" : "command", rest.front()}}},
                     "",
                     {hint(rest.front(), names, nullptr)}};
    }
    asked.command = &commands[which];
    for (const std::string& word : parsers[which].app->remaining())
        return Error{{"cli.no-option", {{"option", word.substr(0, word.find('='))}}},
                     "",
                     {hint(word.substr(0, word.find('=')), namesOf(commands[which]), asked.command)}};
    asked.arguments.words = parsers[which].words;
    if (end != given.end()) asked.arguments.words.insert(asked.arguments.words.end(), end + 1, given.end());
    for (const OptionSpec& option : commands[which].options)
        if (parsers[which].app->count(option.name) > 0)
            asked.arguments.options[option.name] = parsers[which].values[option.name];
    return asked;
}

Result<std::vector<int>> parseNumbers(const std::string& text) {
    std::vector<int> numbers;
    std::istringstream list(text);
    for (std::string item; std::getline(list, item, ',');) {
        int number = 0;
        const auto [end, error] = std::from_chars(item.data(), item.data() + item.size(), number);
        if (error != std::errc{} || end != item.data() + item.size() || number < 1)
            return Error{{"cli.no-numbers", {{"text", text}}}, "", {"cli.give-numbers"}};
        numbers.push_back(number);
    }
    if (numbers.empty()) return Error{{"cli.number-missing"}, "", {"cli.give-numbers"}};
    return numbers;
}

} // namespace cobbleway::cli
