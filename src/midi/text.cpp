#include "midi/text.h"

#include <algorithm>
#include <cerrno>
#include <iconv.h>
#include <memory>
#include <uchardet.h>

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

std::string tidyText(std::string text) {
    std::erase_if(text, [](char c) {
        return (static_cast<unsigned char>(c) < 0x20 && c != '\n' && c != '\r') || c == 0x7F;
    });
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

std::string guessEncoding(std::string_view text) {
    if (isAscii(text) || isUtf8(text)) return "UTF-8";
    const std::unique_ptr<uchardet, decltype(&uchardet_delete)> detector(uchardet_new(), &uchardet_delete);
    uchardet_handle_data(detector.get(), text.data(), text.size());
    uchardet_data_end(detector.get());
    const std::string found = uchardet_get_charset(detector.get());
    return found.empty() ? "WINDOWS-1252" : found;
}

std::string guessEncoding(const MidiFile& file) {
    std::string all;
    for (const Track& track : file.tracks)
        for (const Event& event : track.events)
            if (event.isMeta() && isTextType(event.data1) && all.size() < 65536)
                all.append(file.rawText(event)).append("\n");
    return guessEncoding(all);
}

std::string toUtf8(std::string_view text, const std::string& encoding) {
    if (encoding == "UTF-8" || isAscii(text)) return tidyText(validUtf8(text));
    return tidyText(convert(text, encoding));
}

} // namespace cobbleway
