/// What one pass over a part's events finds, before its recipe.
#pragma once
#include "song/model/asks.h"

#include <bitset>
#include <optional>
#include <vector>

namespace cobbleway {

struct PartFacts {
    int notes = 0;
    Key lowest{127}, highest{0};           ///< only when notes > 0
    std::optional<Tick> firstNote;         ///< where the first note begins
    std::bitset<128> keys;                 ///< of its notes
    std::vector<std::uint8_t> controllers; ///< numbers used, ascending
    std::optional<Ask> program;            ///< firstProgram()
    int lyrics = 0;                        ///< lyric events, with words or without
    bool hasTexts = false;                 ///< any lyric or text event
    bool operator==(const PartFacts&) const = default;
};
PartFacts factsOf(const SongEvents& events, const PartSource& source);

/// All programs among asks, in order of first use, each once.
std::vector<Program> programsOf(const std::vector<Ask>& asks);

} // namespace cobbleway
