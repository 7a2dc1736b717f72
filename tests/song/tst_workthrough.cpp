/// Working through a song section by section.
#include "support/support.h"

#include "song/heard/workthrough.h"

using namespace support;

class TestWorkThrough : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void eachSectionGrowsAndJoinsTheOneBefore();
    void withoutSectionsItIsEightBarsAtATime();
};

void TestWorkThrough::eachSectionGrowsAndJoinsTheOneBefore() {
    Builder b;
    for (const auto& [at, name] : {std::pair{0, "Quay"}, std::pair{3840, "Lights"}, std::pair{7680, "Home"}})
        b.file.addText(0, at, meta::marker, name);
    const Song song = b.note(0, 0, 12, 60).song();
    const auto rounds = workThrough(song, 0, {4, 70, 100});
    std::vector<std::string> names;
    std::vector<int> paces;
    for (const WorkRound& round : rounds) {
        names.push_back(round.name);
        paces.push_back(round.pace);
    }
    const std::vector<std::string> wanted = {"Quay",
                                             "Quay",
                                             "Quay",
                                             "Quay",
                                             "Lights",
                                             "Lights",
                                             "Lights",
                                             "Lights",
                                             "Quay and Lights",
                                             "Quay and Lights",
                                             "Home",
                                             "Home",
                                             "Home",
                                             "Home",
                                             "Lights and Home",
                                             "Lights and Home"};
    QVERIFY(names == wanted);
    QCOMPARE(paces, (std::vector{70, 80, 90, 100, 70, 80, 90, 100, 100, 100, 70, 80, 90, 100, 100, 100}));
    QCOMPARE(rounds[8].start, Tick{0});
    QCOMPARE(rounds[8].end, Tick{7680});
    QCOMPARE(rounds[9].round, 2);
    // From a place on, and one round alone is at the last pace.
    const auto last = workThrough(song, 8000, {1, 50, 90});
    QCOMPARE(last.size(), std::size_t{1});
    QCOMPARE(last[0].pace, 90);
    QVERIFY(workThrough(song, song.end, {}).empty());
}

void TestWorkThrough::withoutSectionsItIsEightBarsAtATime() {
    const Song song = Builder().note(0, 0, 39, 60).song(); // 20 bars of two seconds
    const auto rounds = workThrough(song, 0, {1, 70, 100});
    std::vector<std::string> names;
    for (const WorkRound& round : rounds) names.push_back(round.name);
    const std::vector<std::string> wanted = {"bars 1–8", "bars 9–16", "bars 1–8 and bars 9–16", "bars 17–20",
                                             "bars 9–16 and bars 17–20"};
    QVERIFY(names == wanted);
    QCOMPARE(rounds.back().end, song.end);
}

QTEST_APPLESS_MAIN(TestWorkThrough)
#include "tst_workthrough.moc"
