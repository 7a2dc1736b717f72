/// A part's notes against the keys that its sound can play.
#pragma once
#include "font/soundfont.h"
#include "song/realise.h"

#include <array>

namespace cobbleway {

/// Notes on each key, 0–127.
std::array<int, 128> histogramOf(const Line& line);

/// How many notes a preset cannot play.
int notesOutside(const std::array<int, 128>& histogram, const Preset& preset);

/// The shift in octaves, −4 to +4, that leaves the fewest notes outside; of equal ones the smallest, up
/// before down.
int bestOctaves(const std::array<int, 128>& histogram, const Preset& preset);

} // namespace cobbleway
