/// Text folded for comparing: letters without accents, whatever language they are of.
#pragma once
#include <string>
#include <vector>

namespace cobbleway {

/// A name folded for comparing: low ASCII letters, accents left out, Cyrillic in Latin letters, everything
/// else a blank; a blank before and after.
std::string plainWords(const std::string& name);

/// A name's words as of plainWords() and its numbers, in order; a capital after a small letter begins a word:
/// "HHClosed01" → hh, closed, 01.
std::vector<std::string> wordsIn(const std::string& name);

/// UTF-8 in composed form with compatibility letters replaced (Unicode NFKC): half-width kana become
/// full-width ones. Text that is no UTF-8 comes back as it is.
std::string composed(const std::string& text);

} // namespace cobbleway
