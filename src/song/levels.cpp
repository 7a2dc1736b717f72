#include "song/levels.h"

#include <algorithm>
#include <cmath>
#include <set>

namespace cobbleway {
namespace {

/// The values that the volume has while the part plays.
std::set<int> volumesUsed(const Song& song, const Part& part) {
    std::set<int> used;
    std::optional<int> current;
    bool playing = false;
    if (part.droppedControllers.contains(cc::volume)) return used;
    for (const EventRef ref : *part.events) {
        const Event& event = song.event(ref);
        if (event.isController(cc::volume)) {
            current = event.data2;
            if (playing) used.insert(*current);
        }
        if (!event.isNoteOn()) continue;
        playing = true;
        used.insert(current.value_or(-1));
    }
    return used;
}

} // namespace

double volumeDb(int value) {
    return value <= 0 ? lowestLevelDb : std::max(lowestLevelDb, 40 * std::log10(value / 127.0));
}
double dbToGain(double db) { return std::pow(10.0, db / 20); }
double gainToDb(double gain) { return gain <= 1e-6 ? -120 : 20 * std::log10(gain); }

std::optional<int> fixedVolume(const Song& song, const Part& part) {
    const auto used = volumesUsed(song, part);
    if (used.size() != 1 || *used.begin() < 0) return std::nullopt;
    return *used.begin();
}

bool volumeMoves(const Song& song, const Part& part) { return volumesUsed(song, part).size() > 1; }

double mixGain(const Song& song, const Part& part) {
    if (part.role == Role::Off) return 0;
    const bool someoneLeads =
        std::any_of(song.parts.begin(), song.parts.end(), [](const Part& p) { return p.role == Role::Lead; });
    return dbToGain(part.levelDb + (someoneLeads && part.role == Role::Back ? song.backDb : 0));
}

Song stemOf(const Song& song, PartId id) {
    Song alone = song;
    for (Part& part : alone.parts) {
        if (part.id != id)
            part.role = Role::Off;
        else if (part.role == Role::Back)
            part.levelDb = gainToDb(mixGain(song, part)); // nobody leads any more
    }
    return alone;
}

} // namespace cobbleway
