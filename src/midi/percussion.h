/// The published percussion maps of the dialects: which drum is on which key of which kit.
#pragma once
#include "midi/dialect.h"

#include <span>
#include <string_view>

namespace cobbleway {

/// A kit as a dialect publishes it.
struct PercussionKit {
    Dialect dialect = Dialect::GM;
    int program = 0;       ///< 0-based
    bool effects = false;  ///< XG: of the bank of effects kits (MSB 126)
    std::string_view name; ///< "Brush kit"
};

/// All published kits, those of a dialect together: GM has one (RP-003), GM2 nine (RP-024, appendix B), GS
/// and XG theirs by their manufacturers. GS and XG, and what the kits of GM2 change in the standard one, are
/// from memory.
std::span<const PercussionKit> percussionKits();

/// The kit that a dialect plays for a program: where it has none of that number the first of the group of
/// eight, then the standard kit. Where no dialect is said, GM2's, which holds all of GM.
const PercussionKit& percussionKit(Dialect dialect, Program program, bool effects = false);

/// The drum on a key of a kit; empty where the map has none.
std::string_view drumName(const PercussionKit& kit, Key key);

/// The group of drums of which one stops the others: hi-hats, whistles, guiros, cuicas, triangles (RP-003,
/// exclusive classes), and of GM2 scratches and surdos (RP-024; from memory). From 1; 0 for drums that stop
/// none.
int exclusiveGroup(Key key);

} // namespace cobbleway
