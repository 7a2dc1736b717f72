#pragma once
#include "song/heard/phrase.h"

#include <QElapsedTimer>
#include <QObject>
#include <QTimer>
#include <set>

namespace cobbleway {

class CurrentSet;
class Findings;
class Planner;
class Sounds;
class Transport;

/// Lets a sound that is tried be heard while the song stands still: a few notes of the part.
class Tasting : public QObject {
    Q_OBJECT
  public:
    Tasting(CurrentSet& current, Sounds& sounds, Findings& findings, Planner& planner, Transport& transport);

  private:
    void begin();
    void end();
    void playOn();
    CurrentSet& m_current;
    Sounds& m_sounds;
    Findings& m_findings;
    Transport& m_transport;
    bool m_due = false; ///< as soon as what is tried is loaded
    PartId m_part = 0;
    std::vector<PhraseNote> m_phrase;
    std::size_t m_next = 0;                       ///< of m_phrase, the next to begin
    std::multiset<std::pair<double, int>> m_held; ///< when a key ends, and which
    QElapsedTimer m_clock;
    QTimer m_timer;
};

} // namespace cobbleway
