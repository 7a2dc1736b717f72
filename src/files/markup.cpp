#include "files/markup.h"

#include "words/letters.h"

namespace cobbleway {

std::string inMarkup(const std::string& text) {
    std::string out;
    for (const char c : oneLine(text)) switch (c) {
        case '&': out += "&amp;"; break;
        case '<': out += "&lt;"; break;
        case '>': out += "&gt;"; break;
        case '"': out += "&quot;"; break;
        default: out += c;
        }
    return out;
}

} // namespace cobbleway
