/// Mixes that are kept with a song: roles and levels under a name.
#pragma once
#include "song/model/song.h"
#include "words/message.h"

namespace cobbleway::edits {

/// Keeps the roles and levels of now under a name; a mix of this name is replaced. An empty name changes
/// nothing.
Song keepMix(Song song, const std::string& name);

/// Keeps three mixes of each part that plays: it in front, it alone, all without it; those of such a name
/// stay.
Song keepMixOfEveryPart(Song song);

/// Takes the roles and levels of a kept mix; a name that is not there changes nothing.
Song useMix(Song song, const std::string& name);

/// Gives a kept mix another name, with a number where the name is taken.
Song renameMix(Song song, const std::string& name, const std::string& to);
Song removeMix(Song song, const std::string& name);

} // namespace cobbleway::edits

namespace cobbleway {

/// The song with every part heard as it is levelled: none in front, off, muted or solo.
Song wholeBand(Song song);

/// How the mix stands beside the whole band, for people: "Alto alone", "Clarinets in front", or how many
/// parts are heard and lead; empty for the whole band.
Message mixStanding(const Song& song);

/// The kept mix that the song's roles and levels are now, by its name; empty for none.
std::string mixInUse(const Song& song);

} // namespace cobbleway
