/// The events that parts name: those of the file, and those that a person made; and their time in the song.
#pragma once
#include "midi/reader.h"
#include "song/model/shared.h"

#include <cstdint>
#include <memory>
#include <vector>

namespace cobbleway {

/// The EventRef::track of events that the file does not have: they are in SongEvents::made.
inline constexpr std::uint32_t madeTrack = 0xFFFFFFFF;

/// Names one event: of the source by track and index within it, or of SongEvents::made; all 0-based.
struct EventRef {
    std::uint32_t track = 0;
    std::uint32_t index = 0;
    [[nodiscard]] bool isMade() const { return track == madeTrack; }
    auto operator<=>(const EventRef&) const = default;
};

/// A channel event that a person made or changed. Its tick counts as those of the track it belongs to.
struct MadeEvent {
    Event event;
    std::uint32_t track = 0; ///< of the source, 0-based
    bool operator==(const MadeEvent&) const = default;
};

/// All events that parts can name.
struct SongEvents {
    std::shared_ptr<const SourceFile> source; ///< never null in a song made by makeSong()
    /// Shift of each track, in ticks: 0, but for type 2, whose tracks follow each other, and negative where
    /// leading silence was taken away. No event comes before 0 in the end.
    Shared<std::vector<Tick>> trackStarts;
    Shared<std::vector<MadeEvent>> made; ///< only ever added to
    Tick end = 0;                        ///< of the song

    [[nodiscard]] const Event& event(EventRef ref) const {
        return ref.isMade() ? (*made)[ref.index].event : source->midi.tracks[ref.track].events[ref.index];
    }
    /// The source's track that an event belongs to.
    [[nodiscard]] std::uint32_t trackOf(EventRef ref) const {
        return ref.isMade() ? (*made)[ref.index].track : ref.track;
    }
    [[nodiscard]] Tick tickOf(EventRef ref) const {
        const Tick tick = event(ref).tick + (*trackStarts)[trackOf(ref)];
        return tick < 0 ? 0 : tick;
    }
    /// Compares the files by their bytes, when they are not one in memory.
    bool operator==(const SongEvents& other) const;
};

} // namespace cobbleway
