#include "words/letters.h"

#include <unicode/locid.h>
#include <unicode/unistr.h>

namespace cobbleway {

std::string inSmallLetters(std::string_view utf8) {
    std::string small;
    const icu::StringPiece piece(utf8.data(), static_cast<int32_t>(utf8.size()));
    icu::UnicodeString::fromUTF8(piece).toLower(icu::Locale::getRoot()).toUTF8String(small);
    return small;
}

} // namespace cobbleway
