/// What the window shows and changes: the set that is open, the sounds there are, what follows from both, and
/// playing; with what is told to the person.
#pragma once
#include "app/session/currentset.h"
#include "app/session/diskwatch.h"
#include "app/session/findings.h"
#include "app/session/levelling.h"
#include "app/session/messages.h"
#include "app/session/meters.h"
#include "app/session/output.h"
#include "app/session/planner.h"
#include "app/session/playalong.h"
#include "app/session/pluginwindows.h"
#include "app/session/recovery.h"
#include "app/session/rounds.h"
#include "app/session/setfiles.h"
#include "app/session/sounds.h"
#include "app/session/startingnote.h"
#include "app/session/tasting.h"
#include "app/session/transport.h"

namespace cobbleway {

/// Puts them together; each knows some of those before it. Changes reach them in this order, and then the
/// views.
struct Session {
    Messages messages;
    CurrentSet current{messages};
    Sounds sounds{current, messages};
    Findings findings{current, sounds, messages};
    SetFiles files{current, sounds, findings, messages};
    Output output{messages};
    Planner planner{current, sounds, findings, output, messages};
    PluginWindows windows{current, planner, messages};
    Levelling levelling{current, sounds, output, messages};
    Meters meters{current, output};
    Transport transport{current, planner, output, messages};
    Rounds rounds{current, transport, messages};
    StartingNote startingNote{current, findings, transport, messages};
    Tasting tasting{current, sounds, findings, planner, transport};
    PlayAlong playAlong{current, findings, transport, messages};
    Recovery recovery{current, files, messages};
    DiskWatch disk{current, files, messages};

    /// Asks all work beside the interface to end, and waits for it; false when some still runs after that
    /// time.
    bool waitForDone(int milliseconds);
};

} // namespace cobbleway
