#pragma once
#include "sound/player.h"

#include <QObject>
#include <QString>
#include <QThreadPool>
#include <QTimer>

namespace cobbleway {

class Messages;

/// How much sound is held ready, and so how long after it is made it is heard.
enum class SoundDelay {
    AsUsed, ///< short while somebody plays along, else longer
    Short,  ///< HeldBlocks::PlayingAlong
    Long    ///< HeldBlocks::Busy
};

/// The player and the output that it plays through: which, how soon, and what becomes of it. A device may be
/// unplugged, or its sound server end or hang, at any time; the song goes on elsewhere, and that is told in a
/// line.
class Output : public QObject {
    Q_OBJECT
  public:
    explicit Output(Messages& messages);
    ~Output() override;
    [[nodiscard]] Player& player() { return m_player; }

    /// Opens an output by id, beside the interface, and keeps it for the next time.
    void choose(const QString& id);
    /// Opens the one that was kept; where it is not there now, it is taken when it is.
    void restore();
    [[nodiscard]] QString wanted() const { return m_wanted; } ///< id
    /// The outputs at the last look; before the first those that do not depend on what is connected.
    [[nodiscard]] const std::vector<OutputInfo>& known() const { return m_known; }
    void look(); ///< asks which devices there are, beside the interface; ends with listed()
    /// What plays and how soon, in words.
    [[nodiscard]] QString said() const;
    [[nodiscard]] SoundDelay delay() const { return m_delay; }
    void setDelay(SoundDelay delay); ///< kept for the next time
    /// Looks often from now on, since something begins to play.
    void lookOften();
    bool waitForDone(int milliseconds); ///< false when something still asks for sound then

  Q_SIGNALS:
    void ticked();  ///< some thirty times a second, seldom while nothing plays
    void changed(); ///< another output plays, or another delay
    void listed();

  private:
    void open(const QString& id, bool awaited);
    void tick();
    void takeNews(OutputNews news);
    void checkGone();
    Messages& m_messages;
    Player m_player;
    QTimer m_timer, m_watch;
    QString m_wanted;     ///< id
    bool m_keeps = false; ///< for the next time, when it opens
    bool m_gone = false;
    SoundDelay m_delay = SoundDelay::AsUsed;
    std::vector<OutputInfo> m_known = audioOutputs();
    bool m_looking = false;
    QThreadPool* m_lister; ///< given up, not waited for, when a server hangs
};

} // namespace cobbleway
