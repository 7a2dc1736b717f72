#pragma once
#include <QObject>

namespace cobbleway {

class CurrentSet;
class Findings;
class Messages;
class Transport;

/// Gives the note to begin with, as a choir's leader does.
class StartingNote : public QObject {
    Q_OBJECT
  public:
    StartingNote(CurrentSet& current, Findings& findings, Transport& transport, Messages& messages);
    /// Sounds the note that the lead, or else the selected part, begins with after this place, with the
    /// harmony around it, for a second and a half.
    void play();

  private:
    CurrentSet& m_current;
    Findings& m_findings;
    Transport& m_transport;
    Messages& m_messages;
};

} // namespace cobbleway
