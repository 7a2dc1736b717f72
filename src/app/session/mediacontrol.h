/// Media keys and desktop panels, over D-Bus: the Media Player Remote Interfacing Specification 2.2 of
/// freedesktop.org (MPRIS).
#pragma once
#include "app/session/mediawish.h"

#include <QObject>
#include <QTimer>
#include <QVariantMap>
#include <functional>

namespace cobbleway {

struct Session;

/// Offers the song that is shown on the session bus while it lives: play, pause, next and previous song,
/// place, pace, title. Does nothing where there is no bus.
class MediaControl : public QObject {
    Q_OBJECT
  public:
    /// `raise` brings the window to the front, `quit` closes it.
    MediaControl(Session& session, std::function<void()> raise, std::function<void()> quit);
    ~MediaControl() override;
    [[nodiscard]] bool isOffered() const { return !m_name.isEmpty(); }
    [[nodiscard]] QString serviceName() const { return m_name; } ///< empty when it is not offered

    // What the interfaces say and do; times in microseconds
    [[nodiscard]] QString status() const; ///< "Playing", "Paused" or "Stopped"
    [[nodiscard]] QVariantMap metadata() const;
    [[nodiscard]] qlonglong position() const; ///< that is, or is wanted
    [[nodiscard]] qlonglong length() const;
    [[nodiscard]] bool hasSong(int by) const;
    [[nodiscard]] bool isPlaying() const; ///< or is to
    // What follows is done a moment later, with what else comes until then
    void setPosition(qlonglong microseconds); ///< outside of the song: nothing
    void seek(qlonglong by);                  ///< past the song's end: the next song
    void setRate(double rate);                ///< held in range; 0 or less: pause
    void showSong(int by); ///< +1 the next of the set, −1 the one before; plays on when it played
    void play(bool on);
    [[nodiscard]] Session& session() const { return m_session; }
    std::function<void()> raise, quit;

  private:
    [[nodiscard]] MediaPlace now() const;
    void ask(const std::function<void(MediaWish&, const MediaPlace&)>& wish);
    void doWish();
    void tellChanges();
    Session& m_session;
    MediaWish m_wish; ///< that is not done yet
    QTimer m_gather;
    QString m_name;
    QVariantMap m_told; ///< of the player's properties, as they were told last
};

} // namespace cobbleway
