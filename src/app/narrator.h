#pragma once
#include "app/session/uses.h"
#include "song/model/song.h"

#include <QObject>
#include <QStringList>
#include <QTimer>

namespace cobbleway {

/// Tells by ear what the window shows of a change: which part is chosen, roles, levels, the loop, the pace,
/// the place. What happens in one go is told in one go, and nothing that was told already (undoing, saving).
class Narrator : public QObject {
    Q_OBJECT
  public:
    explicit Narrator(Uses<uses::Set, uses::Findings, uses::Transport, uses::Messages> session,
                      QObject* parent = nullptr);
    /// "bar 9, beat 1, Quayside": where the song is.
    [[nodiscard]] QString placeText() const;

  private:
    void say(const QString& text);
    void tellChange();
    void tellPart();
    Uses<uses::Set, uses::Findings, uses::Transport, uses::Messages> m_session;
    std::unique_ptr<Song> m_before; ///< as it was told last
    QStringList m_pending;
    QTimer m_soon, m_place; ///< when what is pending is told; when the place has come to rest
    bool m_toldElsewhere = false, m_telling = false;
    bool m_loopOn = false;
};

/// What is other in `after` than in `before`, in a few words: "Clarinets in front", "Tuba, level −3 dB".
/// Empty when there are no words for it.
QString changeText(const Song& before, const Song& after);

} // namespace cobbleway
