#include "files/base64.h"

#include <array>

namespace cobbleway {
namespace {

constexpr std::string_view alphabet = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";

/// The number of each letter; 64 for those that are none.
constexpr std::array<std::uint8_t, 256> numbers = [] {
    std::array<std::uint8_t, 256> table{};
    table.fill(64);
    for (std::size_t i = 0; i < alphabet.size(); ++i)
        table[static_cast<unsigned char>(alphabet[i])] = static_cast<std::uint8_t>(i);
    return table;
}();

} // namespace

std::string base64(std::span<const std::uint8_t> bytes) {
    std::string text((bytes.size() + 2) / 3 * 4, '=');
    auto to = text.begin();
    const auto put = [&to](unsigned word, int letters) {
        for (int k = 0; k < letters; ++k) *to++ = alphabet[(word >> (18 - 6 * k)) & 63];
    };
    std::size_t i = 0;
    for (; i + 3 <= bytes.size(); i += 3)
        put((unsigned{bytes[i]} << 16) | (unsigned{bytes[i + 1]} << 8) | bytes[i + 2], 4);
    if (i + 2 == bytes.size()) put((unsigned{bytes[i]} << 16) | (unsigned{bytes[i + 1]} << 8), 3);
    if (i + 1 == bytes.size()) put(unsigned{bytes[i]} << 16, 2);
    return text;
}

std::optional<std::vector<std::uint8_t>> fromBase64(std::string_view text) {
    if (text.size() % 4 != 0) return std::nullopt;
    while (!text.empty() && text.back() == '=' && text.size() % 4 != 2) text.remove_suffix(1);
    std::vector<std::uint8_t> bytes;
    bytes.reserve(text.size() / 4 * 3 + 2);
    unsigned word = 0, bits = 0;
    for (const char c : text) {
        const unsigned number = numbers[static_cast<unsigned char>(c)];
        if (number == 64) return std::nullopt;
        word = (word << 6) | number;
        bits += 6;
        if (bits < 8) continue;
        bits -= 8;
        bytes.push_back(static_cast<std::uint8_t>(word >> bits));
    }
    return bytes;
}

} // namespace cobbleway
