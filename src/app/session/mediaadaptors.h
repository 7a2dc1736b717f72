/// The two D-Bus interfaces of MPRIS 2.2, as thin as can be: MediaControl does the work.
#pragma once
#include "app/session/mediacontrol.h"
#include "app/session/session.h"

#include <QDBusAbstractAdaptor>
#include <QDBusObjectPath>
#include <QStringList>
#include <QVariantMap>

namespace cobbleway {

class MediaRoot final : public QDBusAbstractAdaptor {
    Q_OBJECT
    Q_CLASSINFO("D-Bus Interface", "org.mpris.MediaPlayer2")
    Q_PROPERTY(bool CanQuit READ yes)
    Q_PROPERTY(bool CanRaise READ yes)
    Q_PROPERTY(bool HasTrackList READ no)
    Q_PROPERTY(QString Identity READ identity)
    Q_PROPERTY(QString DesktopEntry READ desktopEntry)
    Q_PROPERTY(QStringList SupportedUriSchemes READ nothing)
    Q_PROPERTY(QStringList SupportedMimeTypes READ nothing)
  public:
    explicit MediaRoot(MediaControl* control) : QDBusAbstractAdaptor(control), m_control(control) {}
    [[nodiscard]] bool yes() const { return true; }
    [[nodiscard]] bool no() const { return false; }
    [[nodiscard]] QString identity() const { return QStringLiteral("Cobbleway"); }
    [[nodiscard]] QString desktopEntry() const { return QStringLiteral("cobbleway"); }
    [[nodiscard]] QStringList nothing() const { return {}; }

  public Q_SLOTS: // NOLINT(readability-redundant-access-specifiers): moc asks for it
    Q_NOREPLY void Raise() { m_control->raise(); }
    Q_NOREPLY void Quit() { m_control->quit(); }

  private:
    MediaControl* m_control;
};

class MediaPlayer final : public QDBusAbstractAdaptor {
    Q_OBJECT
    Q_CLASSINFO("D-Bus Interface", "org.mpris.MediaPlayer2.Player")
    Q_PROPERTY(QString PlaybackStatus READ status)
    Q_PROPERTY(double Rate READ rate WRITE setRate)
    Q_PROPERTY(double MinimumRate READ minimumRate)
    Q_PROPERTY(double MaximumRate READ maximumRate)
    Q_PROPERTY(QVariantMap Metadata READ metadata)
    Q_PROPERTY(double Volume READ volume WRITE setVolume)
    Q_PROPERTY(qlonglong Position READ position)
    Q_PROPERTY(bool CanGoNext READ canGoNext)
    Q_PROPERTY(bool CanGoPrevious READ canGoPrevious)
    Q_PROPERTY(bool CanPlay READ hasSong)
    Q_PROPERTY(bool CanPause READ hasSong)
    Q_PROPERTY(bool CanSeek READ hasSong)
    Q_PROPERTY(bool CanControl READ canControl)
  public:
    explicit MediaPlayer(MediaControl* control) : QDBusAbstractAdaptor(control), m_control(control) {}
    [[nodiscard]] QString status() const { return m_control->status(); }
    [[nodiscard]] double rate() const { return m_control->session().transport.pace() / 100.0; }
    void setRate(double rate) { m_control->setRate(rate); }
    [[nodiscard]] double minimumRate() const { return MediaWish::lowestRate; }
    [[nodiscard]] double maximumRate() const { return MediaWish::highestRate; }
    [[nodiscard]] QVariantMap metadata() const { return m_control->metadata(); }
    [[nodiscard]] double volume() const { return 1; }
    void setVolume(double) {} // the level belongs to the song
    [[nodiscard]] qlonglong position() const { return m_control->position(); }
    [[nodiscard]] bool canGoNext() const { return m_control->hasSong(1); }
    [[nodiscard]] bool canGoPrevious() const { return m_control->hasSong(-1); }
    [[nodiscard]] bool hasSong() const { return m_control->hasSong(0); }
    [[nodiscard]] bool canControl() const { return true; }

  public Q_SLOTS: // NOLINT(readability-redundant-access-specifiers): moc asks for it
    void Next() { m_control->showSong(1); }
    void Previous() { m_control->showSong(-1); }
    void Pause() { m_control->play(false); }
    void PlayPause() { m_control->play(!m_control->isPlaying()); }
    void Play() { m_control->play(true); }
    void Stop() {
        m_control->play(false);
        m_control->setPosition(0);
    }
    void Seek(qlonglong offset) { m_control->seek(offset); }
    void SetPosition(const QDBusObjectPath& track, qlonglong position) {
        if (QVariant::fromValue(track) == m_control->metadata().value(QStringLiteral("mpris:trackid")))
            m_control->setPosition(position);
    }

  Q_SIGNALS:
    void Seeked(qlonglong position); // NOLINT(readability-identifier-naming): named by the specification

  private:
    MediaControl* m_control;
};

} // namespace cobbleway
