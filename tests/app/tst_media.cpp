/// Media keys over a real session bus, as a desktop sees them: MPRIS 2.2 (freedesktop.org; names of members
/// from memory). Run by dbus-run-session.
#include "app/drive.h"

#include "app/session/mediacontrol.h"

#include <QDBusConnection>
#include <QDBusInterface>
#include <QDBusObjectPath>
#include <QDBusReply>
#include <QDBusVariant>
#include <QProcess>

using namespace support;

class TestMedia : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void init();
    void cleanup() { m_control.reset(), m.reset(); }
    void playsAndTells();
    void seeksAndChangesPace();
    void nextAndPreviousSong();
    void hostileValuesAreHeld();
    void floodsAreGathered();
    void raisesAndQuits();

  private:
    /// What gdbus, a program of its own, gets or does.
    static QString gdbus(const QStringList& words);
    static QString property(const char* name);
    std::unique_ptr<Driver> m;
    std::unique_ptr<MediaControl> m_control;
    int m_raised = 0, m_quit = 0;
};

void TestMedia::init() {
    m = std::make_unique<Driver>();
    QVERIFY(m->openDemo("lantern_quay.mid"));
    m_control = std::make_unique<MediaControl>(
        m->session(), [this] { ++m_raised; }, [this] { ++m_quit; });
    QVERIFY2(m_control->isOffered(), "there is no session bus: run by dbus-run-session");
    QCOMPARE(m_control->serviceName(), QStringLiteral("org.mpris.MediaPlayer2.cobbleway"));
    QTRY_VERIFY(m->session().planner.isPlanned());
}

QString TestMedia::gdbus(const QStringList& words) {
    QProcess process;
    process.start(QStringLiteral("gdbus"),
                  QStringList{QStringLiteral("call"), QStringLiteral("--session"), QStringLiteral("--dest"),
                              QStringLiteral("org.mpris.MediaPlayer2.cobbleway"),
                              QStringLiteral("--object-path"), QStringLiteral("/org/mpris/MediaPlayer2"),
                              QStringLiteral("--method")} +
                      words);
    if (!QTest::qWaitFor([&] { return process.state() == QProcess::NotRunning; }, scaled(10000)))
        return QStringLiteral("no answer");
    return QString::fromUtf8(process.readAllStandardOutput() + process.readAllStandardError());
}

QString TestMedia::property(const char* name) {
    return gdbus({QStringLiteral("org.freedesktop.DBus.Properties.Get"),
                  QStringLiteral("org.mpris.MediaPlayer2.Player"), QString::fromUtf8(name)});
}

void TestMedia::playsAndTells() {
    QVERIFY2(property("PlaybackStatus").contains(QStringLiteral("'Stopped'")),
             qPrintable(property("PlaybackStatus")));
    QVERIFY(property("Metadata").contains(QStringLiteral("Lantern Quay")));
    QVERIFY(property("CanControl").contains(QStringLiteral("true")));
    gdbus({QStringLiteral("org.mpris.MediaPlayer2.Player.PlayPause")});
    QTRY_VERIFY(m->session().output.player().isPlaying());
    QVERIFY(property("PlaybackStatus").contains(QStringLiteral("'Playing'")));
    gdbus({QStringLiteral("org.mpris.MediaPlayer2.Player.Pause")});
    QVERIFY(!m->session().transport.isPlaying());
    gdbus({QStringLiteral("org.mpris.MediaPlayer2.Player.Pause")}); // a second time it stays
    QVERIFY(!m->session().transport.isPlaying());
    gdbus({QStringLiteral("org.mpris.MediaPlayer2.Player.Play")});
    QTRY_VERIFY(m->session().transport.isPlaying());
    gdbus({QStringLiteral("org.mpris.MediaPlayer2.Player.Stop")});
    QVERIFY(!m->session().transport.isPlaying());
    QTRY_COMPARE(m->session().transport.place(), Tick{0});
}

void TestMedia::seeksAndChangesPace() {
    const double seconds = m->song().seconds();
    QVERIFY(
        property("Metadata").contains(QString::number(static_cast<qlonglong>(std::llround(seconds * 1e6)))));
    gdbus({QStringLiteral("org.mpris.MediaPlayer2.Player.SetPosition"),
           QStringLiteral("/org/cobbleway/song/0"), QStringLiteral("30000000")});
    QTRY_VERIFY(std::abs(static_cast<double>(m_control->position()) / 1e6 - 30) < 0.01);
    gdbus({QStringLiteral("org.mpris.MediaPlayer2.Player.SetPosition"),
           QStringLiteral("/org/cobbleway/song/9"), QStringLiteral("60000000")}); // another's: nothing
    QVERIFY(std::abs(static_cast<double>(m_control->position()) / 1e6 - 30) < 0.01);
    gdbus({QStringLiteral("org.mpris.MediaPlayer2.Player.Seek"), QStringLiteral("5000000")});
    QTRY_VERIFY(std::abs(static_cast<double>(m_control->position()) / 1e6 - 35) < 0.01);
    gdbus({QStringLiteral("org.freedesktop.DBus.Properties.Set"),
           QStringLiteral("org.mpris.MediaPlayer2.Player"), QStringLiteral("Rate"),
           QStringLiteral("<0.75>")});
    QTRY_COMPARE(m->session().transport.pace(), 75);
    QVERIFY(property("Rate").contains(QStringLiteral("0.75")));
}

void TestMedia::nextAndPreviousSong() {
    QVERIFY(property("CanGoNext").contains(QStringLiteral("false")));
    m->session().files.addPaths({QStringLiteral(DEMO_FOLDER "/TIDEMILL.MID")});
    QTRY_COMPARE(m->session().current.set().songs.size(), std::size_t{2});
    m->session().current.showSong(0);
    QVERIFY(property("CanGoNext").contains(QStringLiteral("true")));
    gdbus({QStringLiteral("org.mpris.MediaPlayer2.Player.Next")});
    QTRY_COMPARE(m->session().current.songIndex(), 1);
    QVERIFY(property("Metadata").contains(QStringLiteral("Tide Mill Reel")));
    gdbus({QStringLiteral("org.mpris.MediaPlayer2.Player.Previous")});
    QTRY_COMPARE(m->session().current.songIndex(), 0);
}

/// MPRIS 2.2: SetPosition outside the song does nothing, Seek past its end is Next, Rate is held in range.
void TestMedia::hostileValuesAreHeld() {
    QDBusConnection other =
        QDBusConnection::connectToBus(QDBusConnection::SessionBus, QStringLiteral("other"));
    const auto player = [&](const char* method, const QVariantList& words) {
        QDBusMessage call = QDBusMessage::createMethodCall(
            m_control->serviceName(), QStringLiteral("/org/mpris/MediaPlayer2"),
            QStringLiteral("org.mpris.MediaPlayer2.Player"), QLatin1String(method));
        call.setArguments(words);
        other.send(call);
        QTest::qWait(30); // it comes and is done
    };
    const auto place = [&] { return static_cast<double>(m_control->position()) / 1e6; };
    const QVariant track = QVariant::fromValue(QDBusObjectPath(QStringLiteral("/org/cobbleway/song/0")));
    constexpr qlonglong most = std::numeric_limits<qlonglong>::max(),
                        least = std::numeric_limits<qlonglong>::min();
    player("SetPosition", {track, 10'000'000LL});
    QTRY_VERIFY(std::abs(m->session().output.player().seconds() - 10) < 0.01);
    for (const qlonglong outside : {-1LL, most, least, 176'000'000'000LL}) {
        player("SetPosition", {track, outside});
        QVERIFY2(std::abs(place() - 10) < 0.01, qPrintable(QString::number(outside)));
    }
    player("Seek", {least});
    QTRY_COMPARE(place(), 0.0);
    player("Play", {});
    QTRY_VERIFY(m->session().transport.isPlaying());
    player("Seek", {most}); // there is no next song: it ends
    QTRY_VERIFY(!m->session().transport.isPlaying());
    for (const auto& [rate, pace] : std::initializer_list<std::pair<const char*, int>>{
             {"<1e308>", 200}, {"<1e-300>", 25}, {"<1.0>", 100}, {"<-1e308>", 100}, {"<0.0>", 100}}) {
        gdbus({QStringLiteral("org.freedesktop.DBus.Properties.Set"),
               QStringLiteral("org.mpris.MediaPlayer2.Player"), QStringLiteral("Rate"),
               QString::fromLatin1(rate)});
        QTRY_COMPARE(m->session().transport.pace(), pace);
    }
    QDBusConnection::disconnectFromBus(QStringLiteral("other"));
}

/// Ten thousand calls come to a few changes, and the window is held by none of them.
void TestMedia::floodsAreGathered() {
    QSignalSpy sought(&m->session().transport, &Transport::sought);
    QDBusConnection other =
        QDBusConnection::connectToBus(QDBusConnection::SessionBus, QStringLiteral("flood"));
    QElapsedTimer clock;
    clock.start();
    for (int i = 0; i < 10'000; ++i) {
        QDBusMessage call = QDBusMessage::createMethodCall(
            m_control->serviceName(), QStringLiteral("/org/mpris/MediaPlayer2"),
            QStringLiteral("org.mpris.MediaPlayer2.Player"), QStringLiteral("SetPosition"));
        call << QVariant::fromValue(QDBusObjectPath(QStringLiteral("/org/cobbleway/song/0")))
             << qlonglong(i) * 10'000;
        other.send(call);
    }
    QTRY_VERIFY_WITH_TIMEOUT(std::abs(m->session().output.player().seconds() - 99.99) < 0.01, scaled(20000));
    QVERIFY2(sought.size() < 1000, qPrintable(QString::number(sought.size())));
    QDBusConnection::disconnectFromBus(QStringLiteral("flood"));
}

void TestMedia::raisesAndQuits() {
    gdbus({QStringLiteral("org.mpris.MediaPlayer2.Raise")});
    gdbus({QStringLiteral("org.mpris.MediaPlayer2.Quit")});
    QTRY_COMPARE(m_raised, 1);
    QTRY_COMPARE(m_quit, 1);
    const QString identity = gdbus({QStringLiteral("org.freedesktop.DBus.Properties.Get"),
                                    QStringLiteral("org.mpris.MediaPlayer2"), QStringLiteral("Identity")});
    QVERIFY(identity.contains(QStringLiteral("Cobbleway")));
}

QTEST_MAIN(TestMedia)
#include "tst_media.moc"
