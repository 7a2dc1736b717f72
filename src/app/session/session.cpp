#include "app/session/session.h"

#include "app/session/uses.h"

namespace cobbleway {

uses::Messages::Messages(Session& session) : messages(session.messages) {}
uses::Set::Set(Session& session) : current(session.current) {}
uses::Files::Files(Session& session) : files(session.files) {}
uses::Sounds::Sounds(Session& session) : sounds(session.sounds) {}
uses::Findings::Findings(Session& session) : findings(session.findings) {}
uses::Transport::Transport(Session& session) : transport(session.transport) {}
uses::Rounds::Rounds(Session& session) : rounds(session.rounds) {}
uses::Meters::Meters(Session& session) : meters(session.meters) {}
uses::Windows::Windows(Session& session) : windows(session.windows) {}
uses::Levelling::Levelling(Session& session) : levelling(session.levelling) {}

bool Session::waitForDone(int milliseconds) {
    files.stop();
    sounds.stop();
    levelling.stop();
    const int share = milliseconds / 5;
    const bool read = files.waitForDone(share), measured = levelling.waitForDone(share),
               closed = output.waitForDone(share), shown = windows.waitForDone(share);
    return sounds.waitForDone(share) && read && measured && closed && shown;
}

} // namespace cobbleway
