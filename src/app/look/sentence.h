#pragma once
#include "words/message.h"

#include <QString>

namespace cobbleway {

/// A message of the core in words, for the window.
inline QString sentence(const Message& message) { return QString::fromStdString(inWords(message)); }

} // namespace cobbleway
