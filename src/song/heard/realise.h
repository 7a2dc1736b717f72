/// Applies a part's recipe: the one way from events to what is heard, drawn and written.
#pragma once
#include "song/model/song.h"

#include <vector>

namespace cobbleway {

/// A note that sounds, by the final recipe. 16 bytes, since songs have millions; no file's ticks go beyond 46
/// bits.
struct Note {
    Tick start : 48 = 0;
    Tick end : 48 = 0; ///< at or after start
    Key key;
    Velocity velocity; ///< 1–127
    bool operator==(const Note&) const = default;
};
static_assert(sizeof(Note) == 16);

/// A part as it sounds: what its recipe makes of its source.
struct HeardPart {
    std::vector<Note> notes;     ///< in order of start
    std::vector<Event> controls; ///< channel events that are no notes, in order of tick, in the song's time
    bool operator==(const HeardPart&) const = default;
};

/// Applies the whole recipe: controllers, transposition, velocities, unisons; every event gets the
/// part's own port and channel.
///
/// - Keys are shifted as device messages among the part's events say, from their place on (followDevice()).
/// - A key that a shift would take out of 0–127 is folded back by octaves; then single notes outside
///   Part::folded are moved into it by octaves. Drums are not shifted.
/// - Each note is struck as the DrumPlan of its key says; of drums it plays the plan's target key, or is left
///   out.
/// - Of several notes on one key a note-off ends the one that began first, among events of one origin (track,
///   port and channel of the file). A note without end lasts to the end of the song.
/// - Bank selects and program changes stay in: what chooses the sound is PartSound's matter.
HeardPart realise(const SongEvents& events, int keyShift, const PartSource& source, const PartRecipe& recipe);
/// The same for a part of a song.
inline HeardPart realise(const Song& song, const Part& part) {
    return realise(song, song.keyShift, part.source, part.recipe);
}

/// The same as realise(), as channel events in order of tick, notes as their two events: for what is sent or
/// written. They take more room than notes, so nobody keeps them. `origins`, when given, gets for each event
/// the event it comes from.
std::vector<Event> realisedEvents(const SongEvents& events, int keyShift, const PartSource& source,
                                  const PartRecipe& recipe, std::vector<EventRef>* origins = nullptr);
/// The same for a part of a song.
inline std::vector<Event> realisedEvents(const Song& song, const Part& part,
                                         std::vector<EventRef>* origins = nullptr) {
    return realisedEvents(song, song.keyShift, part.source, part.recipe, origins);
}

/// How hard a note of velocity 1–127 is struck in the end; `mean` is that of the notes that a shape is for.
int shapedVelocity(int velocity, const VelocityShape& shape, double mean);

/// The key that a shift by semitones gives, folded back into 0–127 by octaves.
Key shiftedKey(Key key, int semitones);

/// By how many semitones a part's keys are shifted in all: 0 for drums.
int shiftOf(int keyShift, const PartSource& source, const PartRecipe& recipe);

/// A key moved by the fewest octaves into a range; as it is where no octave lies within.
Key foldedKey(Key key, const KeyRange& range);

} // namespace cobbleway
