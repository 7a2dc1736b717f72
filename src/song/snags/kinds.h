/// The kinds of snag, one file each: of one part, or of the whole song. A new kind: write its file, declare
/// it here, list it in findsnags.cpp.
#pragma once
#include "song/snags/snags.h"

#include <span>

namespace cobbleway::snags {

using Found = std::vector<Snag>;

// Step Songs
void readingDamage(const SongContext& context, Found& found);
void severalPieces(const SongContext& context, Found& found);
void garbledNames(const SongContext& context, Found& found);
void lyricsWithoutWords(const SongContext& context, Found& found);
void deviceMessages(const SongContext& context, Found& found);
void tempoMissing(const SongContext& context, Found& found);
void tempoJitter(const SongContext& context, Found& found);
void leadingSilence(const SongContext& context, Found& found);
// Step Parts
void drumsElsewhere(const PartContext& context, Found& found);
void pitchedOnDrums(const PartContext& context, Found& found);
void splitDrums(const SongContext& context, Found& found);
void channelShared(const SongContext& context, Found& found);
void fixedVolume(const PartContext& context, Found& found);
void silentByVolume(const PartContext& context, Found& found);
void controllerFlood(const PartContext& context, Found& found);
void doubledNotes(const PartContext& context, Found& found);
void overlappingNotes(const PartContext& context, Found& found);
void lostTransposition(const SongContext& context, Found& found);
void writtenOctave(const PartContext& context, Found& found);
// Step Sounds
void programMissing(const PartContext& context, Found& found);
void nameDisagrees(const PartContext& context, Found& found);
void bassOnGuitar(const PartContext& context, Found& found);
void fontGone(const SongContext& context, Found& found);
void soundMissing(const PartContext& context, Found& found);
void effectGone(const SongContext& context, Found& found);
void outOfRange(const PartContext& context, Found& found);
void beyondCompass(const PartContext& context, Found& found);
// Step Drums
void kitMissing(const PartContext& context, Found& found);
void drumsOnMelodic(const PartContext& context, Found& found);
void silentDrums(const PartContext& context, Found& found);
void namesAgainstKit(const PartContext& context, Found& found);
void loudDrum(const PartContext& context, Found& found);
void drumsShareChannel(const SongContext& context, Found& found);
// Step Export
void notRendered(const PartContext& context, Found& found);
void tooManyChannels(const SongContext& context, Found& found);

/// A snag of a part, or of the whole song, with its key set.
Snag forPart(const Part& part, const char* kind, Step step);
Snag forSong(const char* kind, Step step);

/// The kinds in order, each with what it looks at.
struct Kind {
    void (*ofPart)(const PartContext&, Found&) = nullptr;
    void (*ofSong)(const SongContext&, Found&) = nullptr;
};
std::span<const Kind> kinds();

/// "Shift up an octave", "Shift down 2 octaves".
Message shiftByOctaves(int octaves);

} // namespace cobbleway::snags
