#pragma once
#include "app/session/keyboards.h"
#include "app/session/pedals.h"
#include "song/heard/letterkeys.h"
#include "song/model/song.h"

#include <QObject>
#include <QSet>
#include <array>

class QKeyEvent;

namespace cobbleway {

class CurrentSet;
class Findings;
class Messages;
class Transport;

/// Plays the selected part's sound from a MIDI keyboard, or from the letters of the computer's own.
class PlayAlong : public QObject {
    Q_OBJECT
  public:
    PlayAlong(CurrentSet& current, Findings& findings, Transport& transport, Messages& messages);
    [[nodiscard]] Keyboards& keyboards() { return m_keyboards; }
    /// Opens a port, and remembers it; empty closes. What cannot be opened is told, and nothing is open then.
    void setInput(const QString& id);
    /// Opens the port that was open when the program ended, as soon as it is there.
    void restoreInput();
    [[nodiscard]] bool lettersPlay() const { return m_lettersPlay; }
    /// While they play, letters do nothing else, but in text.
    void setLettersPlay(bool play);

    [[nodiscard]] Pedals& pedals() { return m_pedals; }
    /// Takes a message as the open port gives it: pedals that were taught do their action, the rest is
    /// played.
    void take(std::span<const std::uint8_t> message);

  Q_SIGNALS:
    void changed();

  private:
    void followKeyboards();
    void tellChanged();
    bool eventFilter(QObject* watched, QEvent* event) override;
    bool takeKey(const QKeyEvent& event, bool down);
    void tuneLetters();
    void strike(std::size_t letter, int key);
    void release(std::size_t letter);
    void releaseAll();
    CurrentSet& m_current;
    Findings& m_findings;
    Transport& m_transport;
    Messages& m_messages;
    Pedals m_pedals;
    Keyboards m_keyboards;
    bool m_lettersPlay = false;
    LetterKeys m_letters;
    struct Held {
        PartId part = 0; ///< in whose sound it began
        int key = -1;    ///< −1 for none
    };
    std::array<Held, 30> m_held; ///< what each letter sounds
};

} // namespace cobbleway
