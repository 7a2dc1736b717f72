/// Names of files by a pattern: "{set}/{n} {song} - {part}".
#pragma once
#include <algorithm>
#include <map>
#include <optional>
#include <string>
#include <string_view>

namespace cobbleway {

/// The words that a pattern can have in braces.
inline constexpr std::string_view nameWords[] = {"set", "n", "song", "part", "mix", "pace"};

/// Goes through a pattern: text(piece) for what stands as it is, word(name) for each {name}.
template <class Text, class Word> void eachPiece(const std::string& pattern, Text text, Word word) {
    for (std::size_t at = 0; at < pattern.size();) {
        const std::size_t open = std::min(pattern.find('{', at), pattern.size());
        text(pattern.substr(at, open - at));
        const std::size_t close = pattern.find('}', open);
        if (close == std::string::npos) return text(pattern.substr(open));
        word(pattern.substr(open + 1, close - open - 1));
        at = close + 1;
    }
}

/// The first word of a pattern that is none of nameWords; none when all are known.
inline std::optional<std::string> unknownNameWord(const std::string& pattern) {
    std::optional<std::string> unknown;
    eachPiece(
        pattern, [](const std::string&) {},
        [&](const std::string& name) {
            const bool known =
                std::find(std::begin(nameWords), std::end(nameWords), name) != std::end(nameWords);
            if (!known && !unknown) unknown = name;
        });
    return unknown;
}

} // namespace cobbleway
