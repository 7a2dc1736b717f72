#include "words/letters.h"

#include <memory>
#include <unicode/coll.h>
#include <unicode/locid.h>
#include <unicode/sortkey.h>
#include <unicode/uchar.h>
#include <unicode/unistr.h>

namespace cobbleway {

std::string inSmallLetters(std::string_view utf8) {
    std::string small;
    const icu::StringPiece piece(utf8.data(), static_cast<int32_t>(utf8.size()));
    icu::UnicodeString::fromUTF8(piece).toLower(icu::Locale::getRoot()).toUTF8String(small);
    return small;
}

namespace {

/// Null only where ICU's data is missing.
std::unique_ptr<icu::Collator> makeCollator() {
    UErrorCode error = U_ZERO_ERROR;
    std::unique_ptr<icu::Collator> collator(icu::Collator::createInstance(icu::Locale::getRoot(), error));
    if (U_FAILURE(error)) return nullptr;
    collator->setAttribute(UCOL_NUMERIC_COLLATION, UCOL_ON, error);
    return collator;
}

} // namespace

std::string orderKey(std::string_view utf8) {
    static const auto collator = makeCollator(); // giving keys, it is for many threads
    if (!collator) return inSmallLetters(utf8);
    const icu::StringPiece piece(utf8.data(), static_cast<int32_t>(utf8.size()));
    UErrorCode error = U_ZERO_ERROR;
    icu::CollationKey key;
    collator->getCollationKey(icu::UnicodeString::fromUTF8(piece), key, error);
    int32_t size = 0;
    const uint8_t* bytes = key.getByteArray(size);
    return U_FAILURE(error)
               ? inSmallLetters(utf8)
               : std::string(reinterpret_cast<const char*>(bytes), static_cast<std::size_t>(size));
}

std::string oneLine(std::string_view utf8) {
    const icu::StringPiece piece(utf8.data(), static_cast<int32_t>(utf8.size()));
    const icu::UnicodeString text = icu::UnicodeString::fromUTF8(piece);
    icu::UnicodeString line;
    bool broken = false;
    for (int32_t at = 0; at < text.length(); at = text.moveIndex32(at, 1)) {
        const UChar32 letter = text.char32At(at);
        const int8_t kind = u_charType(letter);
        const bool breaks =
            kind == U_CONTROL_CHAR || kind == U_LINE_SEPARATOR || kind == U_PARAGRAPH_SEPARATOR;
        if (!breaks && broken && !line.isEmpty()) line += u' ';
        if (!breaks) line += letter;
        broken = breaks;
    }
    std::string made;
    line.toUTF8String(made);
    return made;
}

} // namespace cobbleway
