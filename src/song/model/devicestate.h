/// What device messages say of a part's channel, among the part's own events.
#pragma once
#include "midi/devicesettings.h"

namespace cobbleway {

struct Song;
struct SongEvents;
struct EventRef;

/// Gives each part of a fresh song that plays what device messages of its port set for its channel, in a
/// device's order (tick, track, place in the track; see deviceSettingsOf()):
///
/// - What channel messages can say as well becomes channel events of the part: level, place, sends, program.
/// - A message that tunes or transposes, or a volume of the device that moves, is named by the part;
/// realise()
///   and scheduleOf() read it. The conductor names it too.
/// - A reset (GM, GM2, GS, XG) after the port's first note sets the channel to what General MIDI starts with.
void followDevice(Song& song);

/// Where the ports of a song follow other dialects than the whole; see SongFrame::dialects.
std::vector<DialectFrom> dialectsByPort(const Song& song);

/// What a device message that a part names sets; empty for other events.
DeviceSettings deviceSettingsAt(const SongEvents& song, EventRef ref);

} // namespace cobbleway
