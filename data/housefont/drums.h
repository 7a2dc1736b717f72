#pragma once
#include "waves.h"

#include <map>

namespace fontmaker {

/// The sounds of a kit by key (General MIDI percussion, RP-003): keys 35–81.
/// `brushes` gives the softer kit.
std::map<int, Sample> drumSamples(bool brushes);

/// Keys that silence each other: the hi-hats and the pairs of guiros, whistles, cuicas and triangles; 0 for
/// none.
int exclusiveClassOf(int key);

} // namespace fontmaker
