/// What the window shows and changes, in four: the set that is open, the sounds there are, what follows from
/// both, and playing; with what is told to the person.
#pragma once
#include "app/session/currentset.h"
#include "app/session/diskwatch.h"
#include "app/session/findings.h"
#include "app/session/messages.h"
#include "app/session/playalong.h"
#include "app/session/playback.h"
#include "app/session/recovery.h"
#include "app/session/sounds.h"

namespace cobbleway {

/// Puts the four together; each knows those before it. Changes reach them in this order, and then the views.
struct Session {
    Session();
    Messages messages;
    CurrentSet current{messages};
    Sounds sounds{current, messages};
    Findings findings{current, sounds, messages};
    Playback playback{current, sounds, findings, messages};
    PlayAlong playAlong{current, findings, playback, messages};
    Recovery recovery{current, messages};
    DiskWatch disk{current, messages};

    /// Asks all work beside the interface to end, and waits for it; false when some still runs after that
    /// time.
    bool waitForDone(int milliseconds);
};

} // namespace cobbleway
