/// Devices: a sound server of the test's own, with a sink that swallows all; what tells when one has gone.
#include "sound/render.h"
#include "support/soundserver.h"
#include "support/support.h"

#include "sound/audiooutput.h"
#include "sound/outputdesk.h"
#include "sound/outputwatch.h"
#include "sound/player.h"
#include "sound/ratebridge.h"

#include <csignal>
#include <numbers>
#include <numeric>

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
    void eachDeviceCanBeChosen();
    void aDeviceThatIsAwaitedIsTakenWhenItIsThere();
    void whatIsLostIsLookedForSoon();
    void anotherRateKeepsPitchAndLevel_data();
    void anotherRateKeepsPitchAndLevel();
    void theRateOfJackIsTaken();
    void theDelayIsChosen();
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
    QTRY_VERIFY(inside.load() == 1);
    QVERIFY(!desk.close(0.05) && !desk.isQuiet());
    desk.want("silent", HeldBlocks::Listening); // its thread hangs, and is left
    QElapsedTimer clock;
    clock.start();
    (void)desk.waitUntilOpen();
    QVERIFY(clock.elapsed() < 6000);
    QTest::qWait(100);
    QCOMPARE(most.load(), 1);
    goesOn = true;
    QTRY_VERIFY(inside.load() == 0);
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
    double least = 10; // seconds by which the song was off; the machine may stall in one of the tries
    for (int i = 0; i < 4 && least >= 0.4; ++i) {
        const auto start = std::chrono::steady_clock::now();
        const double from = player.seconds();
        QTest::qWait(2000);
        const double passed = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
        least = std::min(least, std::abs(player.seconds() - from - passed));
    }
    QVERIFY2(least < 0.4, qPrintable(QString::number(least)));
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

namespace {

/// The sink that the only stream plays to, by the server's own tool.
QString sinkOfTheStream() {
    QProcess tool;
    tool.start(QStringLiteral("pactl"),
               {QStringLiteral("list"), QStringLiteral("short"), QStringLiteral("sink-inputs")});
    tool.waitForFinished();
    return QString::fromUtf8(tool.readAllStandardOutput()).section(QLatin1Char('\t'), 1, 1);
}

QStringList idsOf(const std::vector<OutputInfo>& outputs) {
    QStringList ids;
    for (const OutputInfo& output : outputs) ids << QString::fromStdString(output.id);
    return ids;
}

} // namespace

void TestDevices::eachDeviceCanBeChosen() {
    QTemporaryDir folder;
    QProcess server;
    for (const char* variable : {"XDG_RUNTIME_DIR", "PULSE_RUNTIME_PATH"})
        qputenv(variable, folder.path().toLocal8Bit());
    qputenv("PULSE_SERVER", support::soundServerIn(folder).toLocal8Bit());
    const QStringList names = {QStringLiteral("Kitchen"), QStringLiteral("Headphones"),
                               QStringLiteral("Stage")};
    if (!support::startSoundServer(server, folder, names)) QSKIP("there is no pulseaudio");
    QStringList ids;
    QTRY_VERIFY_WITH_TIMEOUT((ids = idsOf(audioDevices())).contains(QStringLiteral("pulse:Headphones")),
                             scaled(5000));
    QCOMPARE(ids.front(), QStringLiteral("auto"));
    QCOMPARE(ids.back(), QStringLiteral("silent"));
    for (const char* id : {"pulse", "pulse:Kitchen", "pulse:Stage"})
        QVERIFY2(ids.contains(QLatin1String(id)), qPrintable(ids.join(QLatin1Char(' '))));
    QCOMPARE(ids.filter(QStringLiteral("Monitor")).size(), 0); // what can only be recorded from
    std::set<QString> sinks;
    for (const char* id : {"pulse:Headphones", "pulse:Kitchen", "pulse:Stage"}) {
        QTRY_VERIFY(sinkOfTheStream().isEmpty()); // the one before has gone
        Player player;
        QVERIFY(player.open(id).ok());
        QVERIFY(!player.isSilent());
        QCOMPARE(player.outputName(), std::string(id).substr(6));
        QTRY_VERIFY(!sinkOfTheStream().isEmpty());
        sinks.insert(sinkOfTheStream());
        if (std::string(id) == "pulse:Headphones") QCOMPARE(sinkOfTheStream(), QStringLiteral("1"));
    }
    QCOMPARE(sinks.size(), std::size_t{3});
    Player player;
    QVERIFY(!player.open("pulse:Attic").ok());
    // The standard device is followed: by the server, which takes what plays there along.
    QVERIFY(player.open("pulse").ok());
    QProcess tool;
    for (const char* sink : {"sink1", "sink0", "sink2"}) {
        tool.start(QStringLiteral("pactl"), {QStringLiteral("set-default-sink"), QLatin1String(sink)});
        QVERIFY(tool.waitForFinished());
        QTRY_COMPARE(sinkOfTheStream(), QString::fromLatin1(sink).right(1));
    }
    server.kill();
    server.waitForFinished();
}

namespace {

/// Outputs that tests plug in and out: each is silent, and there by its id or not.
struct Doors {
    std::atomic<bool> there{false};
    std::atomic<int> asked{0};
    OutputDesk::Open open() {
        return [this](const std::string& id, AudioCallback callback,
                      HeldBlocks held) -> Result<std::unique_ptr<AudioOutput>> {
            if (id == "pulse:Headphones") {
                ++asked;
                if (!there) return Error{{"error.output-open"}, id, {"now.other-output"}};
            }
            return openOutput("silent", std::move(callback), held);
        };
    }
};

} // namespace

/// What was chosen last time and is not plugged in now plays when it is; what is chosen by hand and does not
/// open is given up.
void TestDevices::aDeviceThatIsAwaitedIsTakenWhenItIsThere() {
    for (const bool awaited : {true, false}) {
        Doors doors;
        OutputDesk desk([](float*, int) {}, doors.open());
        desk.want("pulse:Headphones", HeldBlocks::Listening, awaited);
        QVERIFY(!desk.waitUntilOpen().ok());
        QVERIFY(desk.output());
        doors.there = true;
        const bool taken = QTest::qWaitFor([&] { return desk.look() == OutputNews::Back; }, 2500);
        QCOMPARE(taken, awaited);
    }
}

/// Pauses grow, and none is longer than two seconds.
void TestDevices::whatIsLostIsLookedForSoon() {
    Doors doors;
    OutputDesk desk([](float*, int) {}, doors.open());
    desk.want("pulse:Headphones", HeldBlocks::Listening, true);
    QVERIFY(!desk.waitUntilOpen().ok());
    std::vector<double> pauses;
    QElapsedTimer clock;
    clock.start();
    for (int before = doors.asked; pauses.size() < 5 && clock.elapsed() < 20000;) {
        QTest::qWait(5);
        QVERIFY(desk.look() != OutputNews::Failed); // silently
        if (doors.asked == before) continue;
        before = doors.asked;
        pauses.push_back(static_cast<double>(clock.restart()) / 1000);
    }
    QCOMPARE(pauses.size(), std::size_t{5});
    QVERIFY(pauses.front() < 0.7 * scaled(1));
    QVERIFY(pauses.back() > pauses.front() + 0.5);
    for (const double pause : pauses) QVERIFY2(pause < 2 * scaled(1), qPrintable(QString::number(pause)));
}

void TestDevices::anotherRateKeepsPitchAndLevel_data() {
    QTest::addColumn<int>("outRate");
    for (const int outRate : {44100, 48000, 88200, 96000, 32000})
        QTest::newRow(QByteArray::number(outRate)) << outRate;
}

void TestDevices::anotherRateKeepsPitchAndLevel() {
    QFETCH(int, outRate);
    double phase = 0;
    RateBridge bridge(
        [&](float* out, int frames) {
            for (int i = 0; i < frames; ++i) {
                out[2 * i] = static_cast<float>(0.5 * std::sin(phase));
                out[2 * i + 1] = static_cast<float>(0.25 * std::sin(phase));
                phase += 2 * std::numbers::pi * 440 / liveRate;
            }
        },
        outRate);
    QVERIFY(bridge.isThere());
    std::vector<float> left, right, block(2 * 300);
    for (int i = 0; i < 3 * outRate / 300; ++i) {
        bridge.fill(block.data(), 300);
        for (std::size_t f = 0; f < 300; ++f) {
            left.push_back(block[2 * f]);
            right.push_back(block[2 * f + 1]);
        }
    }
    left.erase(left.begin(), left.begin() + outRate / 2);
    right.erase(right.begin(), right.begin() + outRate / 2);
    const double ratio = static_cast<double>(outRate) / support::rate; // the ear takes all for its own rate
    QVERIFY(std::abs(cents(frequencyOf(left, 440 / ratio) * ratio, 440)) < 1);
    const auto level = [](const std::vector<float>& side) {
        const double power = std::transform_reduce(side.begin(), side.end(), 0.0, std::plus<>(),
                                                   [](float x) { return double(x) * x; });
        return std::sqrt(2 * power / static_cast<double>(side.size()));
    };
    QVERIFY(std::abs(20 * std::log10(level(left) / 0.5)) < 0.05);
    QVERIFY(std::abs(20 * std::log10(level(right) / 0.25)) < 0.05);
}

/// A server at 44.1 kHz of the test's own, which plays into nothing. Its clock is none to measure by on a
/// busy machine; what becomes of the sound at that rate is measured above.
void TestDevices::theRateOfJackIsTaken() {
    QProcess server;
    qputenv("JACK_DEFAULT_SERVER", "cobbleway-test");
    qputenv("JACK_NO_START_SERVER", "1");
    server.setStandardOutputFile(QProcess::nullDevice());
    server.setStandardErrorFile(QProcess::nullDevice());
    server.start(QStringLiteral("jackd"),
                 QStringLiteral("-n cobbleway-test -r -d dummy -r 44100 -p 512").split(QLatin1Char(' ')));
    if (!server.waitForStarted()) QSKIP("there is no jackd");
    std::atomic<int> blocks{0}, others{0};
    std::unique_ptr<AudioOutput> output;
    QVERIFY(QTest::qWaitFor(
        [&] {
            auto opened = openOutput("jack", [&](float* out, int frames) {
                std::fill_n(out, 2 * frames, 0.0F);
                ++(frames == liveFrames ? blocks : others); // as the bridge asks, not as the server does
            });
            if (opened) output = std::move(opened.value());
            return output != nullptr;
        },
        scaled(10000)));
    QCOMPARE(output->rate(), 44100);
    QCOMPARE(output->id(), std::string("jack"));
    QVERIFY(!output->name().empty());
    QTRY_VERIFY_WITH_TIMEOUT(blocks > 100, scaled(20000));
    QCOMPARE(others.load(), 0);
    server.kill();
    server.waitForFinished();
    QTRY_VERIFY_WITH_TIMEOUT(output->isGone(), scaled(10000)); // and the program goes on
}

void TestDevices::theDelayIsChosen() {
    const auto blocks = [](const Player& player) {
        return std::lround(player.ahead() * liveRate / liveFrames) + 1;
    };
    Player player;
    player.setHeld(HeldBlocks::Busy); // with no output yet: remembered
    QVERIFY(player.open("silent").ok());
    QCOMPARE(blocks(player), 24);
    const auto opened = [&] {
        return QTest::qWaitFor([&] { return player.tend() == OutputNews::Opened; }, scaled(5000));
    };
    player.setPlayingAlong(true); // what is chosen holds
    QCOMPARE(blocks(player), 24);
    player.setHeld(std::nullopt);
    QVERIFY(opened());
    QCOMPARE(blocks(player), 4);
    player.setPlayingAlong(false);
    QVERIFY(opened());
    QCOMPARE(blocks(player), 12);
    player.setHeld(HeldBlocks::PlayingAlong);
    QVERIFY(opened());
    QCOMPARE(blocks(player), 4);
}

QTEST_GUILESS_MAIN(TestDevices)
#include "tst_devices.moc"
