/// The kinds of snag, one file each. A new kind: write its file, declare it here, list it in findsnags.cpp.
#pragma once
#include "song/snags.h"

namespace cobbleway::snags {

using Found = std::vector<Snag>;

// Step Songs
void readingDamage(const SnagContext& context, Found& found);
void severalPieces(const SnagContext& context, Found& found);
void garbledNames(const SnagContext& context, Found& found);
void lyricsWithoutWords(const SnagContext& context, Found& found);
void deviceMessages(const SnagContext& context, Found& found);
void tempoMissing(const SnagContext& context, Found& found);
void tempoJitter(const SnagContext& context, Found& found);
void leadingSilence(const SnagContext& context, Found& found);
// Step Parts
void noNotes(const SnagContext& context, Found& found);
void drumsElsewhere(const SnagContext& context, Found& found);
void pitchedOnDrums(const SnagContext& context, Found& found);
void splitDrums(const SnagContext& context, Found& found);
void channelShared(const SnagContext& context, Found& found);
void fixedVolume(const SnagContext& context, Found& found);
void silentByVolume(const SnagContext& context, Found& found);
void controllerFlood(const SnagContext& context, Found& found);
void doubledNotes(const SnagContext& context, Found& found);
void overlappingNotes(const SnagContext& context, Found& found);
void lostTransposition(const SnagContext& context, Found& found);
// Step Sounds
void programMissing(const SnagContext& context, Found& found);
void nameDisagrees(const SnagContext& context, Found& found);
void bassOnGuitar(const SnagContext& context, Found& found);
void fontGone(const SnagContext& context, Found& found);
void soundMissing(const SnagContext& context, Found& found);
void effectGone(const SnagContext& context, Found& found);
void outOfRange(const SnagContext& context, Found& found);
// Step Export
void notRendered(const SnagContext& context, Found& found);
void tooManyChannels(const SnagContext& context, Found& found);

/// A snag of a part, or of the whole song, with its key set.
Snag forPart(const Part& part, const char* kind, Step step);
Snag forSong(const char* kind, Step step);

/// "1 note", "5 notes".
std::string counted(std::size_t count, const char* thing);

} // namespace cobbleway::snags
