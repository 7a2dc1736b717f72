/// The music's time, as plug-ins are told it (LV2 time): worked values, and a plug-in that ticks to it.
#include "sound/render.h"
#include "support/support.h"

#include "files/pluginhost.h"
#include "song/shape/edits.h"
#include "sound/player.h"

#include <cmath>

using namespace support;

namespace {

const std::string ticking = "urn:cobbleway:test:ticking", tickingEffect = "urn:cobbleway:test:ticking-effect";

/// Metres and tempos that change, also within a bar; 16 s.
TempoMap changing() {
    return {Division{480},
            {{0, 500000}, {480 * 6, 400000}, {480 * 11, 750000}, {480 * 20, 333333}},
            {{0, 4, 4}, {480 * 8, 6, 8}, {480 * 14, 7, 8}, {480 * 17, 3, 4}}};
}

/// A song of that time which the ticking plug-in plays, or, an effect, is put on its part or its mix.
Song tickingSong(const std::string& place) {
    Song song = Builder().program(0, 0, 0).note(0, 0, 14, 60).song();
    song.tempo = changing();
    song.end = 480 * 30;
    song.room = 0;
    if (place == "instrument")
        return edits::chooseSound(song, 1, {ticking, 0, 0, "Ticking", SoundKind::Plugin, 0});
    return edits::setEffects(song, place == "mix" ? 0 : 1, {{tickingEffect, "Ticking", {}, true}});
}

const Catalogue& catalogue() {
    static const Catalogue all = testFont().withPlugins(
        {{ticking, "Ticking", "", true}, {tickingEffect, "Ticking effect", "", false}}, {});
    return all;
}

struct Tock {
    double seconds;
    bool bar;
};

/// What the plug-in gave: its ticks, and how often it was told something.
struct Heard {
    std::vector<Tock> ticks;
    int told = 0;
};

/// From one channel of what a mix holds: its levels stand to each other as 1, 0.5 and −0.25.
Heard heardIn(const std::vector<float>& stereo) {
    const float most = *std::max_element(stereo.begin(), stereo.end());
    Heard heard;
    for (std::size_t i = 0; i < stereo.size(); i += 2) {
        const float level = stereo[i] / most;
        if (level > 0.3F) heard.ticks.push_back({static_cast<double>(i / 2) / rate, level > 0.75F});
        heard.told += level < -0.1F;
    }
    return heard;
}

/// Where the song's beats lie, from its tempo map alone.
std::vector<Tock> beatsOf(const TempoMap& tempo, double from, double to) {
    std::vector<Tock> beats;
    for (int bar = 1; tempo.seconds(tempo.barStart(bar)) < to; ++bar)
        for (int beat = 1; tempo.tickOf({bar, beat, 0}) < tempo.barStart(bar + 1); ++beat)
            if (const double at = tempo.seconds(tempo.tickOf({bar, beat, 0})); at >= from && at < to)
                beats.push_back({at, beat == 1});
    return beats;
}

/// Empty, or where they differ: by more than five frames, or in what begins a bar.
QString differenceOf(const std::vector<Tock>& heard, const std::vector<Tock>& expected, double from,
                     double pace) {
    if (heard.size() != expected.size())
        return QStringLiteral("%1 ticks, not %2").arg(heard.size()).arg(expected.size());
    for (std::size_t i = 0; i < heard.size(); ++i) {
        const double off = heard[i].seconds - (expected[i].seconds - from) / pace;
        if (std::abs(off) > 5.0 / rate || heard[i].bar != expected[i].bar)
            return QStringLiteral("tick %1 is %2 ms off").arg(i).arg(off * 1000);
    }
    return {};
}

} // namespace

class TestMusicTime : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void initTestCase() { qputenv("COBBLEWAY_LV2_PATH", TICKING_PLUGINS); }
    void isAsWorkedOut_data();
    void isAsWorkedOut();
    void changesAreFound();
    void onlyNewsIsTold();
    void pluginsTickWithTheBeat_data();
    void pluginsTickWithTheBeat();
    void aTickThatIsOffIsSeen();
    void liveTheyFollowLoopAndPause();
    void inAProcessTheyTickTheSame();
};

void TestMusicTime::isAsWorkedOut_data() {
    QTest::addColumn<double>("seconds");
    QTest::addColumn<double>("pace");
    QTest::addColumn<int>("bar");
    QTest::addColumn<double>("barBeat");
    QTest::addColumn<double>("beatsPerBar");
    QTest::addColumn<double>("beatUnit");
    QTest::addColumn<double>("beatsPerMinute");
    // LV2 time: bars from 0, beats of the metre's own unit, so that a quarter of 80 a minute is 160 eighths.
    QTest::newRow("the start") << 0.0 << 1.0 << 0 << 0.0 << 4.0 << 4.0 << 120.0;
    QTest::newRow("half a beat on") << 0.25 << 1.0 << 0 << 0.5 << 4.0 << 4.0 << 120.0;
    QTest::newRow("after a change of tempo") << 3.2 << 1.0 << 1 << 2.5 << 4.0 << 4.0 << 150.0;
    QTest::newRow("six eighths") << 3.8 + 0.1 << 1.0 << 2 << 0.5 << 6.0 << 8.0 << 300.0;
    QTest::newRow("slower eighths") << 5.0 + 0.75 << 1.0 << 3 << 2.0 << 6.0 << 8.0 << 160.0;
    QTest::newRow("a bar cut short by a metre")
        << 5.0 + 3 * 0.75 + 0.375 << 1.0 << 4 << 1.0 << 7.0 << 8.0 << 160.0;
    QTest::newRow("at half the pace") << 3.2 << 0.5 << 1 << 2.5 << 4.0 << 4.0 << 75.0;
}

void TestMusicTime::isAsWorkedOut() {
    QFETCH(double, seconds);
    QFETCH(double, pace);
    const MusicTime time = musicTimeAt(changing(), seconds * rate, {rate, pace, true});
    QTEST(static_cast<int>(time.bar), "bar");
    QFETCH(double, barBeat);
    QVERIFY2(std::abs(time.barBeat - barBeat) < 1e-3, qPrintable(QString::number(time.barBeat)));
    QTEST(static_cast<double>(time.beatsPerBar), "beatsPerBar");
    QTEST(static_cast<double>(time.beatUnit), "beatUnit");
    QFETCH(double, beatsPerMinute);
    QVERIFY(std::abs(time.beatsPerMinute - beatsPerMinute) < 1e-3);
    QCOMPARE(time.frame, std::llround(seconds * rate / pace));
    QCOMPARE(time.speed, 1.0F);
    QCOMPARE(musicTimeAt(changing(), seconds * rate, {rate, pace, false}).speed, 0.0F);
    // SMPTE time knows no tempo: a quarter stands for half a second.
    const TempoMap frames{Division{0, 25, 40}, {{0, 300000}}, {}};
    const MusicTime at = musicTimeAt(frames, 3.25 * rate, {rate, 1, true});
    QCOMPARE(at.beatsPerMinute, 120.0F);
    QCOMPARE(at.bar, std::int64_t{1});
    QVERIFY(std::abs(at.barBeat - 2.5F) < 1e-3F);
}

void TestMusicTime::changesAreFound() {
    std::vector<double> found;
    double at = 0;
    for (Tick tick = 0; (tick = nextTimeChange(changing(), at, rate)) >= 0;) {
        found.push_back(changing().seconds(tick));
        at = found.back() * rate;
    }
    // Six quarters at 0.5 s; two at 0.4; three more; three at 0.75; three more; three more.
    const std::vector<double> expected{3, 3.8, 5, 7.25, 9.5, 11.75};
    QCOMPARE(found.size(), expected.size());
    for (std::size_t i = 0; i < found.size(); ++i) QVERIFY(std::abs(found[i] - expected[i]) < 1e-4);
}

void TestMusicTime::onlyNewsIsTold() {
    TimeTeller teller;
    MusicTime time;
    time.speed = 1;
    QVERIFY(teller.isNews(time));
    teller.tell(time, 0);
    QVERIFY(!teller.isNews(time));
    teller.goOn(512);
    QVERIFY(teller.isNews(time)); // it has gone back
    time.frame = 512;
    QVERIFY(!teller.isNews(time));
    time.frame = 515;
    QVERIFY(teller.isNews(time));
    time.frame = 512;
    for (float MusicTime::*field :
         {&MusicTime::beatsPerMinute, &MusicTime::beatsPerBar, &MusicTime::beatUnit, &MusicTime::speed}) {
        MusicTime other = time;
        other.*field += 1;
        QVERIFY(teller.isNews(other));
    }
    time.speed = 0;
    teller.tell(time, 0);
    teller.goOn(512); // nothing moves
    QVERIFY(!teller.isNews(time));
    time.speed = 1;
    time.frame = 1000;
    teller.tell(time, 100); // of 512: it is at 900 now
    teller.goOn(512);
    time.frame = 1412;
    QVERIFY(!teller.isNews(time));
    time.frame = 1000;
    QVERIFY(teller.isNews(time));
}

void TestMusicTime::pluginsTickWithTheBeat_data() {
    QTest::addColumn<QString>("place");
    QTest::addColumn<double>("pace");
    QTest::addColumn<double>("from");
    QTest::newRow("an instrument") << QStringLiteral("instrument") << 100.0 << 0.0;
    QTest::newRow("slower") << QStringLiteral("instrument") << 70.0 << 0.0;
    QTest::newRow("faster") << QStringLiteral("instrument") << 150.0 << 0.0;
    QTest::newRow("from the middle") << QStringLiteral("instrument") << 100.0 << 4.1;
    QTest::newRow("an effect on a part") << QStringLiteral("part") << 100.0 << 0.0;
    QTest::newRow("an effect on the mix") << QStringLiteral("mix") << 80.0 << 0.0;
}

void TestMusicTime::pluginsTickWithTheBeat() {
    QFETCH(QString, place);
    QFETCH(double, pace);
    QFETCH(double, from);
    const Song song = tickingSong(place.toStdString());
    RenderOptions options;
    options.pace = pace;
    options.from = from;
    Heard heard = heardIn(renderToMemory(song, catalogue(), rate, options));
    constexpr double end = 14; // seconds: the last note's
    std::erase_if(heard.ticks,
                  [&](const Tock& tick) { return tick.seconds * pace / 100 + from > end + 0.01; });
    const QString differ = differenceOf(heard.ticks, beatsOf(*song.tempo, from, end), from, pace / 100);
    QVERIFY2(differ.isEmpty(), qPrintable(differ));
    // The start, six changes (less before `from`), the last block, the end; a tick may hide one.
    QVERIFY2(heard.told <= 9, qPrintable(QString::number(heard.told)));
}

void TestMusicTime::aTickThatIsOffIsSeen() {
    const std::vector<Tock> beats = beatsOf(changing(), 0, 10);
    QVERIFY(differenceOf(beats, beats, 0, 1).isEmpty());
    auto off = beats;
    off[3].seconds += 7.5 / rate;
    QVERIFY(!differenceOf(off, beats, 0, 1).isEmpty());
    off = beats;
    off[4].bar = !off[4].bar;
    QVERIFY(!differenceOf(off, beats, 0, 1).isEmpty());
    off.pop_back();
    QVERIFY(!differenceOf(off, beats, 0, 1).isEmpty());
}

/// Two bars, a pause, and a loop of one bar, at a pace of its own.
void TestMusicTime::liveTheyFollowLoopAndPause() {
    const Song song = tickingSong("instrument");
    InstrumentBank bank(liveRate, {.slotStep = 8, .live = true, .pluginBundle = SHIPPED_PLUGINS});
    Player player;
    player.setPlan(makePlan(song, catalogue(), matchSong(song, catalogue()), bank));
    std::vector<float> block(512);
    const auto played = [&](double seconds) {
        std::vector<float> sound;
        for (double t = 0; t < seconds; t += 256.0 / liveRate) {
            player.process(block.data(), 256);
            sound.insert(sound.end(), block.begin(), block.end());
        }
        return heardIn(sound);
    };
    QCOMPARE(played(0.3).ticks.size(), std::size_t{0}); // it stands
    player.setPace(50);
    player.setLoop(0, 2); // a bar of 4/4, which takes 4 s
    player.play();
    const Heard looped = played(12.2);
    QCOMPARE(looped.ticks.size(), std::size_t{13});
    for (std::size_t i = 0; i < looped.ticks.size(); ++i) {
        QCOMPARE(looped.ticks[i].bar, i % 4 == 0);
        QVERIFY2(std::abs(looped.ticks[i].seconds - looped.ticks[0].seconds - static_cast<double>(i)) < 0.004,
                 qPrintable(QString::number(looped.ticks[i].seconds)));
    }
    player.stop();
    (void)played(0.3);
    QCOMPARE(played(3).ticks.size(), std::size_t{0});
}

void TestMusicTime::inAProcessTheyTickTheSame() {
    BankOptions inside{.slotStep = 1, .live = false, .pluginBundle = SHIPPED_PLUGINS};
    BankOptions outside = inside;
    outside.makePlugins = [](const auto&) {
        return std::make_shared<PluginHost>(PLUGIN_HELPER, SHIPPED_PLUGINS,
                                            std::vector<std::filesystem::path>{});
    };
    for (const char* place : {"instrument", "mix"}) {
        const Song song = tickingSong(place);
        const auto sound = renderToMemory(song, catalogue(), rate, {}, outside);
        QVERIFY(heardIn(sound).ticks.size() > 30);
        QVERIFY(sound == renderToMemory(song, catalogue(), rate, {}, inside));
    }
}

QTEST_GUILESS_MAIN(TestMusicTime)
#include "tst_musictime.moc"
