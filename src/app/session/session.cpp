#include "app/session/session.h"

namespace cobbleway {

Session::Session() {
    current.remember = [this](SongSet set) { return rememberFonts(std::move(set), sounds.catalogue()); };
}

bool Session::waitForDone(int milliseconds) {
    current.stop();
    sounds.stop();
    playback.stop();
    const int share = milliseconds / 4;
    const bool read = current.waitForDone(share), measured = playback.waitForDone(share);
    return sounds.waitForDone(share) && read && measured;
}

} // namespace cobbleway
