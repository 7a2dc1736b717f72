#include "song/derived.h"
#include "song/shape/edits.h"
#include "song/snags/kinds.h"

#include <algorithm>
#include <array>
#include <cstdlib>

namespace cobbleway {

Snag snags::forPart(const Part& part, const char* kind, Step step) {
    Snag snag;
    snag.kind = kind;
    snag.key = snag.kind + ":" + std::to_string(part.id);
    snag.step = step;
    snag.part = part.id;
    return snag;
}

Snag snags::forSong(const char* kind, Step step) {
    Snag snag;
    snag.kind = snag.key = kind;
    snag.step = step;
    return snag;
}

Message snags::shiftByOctaves(int octaves) {
    return {"fix.shift-octaves",
            {{"way", std::string(octaves > 0 ? "up" : "down")}, {"octaves", std::abs(octaves)}}};
}

std::span<const snags::Kind> snags::kinds() {
    static constexpr auto ofPart = [](void (*kind)(const PartContext&, Found&)) {
        return Kind{kind, nullptr};
    };
    static constexpr auto ofSong = [](void (*kind)(const SongContext&, Found&)) {
        return Kind{nullptr, kind};
    };
    static constexpr std::array all = {
        ofSong(readingDamage),      ofSong(severalPieces),    ofSong(garbledNames),
        ofSong(lyricsWithoutWords), ofSong(deviceMessages),   ofSong(tempoMissing),
        ofSong(tempoJitter),        ofSong(leadingSilence),   ofPart(drumsElsewhere),
        ofPart(pitchedOnDrums),     ofSong(splitDrums),       ofSong(channelShared),
        ofPart(fixedVolume),        ofPart(silentByVolume),   ofPart(controllerFlood),
        ofPart(doubledNotes),       ofPart(overlappingNotes), ofSong(lostTransposition),
        ofPart(writtenOctave),      ofPart(programMissing),   ofPart(nameDisagrees),
        ofPart(bassOnGuitar),       ofSong(fontGone),         ofPart(soundMissing),
        ofPart(outOfRange),         ofPart(beyondCompass),    ofSong(effectGone),
        ofPart(kitMissing),         ofPart(drumsOnMelodic),   ofPart(silentDrums),
        ofPart(namesAgainstKit),    ofPart(loudDrum),         ofSong(drumsShareChannel),
        ofPart(notRendered),        ofSong(tooManyChannels)};
    return all;
}

std::vector<Snag> findSnags(const Song& song, const Catalogue& catalogue) {
    return *Derived().snags(song, catalogue);
}

std::size_t askedCount(const std::vector<Snag>& snags) {
    return static_cast<std::size_t>(
        std::count_if(snags.begin(), snags.end(), [](const Snag& s) { return s.asked; }));
}

Song fixAllSafe(const Song& song, const Catalogue& catalogue) {
    Derived derived;
    Song now = song;
    for (int round = 0; round < 1000; ++round) { // a fix may clear or raise others
        bool repaired = false;
        for (const Snag& snag : *derived.snags(now, catalogue)) {
            const auto safe =
                std::find_if(snag.fixes.begin(), snag.fixes.end(), [](const Fix& m) { return m.safe; });
            if (safe == snag.fixes.end()) continue;
            Song next = safe->apply(now);
            if (next == now) continue;
            now = std::move(next);
            repaired = true;
        }
        if (!repaired) break;
    }
    return now;
}

} // namespace cobbleway
