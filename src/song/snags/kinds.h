/// The kinds of snag, one file each. A new kind: write its file, declare it here, list it in findsnags.cpp.
#pragma once
#include "song/snags.h"

namespace cobbleway::snags {

using Found = std::vector<Snag>;

void readingDamage(const SnagContext& context, Found& found);
void noNotes(const SnagContext& context, Found& found);
void programMissing(const SnagContext& context, Found& found);
void fixedVolume(const SnagContext& context, Found& found);
void soundMissing(const SnagContext& context, Found& found);
void outOfRange(const SnagContext& context, Found& found);
void bassOnGuitar(const SnagContext& context, Found& found);

/// A snag of a part with its key set.
Snag forPart(const Part& part, const char* kind, Step step);

} // namespace cobbleway::snags
