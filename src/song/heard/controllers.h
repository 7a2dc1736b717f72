/// A part's controllers: what it has, and thinning them.
#pragma once
#include "song/model/song.h"

#include <string>
#include <vector>

namespace cobbleway {

/// A value that holds from a tick until the next point.
struct ControlPoint {
    Tick tick = 0;
    int value = 0; ///< 0–127; of the pitch bend 0–16383
    bool operator==(const ControlPoint&) const = default;
};

/// The controller that an event belongs to; −1 for other events.
ControllerId controllerOf(const Event& event);
/// Its value: 0–127, of the pitch bend 0–16383.
int controlValue(const Event& event);

/// "volume (7)", "pitch bend", "controller 23": for people.
std::string controllerName(ControllerId controller);

/// Whether thinning makes sense: not for switches such as the sustain pedal, bank selects, parameter numbers
/// and channel mode messages (MIDI 1.0).
bool canThin(ControllerId controller);

/// The fewest points that stay within `tolerance` of every value at every time: from each point on the
/// longest stretch whose values span at most twice the tolerance becomes one point in their middle. No choice
/// of points at the same ticks does with fewer. Of several points at one tick the last counts.
std::vector<ControlPoint> thinned(const std::vector<ControlPoint>& points, int tolerance);

/// One controller of a part.
struct ControllerUse {
    ControllerId controller = 0;
    int events = 0; ///< in the file
    int kept = 0;   ///< after the part's plan for it
    int lowest = 0, highest = 0;
    bool moves = false; ///< has more than one value while the part plays
    bool operator==(const ControllerUse&) const = default;
};
/// All controllers of a part by number, the pitch bend and the channel pressure after them.
std::vector<ControllerUse> controllersOf(const SongEvents& events, const PartSource& source,
                                         const PartRecipe& recipe);

/// The values of one controller along the song, before the part's plan.
std::vector<ControlPoint> controlPoints(const SongEvents& events, const PartSource& source,
                                        ControllerId controller);

} // namespace cobbleway
