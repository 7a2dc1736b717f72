#include "app/session/mediacontrol.h"

#include "app/session/mediaadaptors.h"

#include <QCoreApplication>
#include <QDBusConnection>
#include <QDBusMessage>
#include <algorithm>
#include <cmath>

namespace cobbleway {
namespace {

const QString objectPath = QStringLiteral("/org/mpris/MediaPlayer2");
const QString playerInterface = QStringLiteral("org.mpris.MediaPlayer2.Player");

} // namespace

MediaControl::MediaControl(Session& session, std::function<void()> raiseWindow,
                           std::function<void()> quitWindow)
    : raise(std::move(raiseWindow)), quit(std::move(quitWindow)), m_session(session) {
    new MediaRoot(this);
    auto* player = new MediaPlayer(this);
    QDBusConnection bus = QDBusConnection::sessionBus();
    if (!bus.isConnected() || !bus.registerObject(objectPath, this)) return;
    // A second window has a name of its own, as the specification asks.
    for (const QString& name : {QStringLiteral("org.mpris.MediaPlayer2.cobbleway"),
                                QStringLiteral("org.mpris.MediaPlayer2.cobbleway.instance%1")
                                    .arg(QCoreApplication::applicationPid())})
        if (m_name.isEmpty() && bus.registerService(name)) m_name = name;
    m_gather.setSingleShot(true);
    m_gather.setInterval(10); // milliseconds: nobody feels them, and thousands of calls are done as one
    connect(&m_gather, &QTimer::timeout, this, &MediaControl::doWish);
    connect(&session.transport, &Transport::playingChanged, this, &MediaControl::tellChanges);
    connect(&session.transport, &Transport::paceChanged, this, &MediaControl::tellChanges);
    connect(&session.current, &CurrentSet::songsChanged, this, &MediaControl::tellChanges);
    connect(&session.current, &CurrentSet::songChanged, this, [this](Sides sides) {
        if (sides.has(Side::Names | Side::Time)) tellChanges();
    });
    connect(&session.transport, &Transport::sought, player,
            [this, player] { Q_EMIT player->Seeked(position()); });
}

MediaControl::~MediaControl() {
    if (m_name.isEmpty()) return;
    QDBusConnection::sessionBus().unregisterService(m_name);
    QDBusConnection::sessionBus().unregisterObject(objectPath);
}

QString MediaControl::status() const {
    if (isPlaying()) return QStringLiteral("Playing");
    return m_session.current.hasSong() && position() > 0 ? QStringLiteral("Paused")
                                                         : QStringLiteral("Stopped");
}

bool MediaControl::isPlaying() const { return m_wish.play.value_or(m_session.transport.isPlaying()); }

MediaPlace MediaControl::now() const {
    if (!m_session.current.hasSong()) return {};
    const TempoMap& tempo = *m_session.current.song().tempo;
    return {std::llround(tempo.seconds(m_session.transport.place()) * 1e6), length(),
            m_session.current.songIndex(), static_cast<int>(m_session.current.set().songs.size())};
}

QVariantMap MediaControl::metadata() const {
    if (!m_session.current.hasSong()) return {};
    const Song& song = m_session.current.song();
    return {{QStringLiteral("mpris:trackid"),
             QVariant::fromValue(QDBusObjectPath(
                 QStringLiteral("/org/cobbleway/song/%1").arg(m_session.current.songIndex())))},
            {QStringLiteral("mpris:length"), length()},
            {QStringLiteral("xesam:title"), QString::fromStdString(song.title)},
            {QStringLiteral("xesam:album"), QString::fromStdString(m_session.current.set().name)},
            {QStringLiteral("xesam:trackNumber"), m_session.current.songIndex() + 1}};
}

qlonglong MediaControl::position() const { return m_wish.position.value_or(now().position); }

qlonglong MediaControl::length() const {
    return m_session.current.hasSong() ? std::llround(m_session.current.song().seconds() * 1e6) : 0;
}

bool MediaControl::hasSong(int by) const {
    return m_session.current.hasSong() && MediaWish().hasSong(now(), by);
}

void MediaControl::ask(const std::function<void(MediaWish&, const MediaPlace&)>& wish) {
    if (!m_session.current.hasSong()) return;
    wish(m_wish, now());
    m_gather.start();
}

void MediaControl::setPosition(qlonglong microseconds) {
    ask([=](MediaWish& wish, const MediaPlace& now) { wish.setPosition(now, microseconds); });
}
void MediaControl::seek(qlonglong by) {
    ask([=](MediaWish& wish, const MediaPlace& now) { wish.seek(now, by); });
}
void MediaControl::setRate(double rate) {
    ask([=](MediaWish& wish, const MediaPlace&) { wish.setRate(rate); });
}
void MediaControl::showSong(int by) {
    ask([=](MediaWish& wish, const MediaPlace& now) { wish.skip(now, by); });
}
void MediaControl::play(bool on) {
    ask([=](MediaWish& wish, const MediaPlace&) { wish.play = on; });
}

/// What calls that came in a burst want in the end.
void MediaControl::doWish() {
    const MediaWish wanted = std::exchange(m_wish, {});
    if (!m_session.current.hasSong()) return;
    const bool plays = wanted.play.value_or(m_session.transport.isPlaying());
    const auto setPlaying = [this](bool on) {
        if (on != m_session.transport.isPlaying()) m_session.transport.togglePlay();
    };
    // It stops before it goes to a place: a block that is played between the two would leave that again.
    if (wanted.songs != 0 || !plays) setPlaying(false);
    if (wanted.songs != 0) m_session.current.showSong(m_session.current.songIndex() + wanted.songs);
    if (wanted.position) {
        const Song& song = m_session.current.song();
        m_session.transport.seek(
            song.tempo->tickAt(std::clamp(static_cast<double>(*wanted.position) / 1e6, 0.0, song.seconds())));
    }
    if (wanted.pace) m_session.transport.setPace(*wanted.pace);
    setPlaying(plays);
}

void MediaControl::tellChanges() {
    const QVariantMap now = {{QStringLiteral("PlaybackStatus"), status()},
                             {QStringLiteral("Rate"), m_session.transport.pace() / 100.0},
                             {QStringLiteral("Metadata"), metadata()},
                             {QStringLiteral("CanGoNext"), hasSong(1)},
                             {QStringLiteral("CanGoPrevious"), hasSong(-1)},
                             {QStringLiteral("CanPlay"), hasSong(0)},
                             {QStringLiteral("CanPause"), hasSong(0)},
                             {QStringLiteral("CanSeek"), hasSong(0)}};
    QVariantMap changed;
    for (auto at = now.begin(); at != now.end(); ++at)
        if (m_told.value(at.key()) != at.value()) changed.insert(at.key(), at.value());
    if (changed.isEmpty() || m_name.isEmpty()) return;
    m_told = now;
    QDBusMessage message = QDBusMessage::createSignal(
        objectPath, QStringLiteral("org.freedesktop.DBus.Properties"), QStringLiteral("PropertiesChanged"));
    message << playerInterface << changed << QStringList();
    QDBusConnection::sessionBus().send(message);
}

} // namespace cobbleway
