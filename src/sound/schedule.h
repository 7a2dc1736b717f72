/// A part's events on the clock: what an instrument is sent, and when.
#pragma once
#include "song/heard/realise.h"
#include "song/match/match.h"
#include "sound/lanestate.h"

#include <cstdint>
#include <memory>
#include <span>
#include <vector>

namespace cobbleway {

struct Schedule {
    std::vector<TimedEvent> events; ///< in order of frame
    std::vector<std::optional<SoundRef>>
        sounds; ///< none where nothing can play it; the first holds from frame 0
    bool drums = false;
    /// The state before every `markStep`th event, from the first such on: so that entering in the middle of
    /// a long part takes no longer than at its start.
    std::vector<LaneState> marks;
    static constexpr std::size_t markStep = 4096;

    void setMarks();
    /// The first event at or after a frame, by its place in `events`; their number when there is none.
    [[nodiscard]] std::size_t firstAt(double frame) const;
    [[nodiscard]] LaneState stateBefore(std::size_t event) const;
    bool operator==(const Schedule&) const = default;
};

/// `rate` in Hz. Bank selects and program changes of the data, and stretches with a sound of their own,
/// become choices among `match`'s sounds.
/// `heard` is what realisedEvents() makes of the part.
Schedule scheduleOf(const SongFrame& song, const Part& part, std::span<const Event> heard,
                    const PartMatch& match, int rate);

/// What a layer of the part plays: its keys, its octaves, one sound.
Schedule scheduleOfLayer(const SongFrame& song, const Part& part, std::span<const Event> heard,
                         const Layer& layer, const Match& match, int rate);

/// The song's end in frames.
std::int64_t endFrame(const SongFrame& song, int rate);

} // namespace cobbleway
