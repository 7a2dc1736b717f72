/// Soundfonts of other bytes.
#pragma once
#include "support/support.h"

namespace support {

/// A font with a chunk of another length in it, its lists around it set right; the byte after an odd one is
/// written or left out.
inline Bytes withChunk(Bytes font, const char* list, const char* tag, const Bytes& body, bool padded) {
    const auto sizeAt = [&](std::size_t at) {
        return std::size_t{font[at]} | std::size_t{font[at + 1]} << 8 | std::size_t{font[at + 2]} << 16 |
               std::size_t{font[at + 3]} << 24;
    };
    const auto setSize = [&](std::size_t at, std::size_t size) {
        for (int i = 0; i < 4; ++i)
            font[at + static_cast<std::size_t>(i)] = static_cast<std::uint8_t>(size >> (8 * i));
    };
    const auto isAt = [&](std::size_t at, const char* word) {
        return std::equal(word, word + 4, font.begin() + static_cast<std::ptrdiff_t>(at));
    };
    for (std::size_t at = 12; at + 12 <= font.size(); at += 8 + sizeAt(at + 4)) {
        if (!isAt(at + 8, list)) continue;
        for (std::size_t in = at + 12; in < at + 8 + sizeAt(at + 4);
             in += 8 + sizeAt(in + 4) + sizeAt(in + 4) % 2) {
            if (!isAt(in, tag)) continue;
            const std::size_t before = sizeAt(in + 4);
            Bytes fresh = body;
            if (padded && body.size() % 2) fresh.push_back(0);
            font.erase(font.begin() + static_cast<std::ptrdiff_t>(in) + 8,
                       font.begin() + static_cast<std::ptrdiff_t>(in + 8 + before + before % 2));
            font.insert(font.begin() + static_cast<std::ptrdiff_t>(in) + 8, fresh.begin(), fresh.end());
            setSize(in + 4, body.size());
            setSize(at + 4, sizeAt(at + 4) - before - before % 2 + fresh.size());
            setSize(4, font.size() - 8);
            return font;
        }
    }
    return {};
}

} // namespace support
