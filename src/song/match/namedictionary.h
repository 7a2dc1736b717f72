/// What namewords.cpp and likelywords.cpp share; seen by no one else.
#pragma once
#include "song/match/namewords.h"

#include <functional>
#include <map>

namespace cobbleway {

/// Every word that is known as it stands, in letters as of plainWords().
const std::map<std::string, NameSense, std::less<>>& nameDictionary();

} // namespace cobbleway
