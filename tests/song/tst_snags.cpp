#include "support/support.h"

#include "song/edits.h"
#include "song/snags.h"

using namespace support;

namespace {

std::vector<Snag> snagsIn(const Song& song, const Catalogue& catalogue = testFont()) {
    return findSnags({song, catalogue, matchSong(song, catalogue)});
}

const Snag* ofKind(const std::vector<Snag>& snags, const char* kind) {
    for (const Snag& snag : snags)
        if (snag.kind == kind) return &snag;
    return nullptr;
}

} // namespace

class TestSnags : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void kinds_data();
    void kinds();
    void aCleanSongHasNone();
    void everySnagSaysEnough();
    void leavingASnagSettlesIt();
    void mendsAllThatAreSafeAndNoOther();
    void bassOnAGuitarIsFoundInLanternQuay();
    void octaveMendBringsNotesIntoRange();
};

void TestSnags::kinds_data() {
    QTest::addColumn<QString>("kind");
    QTest::addColumn<int>("what");
    int number = 0;
    for (const char* kind :
         {"no-notes", "program-missing", "fixed-volume", "sound-missing", "out-of-range", "reading-damage"})
        QTest::newRow(kind) << kind << number++;
}

void TestSnags::kinds() {
    QFETCH(QString, kind);
    QFETCH(int, what);
    Song song;
    switch (what) {
    case 0: song = Builder().program(0, 0, 1).note(0, 0, 1, 60).program(3, 0, 1).song(); break;
    case 1: song = Builder().note(0, 0, 1, 60).song(); break;
    case 2: song = Builder().program(0, 0, 1).cc(0, 0, 7, 90).note(0, 0, 1, 60).song(); break;
    case 3: song = Builder().program(0, 0, 9).note(0, 0, 1, 60).song(); break;
    case 4: song = Builder().program(0, 0, 56).note(0, 0, 1, 40).note(0, 1, 1, 60).song(); break;
    default:
        song =
            songOf(joined({header(0, 1), track(hex("00 FF5103 07A120 00 C0 01 00 90 3C 40 60 80 3C 40"))}));
    }
    const auto snags = snagsIn(song);
    const Snag* snag = ofKind(snags, qPrintable(kind));
    QVERIFY(snag);
    QCOMPARE(snags.size(), std::size_t{1});
    // Each mend but the last changes the song so that the snag is gone.
    for (const Mend& mend : snag->mends)
        QVERIFY2(!ofKind(snagsIn(mend.apply(song)), qPrintable(kind)), mend.label.c_str());
}

void TestSnags::aCleanSongHasNone() {
    QVERIFY(snagsIn(Builder().program(0, 0, 1).note(0, 0, 1, 60).song()).empty());
}

void TestSnags::everySnagSaysEnough() {
    for (const char* name : {"lantern_quay.mid", "TIDEMILL.MID", "SLACKW~1.MID"}) {
        std::set<std::string> keys;
        for (const Snag& snag : snagsIn(demoSong(name))) {
            QVERIFY(snag.what.ends_with('.') && snag.why.ends_with('.') && !snag.pill.empty() &&
                    !snag.mends.empty());
            QVERIFY(keys.insert(snag.key).second);
        }
        QVERIFY(!keys.empty());
    }
}

void TestSnags::leavingASnagSettlesIt() {
    const Song song = Builder().note(0, 0, 1, 60).song();
    const auto snags = snagsIn(song);
    QCOMPARE(snags[0].mends.back().label, std::string("Leave it as it is"));
    QVERIFY(snagsIn(snags[0].mends.back().apply(song)).empty());
}

void TestSnags::mendsAllThatAreSafeAndNoOther() {
    const Song song = demoSong("lantern_quay.mid");
    const Song mended = mendAllSafe(song, testFont());
    QVERIFY(!ofKind(snagsIn(mended), "fixed-volume"));
    QVERIFY(ofKind(snagsIn(mended), "bass-on-guitar")); // that one is the person's to decide
    QVERIFY(mendAllSafe(mended, testFont()) == mended);
}

void TestSnags::bassOnAGuitarIsFoundInLanternQuay() {
    const Song song = demoSong("lantern_quay.mid");
    const Catalogue house = fontsAt(HOUSE_FONT);
    const auto snags = snagsIn(song, house);
    const Snag* snag = ofKind(snags, "bass-on-guitar");
    QVERIFY(snag);
    QCOMPARE(song.part(snag->part)->name, std::string("Guitar"));
    const Song mended = snag->mends.front().apply(song);
    QCOMPARE(mended.part(snag->part)->chosen->program, 32); // Acoustic Bass, 0-based
    QVERIFY(!ofKind(snagsIn(mended, house), "bass-on-guitar"));
}

void TestSnags::octaveMendBringsNotesIntoRange() {
    // The test font's program 56 plays keys 52–84.
    const Song song = Builder().program(0, 0, 56).note(0, 0, 1, 43).note(0, 1, 1, 45).song();
    const auto snags = snagsIn(song);
    const Snag* snag = ofKind(snags, "out-of-range");
    QVERIFY(snag && snag->serious);
    QCOMPARE(snag->mends.front().label, std::string("Shift up an octave"));
    QCOMPARE(snag->mends.front().apply(song).parts[0].octaves, 1);
}

QTEST_APPLESS_MAIN(TestSnags)
#include "tst_snags.moc"
