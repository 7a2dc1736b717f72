/// The events that parts name: those of the file, and those that a person made; and their time in the song.
#pragma once
#include "midi/reader.h"
#include "song/model/eventrefs.h"
#include "song/model/shared.h"

#include <cstdint>
#include <memory>
#include <vector>

namespace cobbleway {

/// No song's tracks start later, so that all ticks stay below 2^46 (a track's stay below 2^41).
inline constexpr Tick lastSongTick = Tick{1} << 45;

/// All events that parts can name.
struct SongEvents {
    std::shared_ptr<const SourceFile> source; ///< never null in a song made by makeSong()
    /// Shift of each track, in ticks: 0, but for type 2, whose tracks follow each other, and negative where
    /// leading silence was taken away. No event comes before 0 in the end.
    Shared<std::vector<Tick>> trackStarts;
    MadeEvents made;
    Tick end = 0; ///< of the song

    [[nodiscard]] const Event& event(EventRef ref) const {
        return ref.isMade() ? made[ref.index].event : source->midi.tracks[ref.track].events[ref.index];
    }
    /// The source's track that an event belongs to.
    [[nodiscard]] std::uint32_t trackOf(EventRef ref) const {
        return ref.isMade() ? made[ref.index].track : ref.track;
    }
    [[nodiscard]] Tick tickOf(EventRef ref) const {
        const Tick tick = event(ref).tick + (*trackStarts)[trackOf(ref)];
        return tick < 0 ? 0 : tick;
    }
    /// Calls `take(event, ref)` for each; the quickest way through many.
    template <class Take> void each(const EventRefs& refs, Take take) const {
        (void)any(refs, [&](const Event& event, EventRef ref) {
            take(event, ref);
            return false;
        });
    }
    /// Whether `is(event, ref)` holds for any; asks no further than that.
    template <class Is> bool any(const EventRefs& refs, Is is) const {
        bool found = false;
        refs.eachRun([&](std::uint32_t track, std::uint32_t first, std::uint32_t count) {
            const Event* events = track == madeTrack ? nullptr : &source->midi.tracks[track].events[first];
            for (std::uint32_t i = 0; i < count && !found; ++i)
                found = is(events ? events[i] : made[first + i].event, EventRef{track, first + i});
            return !found;
        });
        return found;
    }
    /// The same as any(), but of events that start or end no note alone: quick where these are few.
    template <class Is> bool anyBesideNotes(const EventRefs& refs, Is is) const {
        bool found = false;
        refs.eachRun([&](std::uint32_t track, std::uint32_t first, std::uint32_t count) {
            const auto at = [&](const Event& event, std::uint32_t place) {
                return is(event, EventRef{track, place});
            };
            if (track != madeTrack) found = source->midi.anyBesideNotes(track, first, first + count, at);
            for (std::uint32_t i = first; track == madeTrack && i < first + count && !found; ++i)
                found = !isNoteStatus(made[i].event.status) && at(made[i].event, i);
            return !found;
        });
        return found;
    }
    template <class Take> void eachBesideNotes(const EventRefs& refs, Take take) const {
        (void)anyBesideNotes(refs, [&](const Event& event, EventRef ref) {
            take(event, ref);
            return false;
        });
    }
    /// Compares the files by their bytes, when they are not one in memory.
    bool operator==(const SongEvents& other) const;
};

} // namespace cobbleway
