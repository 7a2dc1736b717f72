/// Devices: a sound server of the test's own, with a sink that swallows all; what tells when one has gone.
#include "sound/render.h"
#include "support/soundserver.h"
#include "support/support.h"

#include "sound/audiooutput.h"
#include "sound/outputdesk.h"
#include "sound/outputwatch.h"
#include "sound/player.h"

#include <csignal>

using namespace support;

class TestDevices : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void aDeviceIsThereWhileItAsksAtItsPace();
    void aDeviceThatAsksForNothingHasGone();
    void aDeviceThatAsksForTooMuchHasGone();
    void theSilentOutputCountsGaps();
    void whatIsHeldBridgesAStall();
    void lessIsHeldForPlayingAlong();
    void aServerThatHangsIsDoneWithout();
    void anOutputThatIsSlowIsTakenLater();
    void aCallbackThatHangsIsSeen();
    void aSoundServerIsPlayedTo();
};

void TestDevices::aDeviceIsThereWhileItAsksAtItsPace() {
    for (const double drift : {0.995, 1.0, 1.005}) { // clocks of cheap devices
        OutputWatch watch(48000, 100);
        for (int i = 0; i < 40; ++i) QVERIFY(watch.asked(256, 100)); // fills its buffers: 0.2 s
        double now = 100;
        for (int i = 0; i < 60000; ++i) { // five minutes
            now += drift * 256 / 48000;
            QVERIFY(watch.asked(256, now));
            QVERIFY(!watch.isGone(now + 0.5));
        }
    }
}

void TestDevices::aDeviceThatAsksForNothingHasGone() {
    OutputWatch watch(48000, 100);
    QVERIFY(!watch.isGone(101.9));
    QVERIFY(watch.isGone(102.1));
    QVERIFY(watch.asked(256, 102.2));
    QVERIFY(!watch.isGone(103));
    QVERIFY(watch.isGone(104.3));
}

void TestDevices::aDeviceThatAsksForTooMuchHasGone() {
    OutputWatch watch(48000, 100);
    double now = 100;
    for (int i = 0; i < 3000; ++i) QVERIFY(watch.asked(256, now += 256 / 48000.0));
    int more = 0;
    while (watch.asked(256, now)) ++more;
    QVERIFY2(more * 256 <= 48000 / 2 + 256, qPrintable(QString::number(more)));
    QVERIFY(watch.isGone(now));
    QVERIFY(!watch.asked(256, now + 60)); // for good
}

void TestDevices::theSilentOutputCountsGaps() {
    std::atomic<int> calls{0};
    std::atomic<bool> slow{false};
    const auto output = openOutput("silent", [&](float*, int) {
        ++calls;
        if (slow.exchange(false)) std::this_thread::sleep_for(std::chrono::milliseconds(200));
    });
    QVERIFY(output.ok());
    QTRY_VERIFY(calls > 40);
    const long before = output.value()->gaps();
    slow = true;
    QTRY_VERIFY(output.value()->gaps() > before);
    QVERIFY(!output.value()->isGone());
    // It does not hurry after what is past: no more blocks than the time has, and a few that are held.
    using Clock = std::chrono::steady_clock;
    const auto start = Clock::now();
    const int from = calls;
    std::this_thread::sleep_for(std::chrono::milliseconds(500));
    const int made = calls - from;
    const double passed = std::chrono::duration<double>(Clock::now() - start).count();
    QVERIFY2(made <= passed * liveRate / liveFrames + 2 * int(HeldBlocks::Listening),
             qPrintable(QString::number(made)));
}

void TestDevices::whatIsHeldBridgesAStall() {
    // 40 ms: less than eleven blocks last, more than three. Whatever else the machine does may add gaps, so
    // the best of several tries counts.
    const auto gapsOf = [](HeldBlocks held) {
        std::atomic<int> calls{0};
        const auto output = openOutput(
            "silent",
            [&](float*, int) {
                if (++calls == 40) std::this_thread::sleep_for(std::chrono::milliseconds(40));
            },
            held);
        (void)QTest::qWaitFor([&] { return calls > 60; });
        return output.value()->gaps();
    };
    const auto fewest = [&](HeldBlocks held) {
        long least = 1000;
        for (int i = 0; i < 8 && least > 0; ++i) least = std::min(least, gapsOf(held));
        return least;
    };
    QCOMPARE(fewest(HeldBlocks::Listening), 0);
    QVERIFY(fewest(HeldBlocks::PlayingAlong) > 0);
}

void TestDevices::lessIsHeldForPlayingAlong() {
    Player player;
    player.setPlayingAlong(true); // with no output yet: remembered
    QVERIFY(player.isPlayingAlong());
    QCOMPARE(player.ahead(), 0.0);
    QVERIFY(player.open("silent").ok());
    QVERIFY(std::abs(player.ahead() - 3.0 * liveFrames / liveRate) < 1e-9);
    player.setPlayingAlong(false);
    QVERIFY(QTest::qWaitFor([&] { return player.tend() == OutputNews::Opened; },
                            scaled(5000))); // beside the caller
    QVERIFY(player.isSilent());
    QVERIFY(std::abs(player.ahead() - 11.0 * liveFrames / liveRate) < 1e-9);
    // What is tried must be heard within a tenth of a second, with a block's wait before it.
    QVERIFY(player.ahead() + 2.0 * liveFrames / liveRate < 0.08);
    // One that does not open leaves the other as it was.
    QVERIFY(!player.open("no such output"));
    QVERIFY(player.isSilent());
    QVERIFY(std::abs(player.ahead() - 11.0 * liveFrames / liveRate) < 1e-9);
}

namespace {

/// One that this program plays to.
bool startServer(QProcess& server, const QTemporaryDir& folder) {
    for (const char* variable : {"XDG_RUNTIME_DIR", "PULSE_RUNTIME_PATH"})
        qputenv(variable, folder.path().toLocal8Bit());
    qputenv("PULSE_SERVER", support::soundServerIn(folder).toLocal8Bit());
    return support::startSoundServer(server, folder);
}

} // namespace

/// A server that stops in the middle of a song (SIGSTOP), goes on, ends and comes back: whoever asks never
/// waits, the song goes on, and what answers again is played to.
void TestDevices::aServerThatHangsIsDoneWithout() {
    QTemporaryDir folder;
    QProcess server;
    if (!startServer(server, folder)) QSKIP("there is no pulseaudio");
    const Song song = Builder().program(0, 0, 0).note(0, 0, 120, 69).song();
    InstrumentBank bank(liveRate, {.slotStep = 16, .live = true, .pluginBundle = {}});
    Player player;
    QVERIFY(QTest::qWaitFor([&] { return player.open("pulse").ok(); }, scaled(5000)));
    player.setPlan(makePlan(song, testFont(), matchSong(song, testFont()), bank));
    player.play();
    QTRY_VERIFY_WITH_TIMEOUT(player.seconds() > 0.3, scaled(20000));
    qint64 longest = 0; // that a call took, in milliseconds
    std::vector<OutputNews> news;
    const auto tend = [&] { // as the window does
        QElapsedTimer clock;
        clock.start();
        if (const auto now = player.tend(); now != OutputNews::None) news.push_back(now);
        if (player.outputIsGone()) player.replaceOutput();
        player.seek(player.seconds());
        longest = std::max(longest, clock.elapsed());
    };
    const auto until = [&](auto isSo, int milliseconds) {
        return QTest::qWaitFor([&] { return tend(), isSo(); }, milliseconds);
    };
    const auto plays = [&] {
        const double from = player.seconds();
        return until([&] { return player.seconds() > from + 0.5; }, 10000);
    };
    const auto told = [&](OutputNews one) { return std::find(news.begin(), news.end(), one) != news.end(); };
    ::kill(static_cast<pid_t>(server.processId()), SIGSTOP);
    QVERIFY(until([&] { return told(OutputNews::Hung); }, 15000));
    QVERIFY(player.isSilent() && plays());
    ::kill(static_cast<pid_t>(server.processId()), SIGCONT);
    QVERIFY(until([&] { return told(OutputNews::Back); }, 15000));
    QVERIFY(!player.isSilent() && plays());
    news.clear();
    server.kill();
    QVERIFY(server.waitForFinished());
    QVERIFY(until([&] { return player.isSilent(); }, 15000));
    QVERIFY(plays());
    if (!startServer(server, folder)) QSKIP("pulseaudio did not start again");
    QVERIFY(until([&] { return told(OutputNews::Back); }, 20000));
    QVERIFY(!player.isSilent() && plays());
    QVERIFY2(longest < scaled(50), qPrintable(QString::number(longest)));
    server.kill();
    server.waitForFinished();
}

/// An output that takes for ever to open is waited for two seconds, and is taken when it is there at last.
void TestDevices::anOutputThatIsSlowIsTakenLater() {
    std::atomic<bool> answers{false};
    std::atomic<int> calls{0};
    OutputDesk desk([&](float*, int) { ++calls; },
                    [&](const std::string& id, AudioCallback callback, HeldBlocks held) {
                        while (id == "slow" && !answers)
                            std::this_thread::sleep_for(std::chrono::milliseconds(5));
                        return openOutput("silent", std::move(callback), held);
                    });
    desk.want("slow", HeldBlocks::Listening);
    QVERIFY(desk.isOpening() && !desk.output());
    QElapsedTimer clock;
    clock.start();
    const auto opened = desk.waitUntilOpen();
    QVERIFY(!opened.ok() && clock.elapsed() > 1900 && clock.elapsed() < 6000);
    QVERIFY(desk.output() && desk.output()->isSilent()); // plays meanwhile
    QTRY_VERIFY(calls > 5);
    // Another is wanted, and opens although the first still hangs.
    desk.want("silent", HeldBlocks::Listening);
    QVERIFY(desk.waitUntilOpen().ok());
    answers = true;
    // Never do two call at a time.
    const int before = calls;
    QTest::qWait(300);
    const int made = calls - before;
    QVERIFY2(made < 2 * 0.3 * liveRate / liveFrames, qPrintable(QString::number(made)));
}

/// What the callback calls may hang: then nobody waits for it, and no other output is let in.
void TestDevices::aCallbackThatHangsIsSeen() {
    std::atomic<bool> goesOn{false};
    std::atomic<int> inside{0}, most{0};
    OutputDesk desk([&](float*, int) {
        most = std::max(most.load(), ++inside);
        while (!goesOn) std::this_thread::sleep_for(std::chrono::milliseconds(2));
        --inside;
    });
    desk.want("silent", HeldBlocks::Listening);
    QVERIFY(desk.waitUntilOpen().ok());
    QTRY_VERIFY(desk.isStuckFor(0.2));
    QVERIFY(!desk.close(0.05) && !desk.isQuiet());
    desk.want("silent", HeldBlocks::Listening); // its thread hangs, and is left
    QElapsedTimer clock;
    clock.start();
    (void)desk.waitUntilOpen();
    QVERIFY(clock.elapsed() < 6000);
    QTest::qWait(100);
    QCOMPARE(most.load(), 1);
    goesOn = true;
    QTRY_VERIFY(!desk.isStuckFor(0.2));
}

void TestDevices::aSoundServerIsPlayedTo() {
    QTemporaryDir folder;
    QProcess server;
    if (!startServer(server, folder)) QSKIP("there is no pulseaudio");
    Song song = Builder().program(0, 0, 0).note(0, 0, 60, 69).song();
    InstrumentBank bank(liveRate, {.slotStep = 16, .live = true, .pluginBundle = {}});
    Player player;
    QVERIFY(QTest::qWaitFor([&] { return player.open("pulse").ok(); }, scaled(5000)));
    QVERIFY(!player.isSilent());
    player.setPlan(makePlan(song, testFont(), matchSong(song, testFont()), bank));
    player.play();
    // The sink has rendered some silence ahead; from then on a second lasts a second.
    QTRY_VERIFY_WITH_TIMEOUT(player.seconds() > 0.5, scaled(20000));
    const auto start = std::chrono::steady_clock::now();
    const double from = player.seconds();
    QTest::qWait(2000);
    const double passed = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
    QVERIFY2(std::abs(player.seconds() - from - passed) < 0.4,
             qPrintable(QString::number(player.seconds() - from)));
    QVERIFY(player.outputPeak(0) > 0.01);
    QVERIFY(!player.outputIsGone());
    // Held as asked for; changed while it plays, the song goes on from its place.
    QVERIFY(player.ahead() > 0.03 && player.ahead() < 0.08);
    player.setPlayingAlong(true);
    QVERIFY(QTest::qWaitFor([&] { return player.tend() == OutputNews::Opened; }, scaled(5000)));
    QVERIFY(!player.isSilent());
    QVERIFY(player.ahead() < 0.03);
    const double changed = player.seconds();
    QTRY_VERIFY(player.seconds() > changed + 0.3);
    // Its server ends: the song does not run away, and the next output takes over.
    server.kill();
    QVERIFY(server.waitForFinished());
    const double at = player.seconds();
    QTRY_VERIFY(player.outputIsGone());
    QVERIFY2(player.seconds() - at < 1, qPrintable(QString::number(player.seconds() - at)));
    QVERIFY(player.open("auto").ok());
    QVERIFY(player.isSilent());
    QTRY_VERIFY(player.seconds() > at + 1.2);
}

QTEST_GUILESS_MAIN(TestDevices)
#include "tst_devices.moc"
