/// Practising a song section by section: which stretch is played how often, and how fast.
#pragma once
#include "song/model/song.h"

#include <string>
#include <vector>

namespace cobbleway {

/// What a person wants of it.
struct WorkWish {
    int rounds = 4; ///< of each section, 1–12
    int from = 70;  ///< pace of the first round in percent, 25–200
    int to = 100;   ///< of the last
    bool operator==(const WorkWish&) const = default;
};

/// A stretch, played once.
struct WorkRound {
    Tick start = 0, end = 0;
    int pace = 100;            ///< percent
    std::string name;          ///< "Quayside", "Quayside and Lanterns lit"
    int round = 1, rounds = 1; ///< which of how many of this stretch
    bool operator==(const WorkRound&) const = default;
};

/// All rounds in order, from the section at a place on: each section so many rounds whose pace grows evenly,
/// then, from the second on, half as many (at least one) together with the section before it, at the last
/// pace. A song without sections is taken eight bars at a time.
std::vector<WorkRound> workThrough(const Song& song, Tick place, const WorkWish& wish);

} // namespace cobbleway
