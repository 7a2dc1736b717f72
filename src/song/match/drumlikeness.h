/// Whether a part is drums in spite of its channel, or pitched in spite of it.
#pragma once
#include "song/model/song.h"
#include "words/message.h"

#include <optional>

namespace cobbleway {

/// Why a part that is not drums seems to be: a half-sentence such as "its name says so". By its name; or by
/// its keys, when nine of ten notes lie on the keys of kick, snare, hats and cymbals (RP-003), all three of
/// kick, snare and hats are there, and hits fall together as hands and feet make them.
std::optional<Message> whyDrums(const SongFrame& song, const Part& part);

/// By how many octaves the keys of a part that is no drums must be moved to lie on the kit best: 0 where they
/// do, or where nothing is clearly better.
int octavesToKit(const SongFrame& song, const Part& part);

/// Why a part that is drums seems to be pitched: its name, or most of its notes outside the percussion keys
/// 27–87 (RP-024).
std::optional<Message> whyPitched(const SongFrame& song, const Part& part);

} // namespace cobbleway
