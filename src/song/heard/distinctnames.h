/// What parts are called where they are listed beside each other.
#pragma once
#include "song/heard/facts.h"
#include "song/model/song.h"
#include "words/message.h"

#include <functional>
#include <vector>

namespace cobbleway {

/// A name a part, in the song's order. Parts that are alike, told apart by a number that nobody gave them,
/// are told apart by what differs instead: their channel, else their side, else their range, else the number.
/// Parts set aside count for nothing and keep their names.
std::vector<Message> distinctNames(const Song& song, const std::function<PartFacts(const Part&)>& facts);

} // namespace cobbleway
