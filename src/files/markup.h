#pragma once
#include <string>

namespace cobbleway {

/// Text as it stands in XML and HTML, in elements and in attributes: on one line, with what would be markup
/// as entities.
std::string inMarkup(const std::string& text);

} // namespace cobbleway
