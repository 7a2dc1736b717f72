/// Changes of a song: pure functions Song → Song. An unknown part leaves the song as it is; numbers are held
/// within their ranges (song/model/song.h). Those of their own kind stand beside what they compute: splits.h,
/// join.h, eventlist.h, timeedits.h.
#pragma once
#include "song/model/song.h"

namespace cobbleway::edits {

/// A blank name leaves the old one; a name that another part has gets a number.
Song rename(Song song, PartId part, const std::string& name);
Song setTitle(Song song, const std::string& title);
/// Reads the file's text in another encoding, a name for toUtf8(): names, sections and title that still are
/// those of the file change with it.
Song setEncoding(Song song, const std::string& encoding);
Song setMidiShape(Song song, const MidiShape& shape);
Song setColour(Song song, PartId part, int colour);
/// Moves a part so that it stands at `place`, 0-based, among all parts.
Song moveTo(Song song, PartId part, int place);

/// Chooses a sound by hand: nothing in the data overrules it. Another plug-in starts with its own settings.
Song chooseSound(Song song, PartId part, const SoundRef& sound);
/// The same for several parts.
Song chooseSounds(Song song, const std::vector<PartId>& parts, const SoundRef& sound);
Song setSettings(Song song, PartId part, const PluginSettings& settings);
/// Another sound for the notes that begin from `start` on and before `end`; stretches under it give way.
Song chooseForStretch(Song song, PartId part, Tick start, Tick end, const SoundRef& sound);
/// Takes the stretch away that covers a tick.
Song clearStretch(Song song, PartId part, Tick tick);
/// Adds a second or third sound; nothing when the part has mostLayers already.
Song addLayer(Song song, PartId part, const SoundRef& sound);
/// Changes a layer, 0-based; numbers are held within their ranges.
Song setLayer(Song song, PartId part, std::size_t layer, const Layer& to);
Song removeLayer(Song song, PartId part, std::size_t layer);
/// Wherever sounds of one soundfont were chosen by hand, those of another with the same numbers are chosen.
Song replaceFont(Song song, const std::string& gone, const SoundFont& by);
/// Fonts that serve first in this song; empty: as the set says.
Song setFontOrder(Song song, const std::vector<std::string>& ids);
/// Goes back to what the part asks for.
Song followFile(Song song, PartId part);
/// All parts go back to what they ask for.
Song followFileEverywhere(Song song);
/// Gives a program to a part for which the file gives none.
Song giveProgram(Song song, PartId part, Program program);
/// Fixes the sound: program changes and banks in the data count for nothing, the first ask, or the program
/// given, holds throughout. Or lets the part follow them again.
Song fixProgram(Song song, PartId part, std::optional<Program> program = {});
Song followPrograms(Song song, PartId part);

/// Moves notes outside a range into it by octaves; none: notes stay where they are.
Song foldInto(Song song, PartId part, std::optional<KeyRange> range);

Song setLevel(Song song, PartId part, double db);
Song setMuted(Song song, PartId part, bool muted);
Song setSolo(Song song, PartId part, bool solo);
/// A part's share of the room, 0–2 times the song's, taken before or after its level.
Song setRoomShare(Song song, PartId part, double share, bool beforeLevel);
/// The chain of a part; part 0: that of the whole mix.
Song setEffects(Song song, PartId part, const std::vector<Effect>& effects);
Song setMasterLevel(Song song, double db);
Song setRoomSeconds(Song song, double seconds);
Song setPan(Song song, PartId part, double pan);
Song setOctaves(Song song, PartId part, int octaves);
Song setSemitones(Song song, PartId part, int semitones);
/// A shape with its numbers held within their ranges.
VelocityShape heldShape(VelocityShape shape);
Song setVelocity(Song song, PartId part, const VelocityShape& shape);
Song setUnisons(Song song, PartId part, Unisons unisons);

/// A volume controller that stands still becomes the part's level: dropped from the data, its loudness by the
/// General MIDI volume law kept. A part whose volume moves is left as it is.
Song volumeIntoLevel(Song song, PartId part);
/// The same for volume, expression (level) or pan (place from left to right); other controllers change
/// nothing.
Song controllerIntoMix(Song song, PartId part, ControllerId controller);
Song keepController(Song song, PartId part, ControllerId controller);
Song dropController(Song song, PartId part, ControllerId controller);
/// Thins a controller to the fewest points within `tolerance` (song/heard/controllers.h); only where
/// canThin().
Song thinController(Song song, PartId part, ControllerId controller, int tolerance);

/// Makes a part drums: it goes to channel 10 and plays the standard kit until it is told another. Or makes it
/// pitched: it goes to a free channel when it is on channel 10.
Song makeDrums(Song song, PartId part);
Song makePitched(Song song, PartId part);
/// Gives parts that share a channel although they ask for different sounds channels of their own; the first
/// on each stays. Drums stay together.
Song separateChannels(Song song);
/// Gives a drum part the drum channel of the lowest port on which no part has it.
Song giveDrumChannel(Song song, PartId part);

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
