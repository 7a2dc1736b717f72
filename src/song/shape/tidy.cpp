#include "song/shape/tidy.h"

#include "song/model/levels.h"
#include "song/shape/edits.h"

#include <cmath>

namespace cobbleway {
namespace {

/// Names it in Song::settled, as the snag of the same matter.
std::string keyOf(const Tidying& tidying) { return tidying.kind + ":" + std::to_string(tidying.part); }

} // namespace

Message tidyingText(const Song& song, const Tidying& tidying) {
    const Part* part = song.part(tidying.part);
    if (!part) return {};
    return {tidying.controller == cc::volume ? "tidied.volume" : "tidied.expression",
            {{"part", part->name}, {"value", tidying.value}}};
}

namespace edits {

Song tidy(Song song) {
    for (std::size_t i = 0; i < song.parts.size(); ++i) {
        if (song.parts[i].aside) continue;
        for (const std::uint8_t controller : {cc::volume, cc::expression}) {
            const Part& part = song.parts[i];
            const auto value = fixedValue(song, part, controller);
            const Tidying done{
                controller == cc::volume ? "fixed-volume" : "fixed-expression", part.id, controller,
                value.value_or(0),
                value ? volumeDb(*value) - (controller == cc::volume ? volumeDb(defaultVolume) : 0) : 0};
            const double level = part.mix.levelDb + done.levelDb;
            if (!value || *value == 0 || level <= lowestLevelDb || level > highestLevelDb ||
                song.settled.contains(keyOf(done)))
                continue;
            song = controllerIntoMix(std::move(song), done.part, controller);
            song.tidied.push_back(done);
        }
    }
    return song;
}

Song putBack(Song song, std::size_t which) {
    if (which >= song.tidied.size()) return song;
    const Tidying done = song.tidied[which];
    song.tidied.erase(song.tidied.begin() + static_cast<std::ptrdiff_t>(which));
    if (Part* part = song.part(done.part); part && part->recipe.drops(done.controller)) {
        part->recipe.controllers.erase(done.controller);
        const double level = part->mix.levelDb - done.levelDb;
        part->mix.levelDb = std::abs(level) < 1e-9 ? 0 : std::clamp(level, lowestLevelDb, highestLevelDb);
    }
    return settle(std::move(song), keyOf(done));
}

Song putAllBack(Song song) {
    while (!song.tidied.empty()) song = putBack(std::move(song), song.tidied.size() - 1);
    return song;
}

} // namespace edits
} // namespace cobbleway
