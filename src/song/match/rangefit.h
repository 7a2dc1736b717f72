/// A part's notes against the keys that its sound can play.
#pragma once
#include "song/heard/realise.h"
#include "song/match/instruments.h"

#include <array>

namespace cobbleway {

/// Notes on each key, 0–127.
std::array<int, 128> histogramOf(const HeardPart& heard);

/// How many notes a preset cannot play.
int notesOutside(const std::array<int, 128>& histogram, const Preset& preset);

/// A preset with its keys held to the compass of the instrument (compassOf()); as it is where there is none,
/// or where it plays no key of it.
Preset withinCompass(Preset preset);

/// The shift in octaves, −4 to +4, that leaves the least sounding time outside what a preset plays; of equal
/// ones the smallest, up before down. `weights` as of traitsOf().
int bestOctaves(const KeyWeights& weights, const Preset& preset);

/// The octaves, −4 to +4, that bring all notes into a range; of several the fewest, up before down. 0 when
/// none does.
int octavesInto(const KeyWeights& weights, const KeyRange& range);

/// The octaves, −2 to +2, that bring a part into the range of the instrument its name tells, when it lies
/// outside: 1 for a piccolo as it is written. 0 when it fits as it is, or when the name tells nothing.
int octavesByName(const std::string& partName, const KeyWeights& weights);

/// The widest stretch of keys that a preset plays without a gap; into it single notes are folded.
KeyRange foldRange(const Preset& preset);

} // namespace cobbleway
