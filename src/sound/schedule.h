/// A part's events on the clock: what an instrument is sent, and when.
#pragma once
#include "song/heard/realise.h"
#include "song/match/match.h"

#include <cstdint>
#include <memory>
#include <vector>

namespace cobbleway {

/// A message at a frame of the song at its own tempo. Status 0xC0 chooses sound number data1 of the schedule.
struct TimedEvent {
    std::int64_t frame = 0;
    std::uint8_t status = 0, data1 = 0, data2 = 0;
    bool operator==(const TimedEvent&) const = default;
};

struct Schedule {
    std::vector<TimedEvent> events; ///< in order of frame
    std::vector<std::optional<SoundRef>>
        sounds; ///< none where nothing can play it; the first holds from frame 0
    bool drums = false;
    bool operator==(const Schedule&) const = default;
};

/// `rate` in Hz. Bank selects and program changes of the data, and stretches with a sound of their own,
/// become choices among `match`'s sounds.
/// `heard` is what realise() makes of the part.
Schedule scheduleOf(const SongFrame& song, const Part& part, const HeardPart& heard, const PartMatch& match,
                    int rate);

/// What a layer of the part plays: its keys, its octaves, one sound.
Schedule scheduleOfLayer(const SongFrame& song, const Part& part, const HeardPart& heard, const Layer& layer,
                         const Match& match, int rate);

/// The song's end in frames.
std::int64_t endFrame(const SongFrame& song, int rate);

} // namespace cobbleway
