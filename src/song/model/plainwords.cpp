#include "song/model/plainwords.h"

#include <algorithm>
#include <cctype>
#include <cstdlib>
#include <string_view>
#include <utf8proc.h>

namespace cobbleway {
namespace {

struct Letter {
    utf8proc_int32_t from = 0;
    std::string_view to;
};

// Letters that Unicode does not take apart, and Cyrillic ones. й stands here since it would lose its mark.
constexpr Letter letters[] = {
    {U'ł', "l"},  {U'ø', "o"}, {U'æ', "ae"}, {U'œ', "oe"}, {U'đ', "d"},  {U'ı', "i"},   {U'ð', "d"},
    {U'þ', "th"}, {U'а', "a"}, {U'б', "b"},  {U'в', "v"},  {U'г', "g"},  {U'д', "d"},   {U'е', "e"},
    {U'ж', "zh"}, {U'з', "z"}, {U'и', "i"},  {U'й', "j"},  {U'к', "k"},  {U'л', "l"},   {U'м', "m"},
    {U'н', "n"},  {U'о', "o"}, {U'п', "p"},  {U'р', "r"},  {U'с', "s"},  {U'т', "t"},   {U'у', "u"},
    {U'ф', "f"},  {U'х', "h"}, {U'ц', "c"},  {U'ч', "ch"}, {U'ш', "sh"}, {U'щ', "sch"}, {U'ъ', ""},
    {U'ы', "y"},  {U'ь', ""},  {U'э', "e"},  {U'ю', "yu"}, {U'я', "ya"}, {U'і', "i"},   {U'є', "e"},
    {U'ґ', "g"}};

/// What a letter beyond ASCII is in plain ones; a blank where it is none, nothing where it is a mark.
std::string plainLetter(utf8proc_int32_t letter) {
    letter = utf8proc_tolower(letter);
    const auto own = std::find_if(std::begin(letters), std::end(letters),
                                  [&](const Letter& one) { return one.from == letter; });
    if (own != std::end(letters)) return std::string(own->to);
    utf8proc_int32_t parts[16];
    int lastClass = 0;
    const auto count = utf8proc_decompose_char(
        letter, parts, 16,
        static_cast<utf8proc_option_t>(UTF8PROC_COMPAT | UTF8PROC_DECOMPOSE | UTF8PROC_CASEFOLD |
                                       UTF8PROC_STRIPMARK | UTF8PROC_IGNORE),
        &lastClass);
    if (count < 0 || count > 16) return " ";
    std::string plain;
    for (utf8proc_ssize_t i = 0; i < count; ++i) {
        const bool ascii = parts[i] < 0x80 && std::isalpha(static_cast<int>(parts[i])) != 0;
        plain += ascii ? static_cast<char>(std::tolower(static_cast<int>(parts[i]))) : ' ';
    }
    return plain;
}

} // namespace

std::string plainWords(const std::string& name) {
    std::string text = " ";
    const auto* bytes = reinterpret_cast<const utf8proc_uint8_t*>(name.data());
    for (std::size_t i = 0; i < name.size();) {
        utf8proc_int32_t letter = ' ';
        const auto taken =
            utf8proc_iterate(bytes + i, static_cast<utf8proc_ssize_t>(name.size() - i), &letter);
        i += taken > 0 ? static_cast<std::size_t>(taken) : 1;
        if (taken <= 0) letter = ' ';
        const std::string plain =
            letter < 0x80 && std::isalpha(static_cast<int>(letter)) != 0
                ? std::string(1, static_cast<char>(std::tolower(static_cast<int>(letter))))
                : (letter < 0x80 ? " " : plainLetter(letter));
        for (const char c : plain)
            if (c != ' ' || text.back() != ' ') text += c;
    }
    if (text.back() != ' ') text += ' ';
    return text;
}

std::vector<std::string> wordsIn(const std::string& name) {
    std::string apart;
    for (std::size_t i = 0; i < name.size(); ++i) {
        const auto c = static_cast<unsigned char>(name[i]);
        const auto before = i > 0 ? static_cast<unsigned char>(name[i - 1]) : ' ';
        const auto after = i + 1 < name.size() ? static_cast<unsigned char>(name[i + 1]) : ' ';
        const bool hump =
            std::isupper(c) && (std::islower(before) || (std::isupper(before) && std::islower(after)));
        const bool digits =
            (std::isdigit(c) != 0) != (std::isdigit(before) != 0) && c < 0x80 && before < 0x80;
        if (hump || digits) apart += ' ';
        apart += static_cast<char>(c);
    }
    std::vector<std::string> words;
    for (std::size_t at = 0; at < apart.size();) {
        const bool number = std::isdigit(static_cast<unsigned char>(apart[at]));
        std::size_t end = at;
        while (end < apart.size() && (std::isdigit(static_cast<unsigned char>(apart[end])) != 0) == number)
            ++end;
        const std::string piece = apart.substr(at, end - at);
        at = end;
        if (number) {
            words.push_back(piece);
            continue;
        }
        const std::string plain = plainWords(piece);
        for (std::size_t from = 1; from < plain.size();) {
            const std::size_t blank = plain.find(' ', from);
            if (blank > from) words.push_back(plain.substr(from, blank - from));
            from = blank + 1;
        }
    }
    return words;
}

std::string composed(const std::string& text) {
    utf8proc_uint8_t* result = nullptr;
    const auto length = utf8proc_map(
        reinterpret_cast<const utf8proc_uint8_t*>(text.data()), static_cast<utf8proc_ssize_t>(text.size()),
        &result, static_cast<utf8proc_option_t>(UTF8PROC_STABLE | UTF8PROC_COMPOSE | UTF8PROC_COMPAT));
    if (length < 0) return text;
    std::string made(reinterpret_cast<const char*>(result), static_cast<std::size_t>(length));
    std::free(result); // NOLINT(cppcoreguidelines-no-malloc): utf8proc gives what malloc gave
    return made;
}

} // namespace cobbleway
