/// Changes of drum parts: what each note plays, how hard, whether at all, and what it is called.
#pragma once
#include "song/drums/drumnotes.h"

#include <map>
#include <string>
#include <vector>

namespace cobbleway {

using DrumNames = std::map<std::uint8_t, std::string>; ///< by key, 0–127

/// Where notes should go by their names: incoming key → the drum meant.
struct NamedLayout {
    std::map<std::uint8_t, Key> clear; ///< those that a name clearly means, where that is another key
    std::vector<std::uint8_t> asked;   ///< used keys whose names fit several drums: a person must choose
};
NamedLayout layoutByNames(const SongFrame& song, const Part& part);

namespace edits {

/// Notes of these keys play another key; their own takes the change away.
Song setDrumTarget(Song song, PartId part, const std::vector<Key>& keys, Key target);
/// How hard they are struck, on top of the part's velocities.
Song setDrumTrim(Song song, PartId part, const std::vector<Key>& keys, const VelocityShape& trim);
/// Leaves them out, or takes them up again.
Song setDrumOff(Song song, PartId part, const std::vector<Key>& keys, bool off);
/// All changes of these keys go.
Song resetDrums(Song song, PartId part, const std::vector<Key>& keys);
/// A person's own name, cut at 64 characters; a blank one takes it away.
Song nameDrum(Song song, PartId part, Key key, const std::string& name);
/// Takes over names; what has none in `names` keeps its own.
Song nameDrums(Song song, PartId part, const DrumNames& names);
/// Every note that is clearly named plays the drum that its name means (layoutByNames()).
Song playByNames(Song song, PartId part);
/// Every silent note plays its substitute.
Song fitKit(Song song, PartId part, const std::vector<DrumNote>& notes);
/// The same for all drum parts, as the fonts of a catalogue play them.
Song fitKits(Song song, const Catalogue& catalogue);
/// How long hits last, in ticks; 0: as the file says.
Song setHitLength(Song song, PartId part, Tick ticks);

/// Parts that are drums by their keys become drums: onto channel 10, an octave or two moved where their keys
/// lie so, each hit a sixteenth long; several become one kit. Each event still knows its track and channel,
/// so that takeOut() can give them back.
Song drumsBack(Song song, const std::vector<PartId>& parts);
/// Gives notes of a drum part that was joined back to parts of their own: those of the named origins,
/// numbered as in originsOf(). Each gets the channel, the sound and, where no other part has it, the name
/// that the file gives it, and what was changed of its notes goes. Naming none changes nothing.
Song takeOut(Song song, PartId part, const std::vector<std::size_t>& origins);
/// Makes the notes of a piece a part of their own, right after the part; and back.
Song pieceApart(Song song, PartId part, DrumPiece piece);
Song pieceBack(Song song, PartId part, PartId piece);

} // namespace edits
} // namespace cobbleway
