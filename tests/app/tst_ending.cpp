/// How the program ends: by a plug-in that fails late, by one that hangs, by the person who closes it. Each
/// program is one of its own, started and looked at from outside. Run by dbus-run-session.
#include "app/drive.h"

#include "files/folders.h"
#include "files/project.h"
#include "files/songfile.h"
#include "song/shape/edits.h"
#include "support/soundserver.h"

#include <QDBusConnection>
#include <QDBusConnectionInterface>
#include <QDBusInterface>
#include <QDBusReply>
#include <csignal>

using namespace support;

namespace {

const QString bus = QStringLiteral("org.mpris.MediaPlayer2.cobbleway");

} // namespace

class TestEnding : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void init();
    void cleanup();
    void aPluginThatFailsTakesNothingAlong_data();
    void aPluginThatFailsTakesNothingAlong();
    void closingEndsWhateverHangs();
    void closingEndsWhileASoundServerHangs();
    void aKilledWindowLeavesItsWork();
    void helpersSeeNothingOfThePerson();
    void helpersEndWithTheirParent();
    void versionAndHelpNeedNoDisplay();

  private:
    void start(const QStringList& words, const QStringList& variables = {});
    bool isOnTheBus() const;
    static bool call(const char* method);
    static QString status();
    QString setWith(const char* kind) const;
    std::unique_ptr<QProcess> m_program;
    std::optional<QTemporaryDir> m_home;
};

void TestEnding::versionAndHelpNeedNoDisplay() {
    for (const char* option : {"--version", "-v", "--help", "-h"}) {
        QProcess program;
        QProcessEnvironment environment = QProcessEnvironment::systemEnvironment();
        environment.insert(QStringLiteral("QT_QPA_PLATFORM"), QStringLiteral("xcb"));
        environment.remove(QStringLiteral("DISPLAY"));
        program.setProcessEnvironment(environment);
        program.start(QStringLiteral(BIN_FOLDER "/cobbleway"), {QString::fromLatin1(option)});
        QVERIFY(program.waitForFinished(scaled(10000)));
        QCOMPARE(program.exitCode(), 0);
        QVERIFY(program.readAllStandardOutput().toLower().contains("cobbleway"));
    }
}

void TestEnding::init() {
    m_home.emplace();
    QVERIFY2(QDBusConnection::sessionBus().isConnected(), "run by dbus-run-session");
    QTRY_VERIFY_WITH_TIMEOUT(!isOnTheBus(), scaled(5000));
}

void TestEnding::cleanup() {
    if (m_program && m_program->state() != QProcess::NotRunning) {
        m_program->kill();
        m_program->waitForFinished(5000);
    }
    m_program.reset();
}

void TestEnding::start(const QStringList& words, const QStringList& variables) {
    m_program = std::make_unique<QProcess>();
    auto environment = QProcessEnvironment::systemEnvironment();
    environment.insert(QStringLiteral("HOME"), m_home->path());
    for (const char* kind : {"STATE", "CONFIG", "CACHE", "DATA"})
        environment.insert(QStringLiteral("XDG_%1_HOME").arg(QLatin1String(kind)),
                           m_home->filePath(QLatin1String(kind)));
    environment.insert(QStringLiteral("COBBLEWAY_LV2_PATH"), QStringLiteral(LATE_PLUGINS));
    environment.insert(QStringLiteral("QT_QPA_PLATFORM"), QStringLiteral("offscreen"));
    for (const QString& variable : variables)
        environment.insert(variable.section(QLatin1Char('='), 0, 0), variable.section(QLatin1Char('='), 1));
    m_program->setProcessEnvironment(environment);
    m_program->setStandardErrorFile(QProcess::nullDevice());
    m_program->start(QStringLiteral(BIN_FOLDER "/cobbleway"), words);
    QVERIFY(m_program->waitForStarted());
    QTRY_VERIFY_WITH_TIMEOUT(isOnTheBus(), scaled(20000));
}

bool TestEnding::isOnTheBus() const {
    return QDBusConnection::sessionBus().interface()->isServiceRegistered(bus);
}

bool TestEnding::call(const char* method) {
    const QString name = QLatin1String(method);
    QDBusInterface root(bus, QStringLiteral("/org/mpris/MediaPlayer2"),
                        name == QLatin1String("Quit") ? QStringLiteral("org.mpris.MediaPlayer2")
                                                      : QStringLiteral("org.mpris.MediaPlayer2.Player"));
    root.setTimeout(scaled(3000));
    return root.call(name).type() != QDBusMessage::ErrorMessage;
}

QString TestEnding::status() {
    QDBusInterface player(bus, QStringLiteral("/org/mpris/MediaPlayer2"),
                          QStringLiteral("org.mpris.MediaPlayer2.Player"));
    return player.property("PlaybackStatus").toString();
}

/// A set whose first part is played by a plug-in of this kind.
QString TestEnding::setWith(const char* kind) const {
    const QString path = m_home->filePath(QStringLiteral("set.cobbleway"));
    Builder b;
    for (int i = 0; i < 60; ++i) b.note(0, i, 0.9, 60);
    SongSet set;
    const std::string uri = std::string("urn:cobbleway:test:") + kind;
    set.songs.emplace_back(
        edits::chooseSound(b.song(), 1, {uri, 0, 0, std::string("Test ") + kind, SoundKind::Plugin, 0}));
    return saveProject(set, path.toStdString()).ok() ? path : QString();
}

void TestEnding::aPluginThatFailsTakesNothingAlong_data() {
    QTest::addColumn<QString>("kind");
    QTest::newRow("it crashes") << QStringLiteral("latecrash");
    QTest::newRow("it ends its process") << QStringLiteral("lateexit");
    QTest::newRow("it hangs") << QStringLiteral("latehang");
}

void TestEnding::aPluginThatFailsTakesNothingAlong() {
    QFETCH(QString, kind);
    start({setWith(qPrintable(kind))});
    QElapsedTimer clock;
    clock.start();
    // Its trial is over before two seconds of sound; then the song plays it, and it fails.
    while (clock.elapsed() < scaled(8000)) {
        QCOMPARE(m_program->state(), QProcess::Running);
        if (status() == QLatin1String("Stopped")) call("Play");
        QTest::qWait(100);
    }
    QCOMPARE(status(), QStringLiteral("Playing"));
    QVERIFY(call("Quit"));
    QVERIFY(m_program->waitForFinished(scaled(4000)));
    QCOMPARE(m_program->exitStatus(), QProcess::NormalExit);
}

/// A plug-in that never comes back keeps nothing.
void TestEnding::closingEndsWhateverHangs() {
    start({setWith("latehang")});
    QElapsedTimer clock;
    clock.start();
    while (clock.elapsed() < scaled(8000)) {
        if (status() == QLatin1String("Stopped")) call("Play");
        QTest::qWait(100);
    }
    QVERIFY(m_program->state() == QProcess::Running);
    clock.start();
    QVERIFY(call("Quit"));
    QVERIFY(m_program->waitForFinished(scaled(2000) + 500));
    QVERIFY2(clock.elapsed() < scaled(2000) + 500, qPrintable(QString::number(clock.elapsed())));
    // Nothing was unsaved: no copy, and no lock.
    QVERIFY(QDir(m_home->filePath(QStringLiteral("STATE/cobbleway/recovery"))).isEmpty());
}

void TestEnding::closingEndsWhileASoundServerHangs() {
    QTemporaryDir folder;
    QProcess server;
    if (!support::startSoundServer(server, folder)) QSKIP("there is no pulseaudio");
    SongSet set;
    set.songs.emplace_back(demoSong("lantern_quay.mid"));
    const QString path = m_home->filePath(QStringLiteral("saved.cobbleway"));
    QVERIFY(saveProject(set, path.toStdString()).ok());
    start({path}, {QStringLiteral("PULSE_SERVER=") + support::soundServerIn(folder)});
    QTRY_VERIFY_WITH_TIMEOUT((call("Play"), status() == QLatin1String("Playing")), scaled(10000));
    ::kill(static_cast<pid_t>(server.processId()), SIGSTOP);
    QTest::qWait(1000);
    QElapsedTimer clock;
    clock.start();
    QVERIFY(call("PlayPause")); // the window answers
    QVERIFY2(clock.elapsed() < scaled(500), qPrintable(QString::number(clock.elapsed())));
    QTest::qWait(3000);
    QVERIFY(call("Quit"));
    clock.start();
    const bool ended = m_program->waitForFinished(scaled(2000) + 500);
    ::kill(static_cast<pid_t>(server.processId()), SIGCONT);
    server.kill();
    server.waitForFinished();
    QVERIFY(ended);
}

void TestEnding::aKilledWindowLeavesItsWork() {
    start({QStringLiteral(DEMO_FOLDER "/lantern_quay.mid")});
    const QDir recovery(m_home->filePath(QStringLiteral("STATE/cobbleway/recovery")));
    QTRY_VERIFY_WITH_TIMEOUT(recovery.entryList({QStringLiteral("*.cobbleway")}).size() == 1, scaled(8000));
    m_program->kill();
    QVERIFY(m_program->waitForFinished());
    const auto copies = recovery.entryInfoList({QStringLiteral("*.cobbleway")});
    QCOMPARE(copies.size(), 1);
    const auto kept = openProject(copies.front().filePath().toStdString());
    QVERIFY(kept.ok() && kept.value().songs.size() == 1);
    for (const QFileInfo& file : recovery.entryInfoList(QDir::Files | QDir::Hidden))
        QVERIFY2(!(file.permissions() & (QFile::ReadGroup | QFile::ReadOther)), qPrintable(file.fileName()));
    for (const char* folder : {"STATE/cobbleway", "STATE/cobbleway/recovery"})
        QCOMPARE(
            static_cast<int>(
                std::filesystem::status(m_home->filePath(QLatin1String(folder)).toStdString()).permissions()),
            0700);
}

/// The helper in a home with a secret: it neither reads that nor leaves anything in it.
void TestEnding::helpersSeeNothingOfThePerson() {
    QProcess asks;
    asks.start(QStringLiteral(PLUGIN_HELPER), {QStringLiteral("confined")});
    QVERIFY(asks.waitForFinished());
    if (asks.readAllStandardOutput() != "landlock\n") QSKIP("this kernel keeps nobody from files");
    QTemporaryDir own;
    const QString secret = m_home->filePath(QStringLiteral("secret"));
    QVERIFY(QFile(secret).open(QIODevice::WriteOnly));
    const auto says = [&](const QStringList& words, const QString& home) {
        QProcess helper;
        auto environment = QProcessEnvironment::systemEnvironment();
        environment.insert(QStringLiteral("HOME"), home);
        environment.insert(QStringLiteral("COBBLEWAY_LV2_PATH"), QStringLiteral(LATE_PLUGINS));
        environment.insert(QStringLiteral("COBBLEWAY_TEST_SECRET"), secret);
        helper.setProcessEnvironment(environment);
        helper.start(QStringLiteral(PLUGIN_HELPER), words);
        helper.waitForFinished(scaled(20000));
        return QString::fromUtf8(helper.readAllStandardOutput()).trimmed().section(QLatin1Char('\n'), -1);
    };
    const QStringList snoops = {QStringLiteral("try"), QStringLiteral("-"), QStringLiteral("--"),
                                QStringLiteral("urn:cobbleway:test:snoop")};
    QCOMPARE(says(snoops, own.path()), QStringLiteral("ok"));
    // What it looks for is there: in a home that is the helper's it finds it.
    QVERIFY(says(snoops, m_home->path()) != QLatin1String("ok"));
    // The font that it is given can be read, also by a link.
    const QString link = m_home->filePath(QStringLiteral("link.sf2"));
    QVERIFY(QFile::link(QStringLiteral(TEST_FONT), link));
    for (const QString& font : {QStringLiteral(TEST_FONT), link})
        QCOMPARE(says({QStringLiteral("font"), font}, own.path()), QStringLiteral("ok"));
    QCOMPARE(QFileInfo(secret).size(), 0);
}

void TestEnding::helpersEndWithTheirParent() {
    QProcess parent; // a shell that starts the helper, and is killed
    auto environment = QProcessEnvironment::systemEnvironment();
    environment.insert(QStringLiteral("COBBLEWAY_LV2_PATH"), QStringLiteral(BAD_PLUGINS));
    parent.setProcessEnvironment(environment);
    parent.start(
        QStringLiteral("/bin/sh"),
        {QStringLiteral("-c"),
         QStringLiteral("COBBLEWAY_PARENT=$$ \"$0\" try - -- urn:cobbleway:test:hang & echo $!; wait"),
         QStringLiteral(PLUGIN_HELPER)});
    QVERIFY(parent.waitForReadyRead());
    const auto helper = static_cast<pid_t>(parent.readAllStandardOutput().trimmed().toInt());
    QVERIFY(helper > 0);
    QTest::qWait(scaled(500));
    QCOMPARE(::kill(helper, 0), 0); // it hangs
    parent.kill();
    parent.waitForFinished();
    QTRY_VERIFY_WITH_TIMEOUT(::kill(helper, 0) != 0, scaled(5000));
}

int main(int count, char** words) {
    QApplication application(count, words);
    TestEnding test;
    return QTest::qExec(&test, count, words);
}
#include "tst_ending.moc"
