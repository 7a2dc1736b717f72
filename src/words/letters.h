/// Letters of any alphabet.
#pragma once
#include <string>
#include <string_view>

namespace cobbleway {

/// The same in small letters: names of files that are the same in these are one on many disks. Bytes that are
/// no UTF-8 become U+FFFD.
std::string inSmallLetters(std::string_view utf8);

/// The same on one line, for lists of which each line means something: control characters and line ends
/// of any script become a blank, one for those that stand together, and none at the ends. Bytes that
/// are no UTF-8 become U+FFFD.
std::string oneLine(std::string_view utf8);

/// What puts names in the order in which people look for them, compared byte by byte: letters of all
/// alphabets whatever their size and accents, numbers by their value (Unicode collation, UTS #10, with
/// numeric ordering).
std::string orderKey(std::string_view utf8);

} // namespace cobbleway
