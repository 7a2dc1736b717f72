/// Joining parts to one: what will clash, and how each clash is resolved.
#pragma once
#include "song/model/song.h"
#include "words/message.h"

#include <string>
#include <vector>

namespace cobbleway {

struct JoinOptions {
    Unisons unisons = Unisons::KeepOne; ///< for notes of one key that meet
    bool levelsIntoVelocities = true;   ///< else the first part's volume holds for all
    bool pedalIntoLengths = true;       ///< else the first part's pedal holds for all
    bool operator==(const JoinOptions&) const = default;
};

/// Something of which there is only one on a channel, and which the parts do not share.
struct Clash {
    enum class Kind {
        Program,
        Layers,
        Level,
        Pan,
        Bend,
        Sustain,
        Controllers,
        Room,
        Effects,
        Heard,
        Recipe,
        Drums,
        Doubled,
        Channels
    };
    Kind kind = Kind::Program;
    Message what; ///< one sentence of what differs
    Message how;  ///< one sentence of what joining does about it
    bool operator==(const Clash&) const = default;
};

/// Events of several lists in one order: by tick, at one tick as the file has them; each once.
std::vector<EventRef> mergedEvents(const Song& song, const std::vector<const EventRefs*>& lists);

/// What clashes when parts are joined, in the order given: the first is the one that the others join. Things
/// that would not change the sound of any note are no clash: parts that were split from one have none.
std::vector<Clash> clashesOf(const Song& song, const std::vector<PartId>& parts,
                             const JoinOptions& options = {});

namespace edits {

/// Joins parts to the first of them, which keeps its name, place, channel and sound; names of drum notes are
/// those of the first that has one for the key. Every note stays, but
/// for unisons by the options; of the others' programs, controllers and bends all stay that clash with
/// nothing, and those that do are resolved as clashesOf() says. Fewer than two known parts change nothing.
Song join(Song song, const std::vector<PartId>& parts, const JoinOptions& options = {});

/// Writes a part's own recipe (transposition, velocities, controllers, unisons) into made events. What is
/// heard stays the same.
Song writeInRecipe(Song song, PartId part);

} // namespace edits
} // namespace cobbleway
