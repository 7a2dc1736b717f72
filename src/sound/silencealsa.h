#pragma once

namespace cobbleway {

/// ALSA tells of missing cards and ports on the error stream; that is no news for anyone.
void silenceAlsa();

} // namespace cobbleway
