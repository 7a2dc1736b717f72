#include "words/message.h"

#include "words/catalogue.h"

#include <algorithm>
#include <map>
#include <memory>
#include <string_view>
#include <tuple>
#include <unicode/listformatter.h>
#include <unicode/msgfmt.h>

namespace cobbleway {
namespace {

/// English plurals, and numbers without separators.
const icu::Locale& locale() {
    static const icu::Locale english("en", "US", "POSIX");
    return english;
}

const char* patternOf(const std::string& id) {
    static const auto sentences = [] {
        std::map<std::string_view, const char*> all;
        for (const Sentence& sentence : englishSentences()) all.emplace(sentence.id, sentence.pattern);
        return all;
    }();
    const auto at = sentences.find(id);
    return at == sentences.end() ? nullptr : at->second;
}

std::string utf8(const icu::UnicodeString& text) {
    std::string bytes;
    text.toUTF8String(bytes);
    return bytes;
}

icu::UnicodeString listText(const std::vector<Message>& list) {
    if (list.size() == 1) return icu::UnicodeString::fromUTF8(inWords(list.front()));
    std::vector<icu::UnicodeString> items;
    for (const Message& item : list) items.push_back(icu::UnicodeString::fromUTF8(inWords(item)));
    UErrorCode status = U_ZERO_ERROR;
    const std::unique_ptr<icu::ListFormatter> formatter(icu::ListFormatter::createInstance(locale(), status));
    icu::UnicodeString text;
    if (U_SUCCESS(status))
        formatter->format(items.data(), static_cast<std::int32_t>(items.size()), text, status);
    return text;
}

icu::Formattable formattable(const Argument& argument) {
    if (const auto* number = std::get_if<std::int64_t>(&argument.value)) return icu::Formattable(*number);
    if (const auto* text = std::get_if<std::string>(&argument.value))
        return icu::Formattable(icu::UnicodeString::fromUTF8(*text));
    return icu::Formattable(listText(std::get<std::vector<Message>>(argument.value)));
}

} // namespace

bool Message::operator<(const Message& other) const {
    const auto less = [](const Argument& a, const Argument& b) {
        return std::tie(a.name, a.value) < std::tie(b.name, b.value);
    };
    if (id != other.id) return id < other.id;
    return std::lexicographical_compare(with.begin(), with.end(), other.with.begin(), other.with.end(), less);
}

bool isInCatalogue(const std::string& id) { return patternOf(id) != nullptr; }

std::string asLine(const Message& message) { return message.with.empty() ? message.id : inWords(message); }

Message fromLine(const std::string& line) {
    return isInCatalogue(line) ? Message(line.c_str()) : Message::verbatim(line);
}

std::string inWords(const Message& message) {
    if (message.id == "verbatim") return std::get<std::string>(message.with.front().value);
    const char* pattern = patternOf(message.id);
    if (!pattern) return message.id;
    const bool capital = *pattern == '^';
    std::vector<icu::UnicodeString> names;
    std::vector<icu::Formattable> values;
    for (const Argument& argument : message.with) {
        names.push_back(icu::UnicodeString::fromUTF8(argument.name));
        values.push_back(formattable(argument));
    }
    UErrorCode status = U_ZERO_ERROR;
    UParseError where;
    const icu::MessageFormat format(icu::UnicodeString::fromUTF8(pattern + capital), locale(), where, status);
    icu::UnicodeString text;
    format.format(names.data(), values.data(), static_cast<std::int32_t>(names.size()), text, status);
    if (U_FAILURE(status)) return message.id;
    if (capital) {
        const std::int32_t after = text.moveIndex32(0, 1);
        text.replace(0, after, icu::UnicodeString(text, 0, after).toUpper(locale()));
    }
    return utf8(text);
}

} // namespace cobbleway
