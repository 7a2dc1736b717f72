#include "midi/text.h"

#include <algorithm>
#include <cctype>
#include <cerrno>
#include <iconv.h>
#include <map>
#include <memory>
#include <uchardet.h>
#include <utility>

namespace cobbleway {
namespace {

constexpr std::string_view unknownMark = "\xEF\xBF\xBD"; // U+FFFD

bool isAscii(std::string_view text) {
    return std::all_of(text.begin(), text.end(), [](char c) { return static_cast<unsigned char>(c) < 0x80; });
}

/// Length of the UTF-8 sequence that begins `text`; 0 when it is none (RFC 3629).
std::size_t utf8Length(std::string_view text) {
    const auto byte = [&](std::size_t i) { return static_cast<unsigned char>(text[i]); };
    const unsigned char lead = byte(0);
    if (lead < 0x80) return 1;
    const std::size_t length = lead >= 0xF0 ? 4 : (lead >= 0xE0 ? 3 : 2);
    if (lead < 0xC2 || lead > 0xF4 || text.size() < length) return 0;
    for (std::size_t i = 1; i < length; ++i)
        if ((byte(i) & 0xC0) != 0x80) return 0;
    const bool bad = (lead == 0xE0 && byte(1) < 0xA0) || (lead == 0xED && byte(1) > 0x9F) ||
                     (lead == 0xF0 && byte(1) < 0x90) || (lead == 0xF4 && byte(1) > 0x8F);
    return bad ? 0 : length;
}

bool isUtf8(std::string_view text) {
    while (!text.empty()) {
        const std::size_t length = utf8Length(text);
        if (length == 0) return false;
        text.remove_prefix(length);
    }
    return true;
}

struct CloseConverter {
    void operator()(void* converter) const { iconv_close(converter); }
};

std::string convert(std::string_view text, const std::string& encoding) {
    iconv_t raw = iconv_open("UTF-8", encoding.c_str());
    if (raw == reinterpret_cast<iconv_t>(-1))
        raw = iconv_open("UTF-8", "WINDOWS-1252"); // NOLINT(performance-no-int-to-ptr)
    const std::unique_ptr<void, CloseConverter> converter(raw);
    std::string out;
    std::string input(text);
    char* in = input.data();
    std::size_t left = input.size();
    while (left > 0) {
        char buffer[256];
        char* to = buffer;
        std::size_t room = sizeof buffer;
        const std::size_t got = iconv(converter.get(), &in, &left, &to, &room);
        out.append(buffer, sizeof buffer - room);
        if (got != static_cast<std::size_t>(-1) || errno == E2BIG) continue;
        out += unknownMark; // EILSEQ or EINVAL: one byte that the encoding does not know
        ++in;
        --left;
    }
    return out;
}

std::string withoutControls(std::string text) {
    std::erase_if(text, [](char c) {
        return (static_cast<unsigned char>(c) < 0x20 && c != '\n' && c != '\r') || c == 0x7F;
    });
    return text;
}

std::string trimmed(const std::string& text) {
    const auto first = text.find_first_not_of(" \r\n");
    if (first == std::string::npos) return {};
    return text.substr(first, text.find_last_not_of(" \r\n") - first + 1);
}

bool isTextType(std::uint8_t type) { return type >= meta::text && type <= 0x0F; }

} // namespace

std::string validUtf8(std::string_view text) {
    std::string out;
    while (!text.empty()) {
        const std::size_t length = utf8Length(text);
        out += length == 0 ? unknownMark : text.substr(0, length);
        text.remove_prefix(std::max<std::size_t>(1, length));
    }
    return out;
}

namespace {

/// UTF-16 by its byte order mark, or by zeros in every other byte of most text.
std::string utf16(const std::vector<std::string_view>& texts) {
    std::size_t bytes = 0, evenZeros = 0, oddZeros = 0;
    for (const std::string_view text : texts) {
        if (text.starts_with("\xFF\xFE")) return "UTF-16LE";
        if (text.starts_with("\xFE\xFF")) return "UTF-16BE";
        for (std::size_t i = 0; i < text.size(); ++i)
            if (text[i] == 0) ++(i % 2 ? oddZeros : evenZeros);
        bytes += text.size();
    }
    if (oddZeros * 10 > bytes * 3 && evenZeros == 0) return "UTF-16LE";
    if (evenZeros * 10 > bytes * 3 && oddZeros == 0) return "UTF-16BE";
    return {};
}

/// Single-byte encodings of Latin letters, which a few letters do not tell apart.
bool isLatin(const std::string& encoding) {
    static constexpr std::string_view latin[] = {
        "ISO-8859-1",   "ISO-8859-2",   "ISO-8859-3",        "ISO-8859-4",   "ISO-8859-9",
        "ISO-8859-10",  "ISO-8859-13",  "ISO-8859-14",       "ISO-8859-15",  "ISO-8859-16",
        "WINDOWS-1250", "WINDOWS-1252", "WINDOWS-1254",      "WINDOWS-1257", "WINDOWS-1258",
        "VISCII",       "IBM852",       "MAC-CENTRALEUROPE", "IBM865",       "IBM775"};
    return std::find(std::begin(latin), std::end(latin), encoding) != std::end(latin);
}

/// Letters beyond ASCII that stand alone among ASCII letters, as an accent in a word does.
bool onlyAccents(std::string_view text) {
    std::size_t high = 0, letters = 0, alone = 0;
    const auto isHigh = [&](std::size_t i) {
        return i < text.size() && static_cast<unsigned char>(text[i]) >= 0x80;
    };
    for (std::size_t i = 0; i < text.size(); ++i) {
        if (!isHigh(i)) {
            letters += std::isalpha(static_cast<unsigned char>(text[i])) != 0;
            continue;
        }
        ++high;
        alone += !(i > 0 && isHigh(i - 1)) && !isHigh(i + 1);
    }
    return high * 4 <= letters && alone * 10 >= high * 8;
}

std::size_t highBytes(std::string_view text) {
    return static_cast<std::size_t>(std::count_if(
        text.begin(), text.end(), [](char c) { return static_cast<unsigned char>(c) >= 0x80; }));
}

} // namespace

std::string guessEncoding(std::string_view text) {
    if (std::string wide = utf16({text}); !wide.empty()) return wide;
    if (isAscii(text) || isUtf8(text)) return "UTF-8";
    const std::unique_ptr<uchardet, decltype(&uchardet_delete)> detector(uchardet_new(), &uchardet_delete);
    uchardet_handle_data(detector.get(), text.data(), text.size());
    uchardet_data_end(detector.get());
    std::string found = uchardet_get_charset(detector.get());
    constexpr std::size_t enough = 12; // letters beyond ASCII from which one Latin page is told from another
    if (found.empty() || found == "ASCII") return "WINDOWS-1252";
    // Bytes that an ISO page has controls at are letters of the Windows page that holds it.
    const bool windows = std::any_of(text.begin(), text.end(), [](char c) {
        return static_cast<unsigned char>(c) >= 0x80 && static_cast<unsigned char>(c) < 0xA0;
    });
    static constexpr std::pair<std::string_view, const char*> pages[] = {
        {"ISO-8859-1", "WINDOWS-1252"}, {"ISO-8859-2", "WINDOWS-1250"},  {"ISO-8859-7", "WINDOWS-1253"},
        {"ISO-8859-9", "WINDOWS-1254"}, {"ISO-8859-13", "WINDOWS-1257"}, {"ISO-8859-15", "WINDOWS-1252"}};
    if (windows)
        for (const auto& [iso, page] : pages)
            if (found == iso) return page;
    if (onlyAccents(text) && (!isLatin(found) || highBytes(text) < enough)) return "WINDOWS-1252";
    return found;
}

std::string guessEncoding(const MidiFile& file) {
    constexpr std::size_t most = 65536;
    std::vector<std::string_view> texts;
    std::string all;
    for (std::size_t t = 0; t < file.tracks.size(); ++t)
        file.eachBesideNotes(t, [&](const Event& event, std::uint32_t) {
            if (!event.isMeta() || !isTextType(event.data1) || all.size() >= most) return;
            texts.push_back(file.rawText(event).substr(0, most));
            all.append(texts.back()).append("\n");
        });
    if (std::string wide = utf16(texts); !wide.empty()) return wide;
    if (!isAscii(all) && all.find("{@JP}") != std::string::npos) return "SHIFT_JIS";
    if (!isAscii(all) && all.find("{@LATIN}") != std::string::npos) return "WINDOWS-1252";
    return guessEncoding(all);
}

std::string encodingText(const std::string& encoding) {
    static const std::map<std::string, const char*> names = {
        {"UTF-8", "Unicode (UTF-8)"},
        {"UTF-16LE", "Unicode (UTF-16, little-endian)"},
        {"UTF-16BE", "Unicode (UTF-16, big-endian)"},
        {"WINDOWS-1252", "Western European (Windows)"},
        {"ISO-8859-1", "Western European (ISO 8859-1)"},
        {"ISO-8859-15", "Western European (ISO 8859-15)"},
        {"IBM850", "Western European (DOS)"},
        {"IBM437", "American (DOS)"},
        {"MACINTOSH", "Western European (old Macintosh)"},
        {"WINDOWS-1250", "Central European (Windows)"},
        {"ISO-8859-2", "Central European (ISO 8859-2)"},
        {"WINDOWS-1251", "Cyrillic (Windows)"},
        {"ISO-8859-5", "Cyrillic (ISO 8859-5)"},
        {"IBM866", "Cyrillic (DOS)"},
        {"KOI8-R", "Russian (KOI8-R)"},
        {"KOI8-U", "Ukrainian (KOI8-U)"},
        {"WINDOWS-1253", "Greek (Windows)"},
        {"ISO-8859-7", "Greek (ISO 8859-7)"},
        {"WINDOWS-1254", "Turkish (Windows)"},
        {"WINDOWS-1257", "Baltic (Windows)"},
        {"SHIFT_JIS", "Japanese (Shift-JIS)"},
        {"EUC-JP", "Japanese (EUC)"},
        {"EUC-KR", "Korean (EUC)"},
        {"GB18030", "Chinese, simplified (GB 18030)"},
        {"BIG5", "Chinese, traditional (Big5)"}};
    const auto at = names.find(encoding);
    return at == names.end() ? encoding : at->second;
}

const std::vector<std::string>& knownEncodings() {
    static const std::vector<std::string> names = {
        "UTF-8",        "WINDOWS-1252", "WINDOWS-1250", "WINDOWS-1251", "WINDOWS-1253",
        "WINDOWS-1254", "WINDOWS-1257", "ISO-8859-1",   "ISO-8859-2",   "ISO-8859-5",
        "ISO-8859-7",   "ISO-8859-15",  "KOI8-R",       "KOI8-U",       "IBM437",
        "IBM850",       "IBM866",       "MACINTOSH",    "SHIFT_JIS",    "EUC-JP",
        "EUC-KR",       "GB18030",      "BIG5",         "UTF-16LE",     "UTF-16BE"};
    return names;
}

std::string toUtf8Whole(std::string_view text, const std::string& encoding) {
    const bool wide = encoding.starts_with("UTF-16");
    if (!wide && (encoding == "UTF-8" || isAscii(text))) return validUtf8(text);
    std::string plain = convert(text, encoding);
    if (plain.starts_with("\xEF\xBB\xBF")) plain.erase(0, 3); // a byte order mark
    return plain;
}

std::string toUtf8Untrimmed(std::string_view text, const std::string& encoding) {
    return withoutControls(toUtf8Whole(text, encoding));
}

std::string toUtf8(std::string_view text, const std::string& encoding) {
    return trimmed(toUtf8Untrimmed(text, encoding));
}

} // namespace cobbleway
