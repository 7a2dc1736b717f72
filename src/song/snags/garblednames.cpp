#include "midi/text.h"
#include "song/shape/edits.h"
#include "song/snags/kinds.h"

#include <algorithm>

namespace cobbleway {
namespace {

constexpr std::string_view unknownMark = "\xEF\xBF\xBD"; // U+FFFD

/// UTF-8 that was read as Windows-1252 and written as UTF-8 again: "Ã¼" for "ü".
bool isTwiceEncoded(const std::string& text) {
    for (std::size_t i = 0; i + 3 < text.size(); ++i) {
        const auto byte = [&](std::size_t k) { return static_cast<unsigned char>(text[i + k]); };
        if (byte(0) == 0xC3 && (byte(1) == 0x83 || byte(1) == 0x82) && byte(2) == 0xC2) return true;
    }
    return false;
}

bool isGarbled(const std::string& text) {
    return text.find(unknownMark) != std::string::npos || isTwiceEncoded(text);
}

int garbledIn(const Song& song) {
    int count = isGarbled(song.title);
    for (const Part& part : song.parts) count += isGarbled(part.name);
    for (const Section& section : song.sections) count += isGarbled(section.name);
    return count;
}

} // namespace

void snags::garbledNames(const SongContext& context, Found& found) {
    const Song& song = context.song;
    const int garbled = garbledIn(song);
    if (garbled == 0) return;
    Snag snag = forSong("garbled-names", Step::Songs);
    snag.pill = {"garbled-names.pill"};
    snag.what = {"garbled-names.what", {{"names", garbled}, {"encoding", encodingText(song.encoding)}}};
    snag.why = {"garbled-names.why"};
    for (const char* encoding : {"WINDOWS-1252", "WINDOWS-1251", "SHIFT_JIS"}) {
        if (encoding == song.encoding) continue;
        const Song other = edits::setEncoding(song, encoding);
        if (garbledIn(other) == 0)
            snag.fixes.push_back({{"fix.read-as", {{"encoding", encodingText(encoding)}}},
                                  false,
                                  [encoding](const Song& s) { return edits::setEncoding(s, encoding); }});
    }
    found.push_back(std::move(snag));
}

} // namespace cobbleway
