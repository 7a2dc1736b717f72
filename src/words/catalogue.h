/// The catalogue of sentences: an id, and the pattern in ICU's message syntax (plurals, named arguments).
#pragma once
#include <span>

namespace cobbleway {

struct Sentence {
    const char* id;
    const char* pattern; ///< UTF-8; one that begins with "^" has its first letter written as a capital
};

/// All sentences in English. A translation is another such list.
std::span<const Sentence> englishSentences();

} // namespace cobbleway
