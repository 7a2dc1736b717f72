#include "support/support.h"

#include "midi/tempomap.h"

#include <random>

using namespace support;

class TestTempoMap : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void defaultsAreThoseOfTheStandard();
    void addsUpChangesOfTempo();
    void countsBarsAndBeats_data();
    void countsBarsAndBeats();
    void aMetreChangeWithinABarBeginsABar();
    void placesAndTicksAgree();
    void tickAndSecondAgree();
    void impossibleValuesAreLeftOut();
};

void TestTempoMap::defaultsAreThoseOfTheStandard() {
    // SMF 1.0: 120 quarters a minute and 4/4 where nothing is said.
    const TempoMap map(Division{96, 0, 0}, {}, {});
    QCOMPARE(map.bpm(0), 120.0);
    QCOMPARE(map.seconds(384), 2.0);
    QCOMPARE(map.position(384), (Position{2, 1, 0}));
}

void TestTempoMap::addsUpChangesOfTempo() {
    const TempoMap map(Division{480, 0, 0}, {{960, 250000}, {0, 1000000}}, {});
    QCOMPARE(map.seconds(960), 2.0);
    QCOMPARE(map.seconds(1440), 2.25);
    QCOMPARE(map.bpm(959), 60.0); // 60 000 000 / µs
    QCOMPARE(map.bpm(960), 240.0);
    QCOMPARE(map.lowestBpm(), 60.0);
    QCOMPARE(map.highestBpm(), 240.0);
}

void TestTempoMap::countsBarsAndBeats_data() {
    QTest::addColumn<int>("tick");
    QTest::addColumn<int>("bar");
    QTest::addColumn<int>("beat");
    QTest::addColumn<int>("rest");
    // 3/4 for two bars, then 6/8; 480 ticks to a quarter
    QTest::newRow("start") << 0 << 1 << 1 << 0;
    QTest::newRow("second beat") << 480 << 1 << 2 << 0;
    QTest::newRow("within a beat") << 1000 << 1 << 3 << 40;
    QTest::newRow("second bar") << 1440 << 2 << 1 << 0;
    QTest::newRow("six-eight") << 2880 << 3 << 1 << 0;
    QTest::newRow("its fourth beat") << 2880 + 720 << 3 << 4 << 0;
    QTest::newRow("its second bar") << 2880 + 1440 << 4 << 1 << 0;
}

void TestTempoMap::countsBarsAndBeats() {
    QFETCH(int, tick);
    QFETCH(int, bar);
    QFETCH(int, beat);
    QFETCH(int, rest);
    const TempoMap map(Division{480, 0, 0}, {}, {{0, 3, 4}, {2880, 6, 8}});
    QCOMPARE(map.position(tick), (Position{bar, beat, rest}));
    QCOMPARE(map.tickOf({bar, beat, rest}), Tick{tick});
}

void TestTempoMap::aMetreChangeWithinABarBeginsABar() {
    const TempoMap map(Division{480, 0, 0}, {}, {{0, 4, 4}, {1000, 2, 4}});
    QCOMPARE(map.position(999).bar, 1);
    QCOMPARE(map.position(1000), (Position{2, 1, 0}));
}

void TestTempoMap::placesAndTicksAgree() {
    std::mt19937 random(3);
    const TempoMap map(Division{192, 0, 0}, {}, {{0, 4, 4}, {192 * 8, 7, 8}, {192 * 8 + 672 * 3, 3, 4}});
    for (int i = 0; i < 2000; ++i) {
        const Tick tick = random() % 100000;
        QCOMPARE(map.tickOf(map.position(tick)), tick);
    }
}

void TestTempoMap::tickAndSecondAgree() {
    std::mt19937 random(4);
    std::vector<TempoChange> tempos;
    for (int i = 0; i < 200; ++i) tempos.push_back({i * 137, 200000 + static_cast<int>(random() % 900000)});
    const TempoMap map(Division{480, 0, 0}, tempos, {});
    for (Tick tick = 0; tick < 40000; tick += 7) QCOMPARE(map.tickAt(map.seconds(tick)), tick);
}

void TestTempoMap::impossibleValuesAreLeftOut() {
    const TempoMap map(Division{480, 0, 0}, {{0, 0}, {100, -5}}, {{0, 0, 4}, {0, 4, 3}});
    QCOMPARE(map.tempos(), (std::vector<TempoChange>{{0, 500000}}));
    QCOMPARE(map.metres(), (std::vector<MetreChange>{{0, 4, 4}}));
}

QTEST_APPLESS_MAIN(TestTempoMap)
#include "tst_tempomap.moc"
