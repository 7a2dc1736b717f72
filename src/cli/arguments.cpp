#include "cli/arguments.h"

#include <algorithm>
#include <charconv>
#include <sstream>

namespace cobbleway::cli {

Result<Arguments> parseArguments(const std::vector<std::string>& given,
                                 const std::vector<std::string>& allowed) {
    Arguments arguments;
    bool onlyWords = false;
    for (std::size_t i = 0; i < given.size(); ++i) {
        const std::string& word = given[i];
        if (onlyWords || word.size() < 2 || word[0] != '-') {
            arguments.words.push_back(word);
        } else if (word == "--") {
            onlyWords = true;
        } else if (std::find(allowed.begin(), allowed.end(), word + "!") != allowed.end()) {
            arguments.options[word] = "";
        } else if (std::find(allowed.begin(), allowed.end(), word) == allowed.end()) {
            return Error{{"cli.no-option", {{"option", word}}}, "", {"cli.see-help"}};
        } else if (i + 1 == given.size()) {
            return Error{{"cli.needs-value", {{"option", word}}}, "", {"cli.see-help"}};
        } else {
            arguments.options[word] = given[++i];
        }
    }
    return arguments;
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
