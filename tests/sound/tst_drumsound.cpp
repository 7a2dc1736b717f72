/// Drum maps by ear: what a note plays, how hard, and what is silent.
#include "sound/render.h"
#include "support/support.h"

#include "song/drums/drumedits.h"
#include "song/model/levels.h"

using namespace support;

namespace {

Key key(int number) { return Key{static_cast<std::uint8_t>(number)}; }

std::vector<float> heard(const Song& song, const Catalogue& fonts) {
    Song dry = song;
    dry.room = 0;
    return renderToMemory(dry, fonts, rate);
}

} // namespace

class TestDrumSound : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void aNoteSoundsAsItsTarget();
    void aTrimChangesTheLevel();
    void aSilentNoteIsHeardWhenItIsFitted();
    void closedHatsStopOpenOnes();
    void notesLeftOutAreNotHeard();
};

/// The kit of the test font sounds a tone on each key, 35 to 81.
void TestDrumSound::aNoteSoundsAsItsTarget() {
    const Song song = Builder().note(9, 0, 1, 50).song();
    const auto plain = cut(heard(song, testFont()), 0, 0.2, 0.9);
    const auto moved = cut(heard(edits::setDrumTarget(song, 1, {key(50)}, key(62)), testFont()), 0, 0.2, 0.9);
    QVERIFY(std::abs(cents(frequencyOf(plain, keyHz(50)), keyHz(50))) < 3);
    QVERIFY(std::abs(cents(frequencyOf(moved, keyHz(62)), keyHz(62))) < 3);
    // The same, to the bit, as a file that has the other key.
    QCOMPARE(heard(edits::setDrumTarget(song, 1, {key(50)}, key(62)), testFont()),
             heard(Builder().note(9, 0, 1, 62).song(), testFont()));
}

/// SoundFont 2.04, 8.4.1: velocity acts as 40·log10(v/127) dB, as volume does.
void TestDrumSound::aTrimChangesTheLevel() {
    const Song song = Builder().note(9, 0, 1, 60, 100).song();
    const double before = rms(cut(heard(song, testFont()), 0, 0.2, 0.9));
    for (const int by : {-60, -28, -10, 15}) {
        const double after =
            rms(cut(heard(edits::setDrumTrim(song, 1, {key(60)}, {1, by, 0}), testFont()), 0, 0.2, 0.9));
        QVERIFY2(std::abs(db(after, before) - 40 * std::log10((100.0 + by) / 100)) < 0.15,
                 qPrintable(QString::number(by)));
    }
}

void TestDrumSound::aSilentNoteIsHeardWhenItIsFitted() {
    const Song song = Builder().note(9, 0, 1, 90).note(9, 1.5, 0.5, 60).song();
    const auto silent = heard(song, testFont());
    QVERIFY(peak(cut(silent, 0, 0, 1.3)) < 1e-4F);
    const Song fitted = edits::fitKits(song, testFont());
    QVERIFY(peak(cut(heard(fitted, testFont()), 0, 0, 1.3)) > 1e-2F);
}

/// RP-003: the closed hi-hat ends the open one, whichever notes they came from.
void TestDrumSound::closedHatsStopOpenOnes() {
    const Catalogue house = fontsAt(HOUSE_FONT);
    const auto tail = [&](const Song& song) { return rms(cut(heard(song, house), 0, 0.45, 0.6)); };
    const Song open = Builder().note(9, 0, 1, 46).song();
    const Song closed = Builder().note(9, 0, 1, 46).note(9, 0.2, 0.05, 42, 1).song();
    QVERIFY(tail(closed) < tail(open) / 10);
    // From another layout: 10 is open, 12 closed.
    const Song foreign = Builder().note(9, 0, 1, 10).note(9, 0.2, 0.05, 12, 1).song();
    const Song mapped =
        edits::setDrumTarget(edits::setDrumTarget(foreign, 1, {key(10)}, key(46)), 1, {key(12)}, key(42));
    QVERIFY(tail(mapped) < tail(open) / 10);
    // A hat that a kit lacks goes to a hat that it has, which still is stopped.
    QCOMPARE(int(standInsFor(key(46))[0]), 42);
    QCOMPARE(int(standInsFor(key(42))[0]), 44);
    const Song pedal = Builder().note(9, 0, 1, 46).note(9, 0.2, 0.05, 44, 1).song();
    QVERIFY(tail(pedal) < tail(open) / 10);
}

void TestDrumSound::notesLeftOutAreNotHeard() {
    const Song song = Builder().note(9, 0, 1, 50).note(9, 0, 1, 69).song();
    const auto both = cut(heard(song, testFont()), 0, 0.2, 0.9);
    const auto one = cut(heard(edits::setDrumOff(song, 1, {key(50)}, true), testFont()), 0, 0.2, 0.9);
    QVERIFY(strength(one, keyHz(50)) < strength(both, keyHz(50)) / 100);
    QVERIFY(std::abs(db(strength(one, keyHz(69)), strength(both, keyHz(69)))) < 0.1);
}

QTEST_APPLESS_MAIN(TestDrumSound)
#include "tst_drumsound.moc"
