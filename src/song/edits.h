/// Every change of a song: pure functions Song → Song. An unknown part leaves the song as it is; numbers are
/// held within their ranges (song/song.h).
#pragma once
#include "song/song.h"

namespace cobbleway::edits {

/// A blank name leaves the old one; a name that another part has gets a number.
Song rename(Song song, PartId part, const std::string& name);
Song setTitle(Song song, const std::string& title);
Song setColour(Song song, PartId part, int colour);
/// Moves a part so that it stands at `place`, 0-based, among all parts.
Song moveTo(Song song, PartId part, int place);

/// Chooses a sound by hand: nothing in the data overrules it.
Song chooseSound(Song song, PartId part, const SoundRef& sound);
/// Goes back to what the part asks for.
Song followFile(Song song, PartId part);
/// All parts go back to what they ask for.
Song followFileEverywhere(Song song);
/// Gives a program to a part for which the file gives none.
Song giveProgram(Song song, PartId part, Program program);

Song setLevel(Song song, PartId part, double db);
Song setPan(Song song, PartId part, double pan);
Song setOctaves(Song song, PartId part, int octaves);
/// A volume controller that stands still becomes the part's level: dropped from the data, its loudness by the
/// General MIDI volume law kept. A part whose volume moves is left as it is.
Song volumeIntoLevel(Song song, PartId part);

Song setRole(Song song, PartId part, Role role);
/// `part` leads, all others back.
Song putInFront(Song song, PartId part);
/// Only `part` sounds.
Song onlyPart(Song song, PartId part);
/// All but `part` sound.
Song allBut(Song song, PartId part);
/// Every part backs: the full band.
Song everyone(Song song);

Song setBackLevel(Song song, double db);
Song setRoom(Song song, double room);
Song setKeyShift(Song song, int semitones);
/// Leaves a snag as it is, so that it is no longer listed.
Song settle(Song song, const std::string& snagKey);

} // namespace cobbleway::edits
