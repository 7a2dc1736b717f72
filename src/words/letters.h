/// Letters of any alphabet.
#pragma once
#include <string>
#include <string_view>

namespace cobbleway {

/// The same in small letters: names of files that are the same in these are one on many disks. Bytes that are
/// no UTF-8 become U+FFFD.
std::string inSmallLetters(std::string_view utf8);

} // namespace cobbleway
