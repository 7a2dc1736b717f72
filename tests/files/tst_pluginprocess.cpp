/// Plug-ins in processes of their own: they sound as they would here, to the bit, and when one crashes, ends
/// or hangs nothing else is heard to change.
#include "support/support.h"

#include "files/pluginhost.h"
#include "song/shape/edits.h"
#include "sound/pluginwire.h"
#include "sound/render.h"

#include <chrono>
#include <csignal>
#include <filesystem>
#include <fstream>
#include <sys/socket.h>
#include <thread>

using namespace support;

namespace {

const std::string reed = "https://cobbleway.example/plugins#quayreed";
const std::string evener = "https://cobbleway.example/plugins#evener";
const std::string tilt = "https://cobbleway.example/plugins#tilt";

std::shared_ptr<PluginHost> host() {
    return std::make_shared<PluginHost>(PLUGIN_HELPER, SHIPPED_PLUGINS, std::vector<std::filesystem::path>{});
}

struct Stereo {
    std::vector<float> left, right;
    bool operator==(const Stereo&) const = default;
};

/// Two seconds of a plug-in: notes, a bend, a control that moves; what goes in is a saw.
Stereo played(PluginUnit& unit, const std::string& control, float to) {
    Stereo sound;
    int at = 0;
    for (int step = 0; step < 400; ++step) {
        const int frames = step % 3 == 0 ? 512 : 64;
        if (step == 2) unit.event(0x90, 57, 110);
        if (step == 30) unit.event(0xE0, 0, 90);
        if (step == 90) unit.setControl(control, to);
        if (step == 200) unit.event(0x80, 57, 64);
        std::vector<float> left(static_cast<std::size_t>(frames)), right(left.size());
        for (int f = 0; f < frames; ++f, ++at)
            left[static_cast<std::size_t>(f)] = right[static_cast<std::size_t>(f)] =
                static_cast<float>(at % 200) / 400.0F;
        unit.run(left.data(), right.data(), frames);
        sound.left.insert(sound.left.end(), left.begin(), left.end());
        sound.right.insert(sound.right.end(), right.begin(), right.end());
    }
    return sound;
}

float peakOf(const std::vector<float>& sound, std::size_t from, std::size_t to) {
    float most = 0;
    for (std::size_t i = from; i < std::min(to, sound.size()); ++i) most = std::max(most, std::abs(sound[i]));
    return most;
}

/// Processes of the helper that this one has started, and theirs.
std::vector<int> helpers() {
    std::vector<int> found;
    for (const auto& entry : std::filesystem::directory_iterator("/proc")) {
        std::string name;
        std::getline(std::ifstream(entry.path() / "cmdline"), name, '\0');
        std::ifstream environment(entry.path() / "environ", std::ios::binary);
        const std::string variables((std::istreambuf_iterator<char>(environment)), {});
        if (name == PLUGIN_HELPER &&
            variables.find("COBBLEWAY_PARENT=" + std::to_string(getpid())) != std::string::npos)
            found.push_back(std::stoi(entry.path().filename()));
    }
    return found;
}

} // namespace

class TestPluginProcess : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void soundsAsItWouldHere_data();
    void soundsAsItWouldHere();
    void oneThatMakesItsSoundIsWaitedFor();
    void whatIsKeptComesBack();
    void aSongSoundsAsItWouldHere();
    void oneThatGoesWrongTakesNothingAlong_data();
    void oneThatGoesWrongTakesNothingAlong();
    void liveNobodyWaitsForOneThatHangs();
    void aHelperThatIsKilledIsStartedAgain();
    void oneOutlivesTheThreadThatLoadedIt();
    void whatCannotBeLoadedIsTold();
    void nothingIsLeftBehind();
    void messagesAreReadWithinTheirBytes();
};

void TestPluginProcess::soundsAsItWouldHere_data() {
    QTest::addColumn<QString>("uri");
    QTest::addColumn<QString>("control");
    QTest::newRow("instrument") << QString::fromStdString(reed) << QStringLiteral("brightness");
    QTest::newRow("compressor") << QString::fromStdString(evener) << QStringLiteral("threshold");
    QTest::newRow("tone control") << QString::fromStdString(tilt) << QStringLiteral("tilt");
    QTest::newRow("piano (Debian mda-lv2)")
        << QStringLiteral("http://drobilla.net/plugins/mda/Piano") << QStringLiteral("hard");
    QTest::newRow("delay (Debian mda-lv2)")
        << QStringLiteral("http://drobilla.net/plugins/mda/Delay") << QStringLiteral("fb");
}

void TestPluginProcess::soundsAsItWouldHere() {
    QFETCH(QString, uri);
    QFETCH(QString, control);
    PluginWorld here(SHIPPED_PLUGINS);
    if (here.library(uri.toStdString()).empty()) QSKIP("this plug-in is not installed");
    const auto there = host();
    for (const bool offline : {true, false}) {
        auto expected = here.load(uri.toStdString(), {}, rate, offline);
        auto got = there->load(uri.toStdString(), {}, rate, offline);
        QVERIFY(expected && got);
        QCOMPARE(got.value()->latency(), expected.value()->latency());
        const Stereo sound = played(*expected.value(), control.toStdString(), 0.3F);
        QVERIFY(peakOf(sound.left, 0, sound.left.size()) > 0.01F);
        const Stereo other = played(*got.value(), control.toStdString(), 0.3F);
        if (offline) QVERIFY(other == sound); // live a busy computer may pass over moments
        QVERIFY(got.value()->settings() == expected.value()->settings());
    }
}

/// One that is given time to make what it plays gives no numbers that are no sound at its start.
void TestPluginProcess::oneThatMakesItsSoundIsWaitedFor() {
    const QByteArray path = qgetenv("COBBLEWAY_LV2_PATH");
    qputenv("COBBLEWAY_LV2_PATH", LATE_PLUGINS);
    const auto there = host();
    for (const bool offline : {true, false}) {
        const auto unit = there->load("urn:cobbleway:test:lateready", {}, rate, offline);
        QVERIFY(unit.ok());
        std::array<float, maxFrames> left{}, right{};
        unit.value()->run(left.data(), right.data(), maxFrames);
        QCOMPARE(left[0], 0.25F);
        QCOMPARE(unit.value()->fault(), PluginFault::None);
    }
    qputenv("COBBLEWAY_LV2_PATH", path);
}

void TestPluginProcess::whatIsKeptComesBack() {
    const auto there = host();
    PluginSettings settings;
    settings.controls = {{"brightness", 0.2F}, {"detune", 30}};
    auto unit = there->load(reed, settings, rate, true);
    QVERIFY(unit);
    QVERIFY(unit.value()->settings().controls == settings.controls);
    const PluginSettings kept = unit.value()->settings();
    auto again = there->load(reed, kept, rate, true);
    QVERIFY(again && again.value()->settings() == kept);
    QVERIFY(played(*again.value(), "attack", 100) == played(*unit.value(), "attack", 100));
    // What settings do not name goes to what it started with.
    again.value()->setControls({});
    std::array<float, blockFrames> left{}, right{};
    again.value()->run(left.data(), right.data(), blockFrames);
    QVERIFY(again.value()->settings().controls.empty());
}

void TestPluginProcess::aSongSoundsAsItWouldHere() {
    PluginWorld world(SHIPPED_PLUGINS);
    const Catalogue all = testFont().withPlugins(world.usable(), {});
    Song song = demoSong("lantern_quay.mid");
    song = edits::chooseSound(song, 2, {reed, 0, 0, "Reed", SoundKind::Plugin, 0});
    song = edits::setEffects(song, 3, {{tilt, "Tilt", {}, true}, {evener, "Evener", {}, true}});
    song = edits::setEffects(song, 0, {{evener, "Evener", {}, true}});
    song.end = std::min<Tick>(song.end, 480 * 16);
    BankOptions inside{.slotStep = 1, .live = false, .pluginBundle = SHIPPED_PLUGINS};
    BankOptions outside = inside;
    outside.makePlugins = [](const auto&) { return host(); };
    const auto sound = renderToMemory(song, all, rate, {}, outside);
    QVERIFY(peakOf(sound, 0, sound.size()) > 0.02F);
    QVERIFY(sound == renderToMemory(song, all, rate, {}, inside));
}

void TestPluginProcess::oneThatGoesWrongTakesNothingAlong_data() {
    QTest::addColumn<QString>("how");
    for (const char* how : {"latecrash", "lateexit", "latehang"})
        QTest::newRow(how) << QString::fromUtf8(how);
}

/// Each is well for two seconds.
void TestPluginProcess::oneThatGoesWrongTakesNothingAlong() {
    QFETCH(QString, how);
    const QByteArray path = qgetenv("COBBLEWAY_LV2_PATH");
    qputenv("COBBLEWAY_LV2_PATH", LATE_PLUGINS);
    const auto there = host();
    const bool live = how == QLatin1String("latehang"); // offline two minutes would be waited for
    auto unit = there->load("urn:cobbleway:test:" + how.toStdString(), {}, 48000, !live);
    auto other = there->load(reed, {}, 48000, true);
    qputenv("COBBLEWAY_LV2_PATH", path);
    QVERIFY2(unit.ok(), unit ? "" : unit.error().message().c_str());
    QVERIFY(other);
    other.value()->event(0x90, 60, 100);
    std::vector<float> sound, others;
    for (int block = 0; block < 6 * 48000 / maxFrames; ++block) {
        std::array<float, maxFrames> left{}, right{}, otherLeft{}, otherRight{};
        unit.value()->run(left.data(), right.data(), maxFrames);
        other.value()->run(otherLeft.data(), otherRight.data(), maxFrames);
        sound.insert(sound.end(), left.begin(), left.end());
        others.insert(others.end(), otherLeft.begin(), otherLeft.end());
        if (live && unit.value()->fault() == PluginFault::None) QTest::qSleep(1); // about as it is played
    }
    QVERIFY(peakOf(sound, 48000, 90000) > 0.01F);
    QCOMPARE(peakOf(sound, 110000, sound.size()), 0.0F);
    QCOMPARE(unit.value()->fault(), PluginFault::Ended);
    // It fades: from the last value that it gave no step is larger than one of its own.
    const auto last = std::find_if(sound.rbegin(), sound.rend(), [](float value) { return value != 0; });
    QVERIFY(std::abs(*last) < 0.002F);
    QVERIFY(peakOf(others, others.size() - 48000, others.size()) > 0.01F);
    QCOMPARE(other.value()->fault(), PluginFault::None);
    // It can be started again, and is well again at first.
    qputenv("COBBLEWAY_LV2_PATH", LATE_PLUGINS);
    auto again = there->load("urn:cobbleway:test:" + how.toStdString(), {}, 48000, true);
    qputenv("COBBLEWAY_LV2_PATH", path);
    QVERIFY(again);
    std::array<float, maxFrames> left{}, right{};
    again.value()->run(left.data(), right.data(), maxFrames);
    QVERIFY(left[100] != 0);
}

void TestPluginProcess::liveNobodyWaitsForOneThatHangs() {
    QTRY_VERIFY(helpers().empty()); // of the test before
    const auto there = host();
    auto unit = there->load(reed, {}, 48000, false);
    QVERIFY(unit);
    const auto processes = helpers();
    QCOMPARE(processes.size(), std::size_t{2});
    for (const int process : processes) kill(process, SIGSTOP);
    const auto start = std::chrono::steady_clock::now();
    std::array<float, maxFrames> left{}, right{};
    for (int block = 0; block < 300; ++block) unit.value()->run(left.data(), right.data(), maxFrames);
    const std::chrono::duration<double> took = std::chrono::steady_clock::now() - start;
    QVERIFY2(took.count() < scaled(1000) / 1000.0, qPrintable(QString::number(took.count())));
    QCOMPARE(unit.value()->fault(), PluginFault::Ended); // 3.2 seconds of sound are owed
    for (const int process : processes) kill(process, SIGCONT);
}

void TestPluginProcess::aHelperThatIsKilledIsStartedAgain() {
    const auto there = host();
    auto unit = there->load(reed, {}, rate, true);
    QVERIFY(unit);
    for (const int process : helpers()) kill(process, SIGKILL);
    std::array<float, maxFrames> left{}, right{};
    unit.value()->run(left.data(), right.data(), maxFrames);
    QCOMPARE(unit.value()->fault(), PluginFault::Ended);
    QCOMPARE(unit.value()->settings(), PluginSettings{}); // as it was loaded
    auto again = there->load(reed, {}, rate, true);
    QVERIFY(again);
    again.value()->event(0x90, 60, 100);
    for (int block = 0; block < 20; ++block) again.value()->run(left.data(), right.data(), maxFrames);
    QVERIFY(left[0] != 0);
    QCOMPARE(again.value()->fault(), PluginFault::None);
}

void TestPluginProcess::oneOutlivesTheThreadThatLoadedIt() {
    const auto there = host();
    std::unique_ptr<PluginUnit> unit;
    std::thread([&] {
        if (auto loaded = there->load(reed, {}, rate, true)) unit = std::move(loaded.value());
    }).join();
    QVERIFY(unit);
    QTest::qWait(200); // whatever ends with the thread has ended
    unit->event(0x90, 60, 100);
    std::array<float, maxFrames> left{}, right{};
    for (int block = 0; block < 20; ++block) unit->run(left.data(), right.data(), maxFrames);
    QCOMPARE(unit->fault(), PluginFault::None);
    QVERIFY(left[0] != 0);
}

void TestPluginProcess::whatCannotBeLoadedIsTold() {
    QVERIFY(!host()->load("urn:no:such:plug-in", {}, rate, true));
    const PluginHost none("/no/such/program", {}, {});
    const auto refused = PluginHost("/bin/true", {}, {}).load(reed, {}, rate, true);
    QVERIFY(!refused);
    QCOMPARE(refused.error().what.id, std::string("error.plugin-process"));
    const QByteArray path = qgetenv("COBBLEWAY_LV2_PATH");
    qputenv("COBBLEWAY_LV2_PATH", BAD_PLUGINS);
    const auto there = host();
    const auto crashed = there->load("urn:cobbleway:test:crash", {}, rate, true);
    QVERIFY(!crashed);
    QCOMPARE(crashed.error().what.id, std::string("error.plugin-ended-loading"));
    QVERIFY(!there->load("urn:cobbleway:test:refuse", {}, rate, true));
    QVERIFY(there->load(reed, {}, rate, true));
    qputenv("COBBLEWAY_LV2_PATH", path);
}

void TestPluginProcess::nothingIsLeftBehind() {
    const auto descriptors = [] {
        return std::distance(std::filesystem::directory_iterator("/proc/self/fd"), {});
    };
    QTRY_VERIFY(helpers().empty());
    const auto before = descriptors();
    {
        const auto there = host();
        auto one = there->load(reed, {}, rate, true), other = there->load(tilt, {}, rate, true);
        QVERIFY(one && other);
        QCOMPARE(helpers().size(), std::size_t{3}); // the helper and one for each
    }
    QTRY_VERIFY(helpers().empty());
    QCOMPARE(descriptors(), before);
}

void TestPluginProcess::messagesAreReadWithinTheirBytes() {
    PluginSettings settings;
    settings.preset = "urn:a";
    settings.state = std::string(1000, 's');
    settings.controls = {{"one", 1.5F}, {"two", -3}};
    settings.files = {{"urn:sample", "/samples/kick.wav"}};
    WireMessage message;
    message.put(settings);
    message.put(std::uint32_t{7});
    WireMessage whole(message.bytes());
    QVERIFY(whole.settings() == settings && whole.number() == 7 && whole.good());
    (void)whole.number();
    QVERIFY(!whole.good());
    for (std::size_t length = 0; length < message.bytes().size() - 4; ++length) {
        WireMessage cut(message.bytes().substr(0, length));
        (void)cut.settings();
        QVERIFY(!cut.good());
    }
    int ends[2];
    QVERIFY(socketpair(AF_UNIX, SOCK_STREAM, 0, ends) == 0);
    QVERIFY(!receiveMessage(ends[0], 0.01)); // nobody says anything
    QVERIFY(sendMessage(ends[1], message));
    QCOMPARE(receiveMessage(ends[0], 1)->bytes(), message.bytes());
    const std::uint32_t tooLong = 0xFFFFFFFF;
    QVERIFY(write(ends[1], &tooLong, 4) == 4);
    QVERIFY(!receiveMessage(ends[0], 1));
    close(ends[1]);
    QVERIFY(!receiveMessage(ends[0], -1)); // the other side has ended
    QVERIFY(!sendMessage(ends[0], message));
    close(ends[0]);
}

QTEST_GUILESS_MAIN(TestPluginProcess)
#include "tst_pluginprocess.moc"
