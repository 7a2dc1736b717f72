/// What a MIDI file says of sounds that its numbers alone would not name.
#pragma once
#include "song/match/match.h"

namespace cobbleway {

/// The song as it is to be written as MIDI: parts whose sound another program would not find by its number
/// get the program of General MIDI that comes nearest to what is heard. That is, of a sound of a plug-in, and
/// of one of a soundfont whose numbers are its own, the program that its name tells, else what the file asks
/// for; of a sound that stands in for one that is missing, its own program. Sounds of fonts that go by
/// General MIDI, kits and outside instruments stay as they are, and so does all when changes are not written
/// in (Song::midi). `matches`: of the song with the catalogue.
Song withHeardPrograms(Song song, const std::vector<PartMatch>& matches, const Catalogue& catalogue);

/// The song with a name of its own for each track of a file that had them all in one.
Song withTrackNames(Song song);

/// Where withHeardPrograms() says another program than what was chosen or asked for, one sentence each.
std::vector<Message> heardProgramsSaid(const Song& song, const std::vector<PartMatch>& matches,
                                       const Catalogue& catalogue);

} // namespace cobbleway
