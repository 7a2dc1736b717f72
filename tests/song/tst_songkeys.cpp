/// Keys as a musician would name them: of profiles, of made songs with known keys, of the demo songs.
#include "support/randomsong.h"
#include "support/support.h"

#include "song/heard/keysignature.h"
#include "song/match/songkeys.h"
#include "song/match/songsummary.h"
#include "song/shape/edits.h"

#include <random>

using namespace support;

namespace {

struct Stretch {
    int tonic = 0;
    bool minor = false;
    int bars = 8;
};

/// Chords with a bass in 4/4, four bars I–IV–V–I and I–VI–II–V in turns, with the leading note in minor; the
/// last bar is the tonic. `seed` chooses the tune over them.
Song piece(const std::vector<Stretch>& stretches, unsigned seed = 1,
           std::optional<std::pair<int, bool>> signature = {}) {
    static constexpr std::array<int, 7> majorScale = {0, 2, 4, 5, 7, 9, 11},
                                        minorScale = {0, 2, 3, 5, 7, 8, 10};
    static constexpr std::array<int, 8> roots = {0, 3, 4, 0, 0, 5, 1, 4};
    std::mt19937 random(seed);
    Builder b;
    if (signature)
        b.file.addMeta(
            0, 0, meta::keySignature,
            Bytes{static_cast<std::uint8_t>(signature->first), static_cast<std::uint8_t>(signature->second)});
    int bar = 0, all = 0;
    for (const Stretch& stretch : stretches) all += stretch.bars;
    for (const Stretch& stretch : stretches)
        for (int i = 0; i < stretch.bars; ++i, ++bar) {
            const int root = bar + 1 == all ? 0 : roots[static_cast<std::size_t>(i % 8)];
            const auto degree = [&](int step) {
                const auto at = static_cast<std::size_t>(step % 7);
                const int key =
                    stretch.tonic + (stretch.minor ? minorScale : majorScale)[at] + 12 * (step / 7);
                return stretch.minor && root == 4 && step % 7 == 6 ? key + 1 : key; // the leading note
            };
            for (int note = 0; note < 3; ++note) b.note(0, bar * 2.0, 1.9, 48 + degree(root + 2 * note), 70);
            b.note(1, bar * 2.0, 1.9, 36 + degree(root), 80);
            for (int beat = 0; beat < 4; ++beat)
                b.note(2, bar * 2.0 + beat * 0.5, 0.45,
                       60 + degree(root + static_cast<int>(random() % 4 == 0 ? 1 : 2 * (random() % 3))), 90);
        }
    return b.song();
}

QString keysOf(const Song& song) {
    QStringList keys;
    for (const KeyStretch& stretch : keysBySection(song))
        keys << QStringLiteral("%1 %2")
                    .arg(song.tempo->position(stretch.start).bar)
                    .arg(QString::fromStdString(keyText(stretch.key)));
    return keys.join(QStringLiteral(", "));
}

PitchClasses both(const MusicalKey& a, const MusicalKey& b, double more = 1) {
    PitchClasses sum = profileOf(a), other = profileOf(b);
    for (std::size_t i = 0; i < 12; ++i) sum[i] = sum[i] * more + other[i];
    return sum;
}

bool isSame(const MusicalKey& a, const MusicalKey& b) { return a.tonic == b.tonic && a.minor == b.minor; }

constexpr MusicalKey cMajor{0, false, 0}, gMajor{7, false, 0}, aMinor{9, true, 0};

} // namespace

class TestSongKeys : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void eachProfileIsItsKey();
    void signsOfKeys();
    void hintsDecideBetweenWhatFitsAlike();
    void signaturesAreReadInOrder();
    void keysOfMadeSongsAreTold();
    void modulationsAreTold_data();
    void modulationsAreTold();
    void aSignatureIsEvidence();
    void theDemoSongsAreInTheirKeys();
    void theListTellsTheSameKey();
    void aShiftMovesAllKeys();
};

void TestSongKeys::eachProfileIsItsKey() {
    for (int tonic = 0; tonic < 12; ++tonic)
        for (const bool minor : {false, true}) {
            const MusicalKey key = keyOf(profileOf({tonic, minor, 0}));
            QVERIFY(isSame(key, {tonic, minor, 0}));
            QVERIFY(std::abs(key.fit - 1) < 1e-9);
        }
    QVERIFY(keyOf({}).fit == 0);
}

void TestSongKeys::signsOfKeys() {
    // The circle of fifths, from F♯ down to D♭; minor keys are those of their relatives.
    const std::array<std::pair<int, int>, 12> major = {{{6, 6},
                                                        {11, 5},
                                                        {4, 4},
                                                        {9, 3},
                                                        {2, 2},
                                                        {7, 1},
                                                        {0, 0},
                                                        {5, -1},
                                                        {10, -2},
                                                        {3, -3},
                                                        {8, -4},
                                                        {1, -5}}};
    for (const auto& [tonic, sharps] : major) {
        QCOMPARE(sharpsOf({tonic, false, 0}), sharps);
        QCOMPARE(sharpsOf({(tonic + 9) % 12, true, 0}), sharps);
    }
    QCOMPARE(keyText({10, false, 0}), std::string("B♭ major"));
    QCOMPARE(keyText({6, true, 0}), std::string("F♯ minor"));
}

void TestSongKeys::hintsDecideBetweenWhatFitsAlike() {
    const PitchClasses relatives = both(cMajor, aMinor);
    KeyHints hints;
    hints.lastBass = 9;
    QVERIFY(isSame(keyOf(relatives, hints), aMinor));
    hints.lastBass = 0;
    QVERIFY(isSame(keyOf(relatives, hints), cMajor));
    hints = {};
    hints.firstBass = 9;
    QVERIFY(isSame(keyOf(both(cMajor, aMinor, 0.98), hints), aMinor));
    // A signature decides between neighbours, and is not believed against the notes.
    hints = {};
    hints.sharps = 1;
    QVERIFY(isSame(keyOf(both(cMajor, gMajor, 1.5)), cMajor));
    QVERIFY(isSame(keyOf(both(cMajor, gMajor, 1.5), hints), gMajor));
    hints.sharps = 6;
    QVERIFY(isSame(keyOf(profileOf(cMajor), hints), cMajor));
    // C major is written by many that were never told.
    hints.sharps = 0;
    QVERIFY(isSame(keyOf(both(gMajor, cMajor, 1.3), hints), gMajor));
    hints.minor = true; // A minor is not
    QVERIFY(isSame(keyOf(relatives, hints), aMinor));
}

void TestSongKeys::signaturesAreReadInOrder() {
    Builder b(1, 2);
    const auto sign = [&](std::size_t track, Tick tick, int sharps, int minor) {
        b.file.addMeta(track, tick, meta::keySignature,
                       Bytes{static_cast<std::uint8_t>(sharps), static_cast<std::uint8_t>(minor)});
    };
    sign(1, 960, -3, 1);
    sign(0, 0, 2, 0);
    sign(1, 0, 2, 0);    // the same on another track
    sign(0, 1920, 9, 0); // none
    b.note(0, 0, 4, 60, 90, 0).note(1, 0, 4, 60, 90, 1);
    const std::vector<KeySignature> expected = {{0, 2, false}, {960, -3, true}};
    QVERIFY(signaturesOf(b.song()) == expected);
}

void TestSongKeys::keysOfMadeSongsAreTold() {
    for (unsigned seed = 1; seed <= 3; ++seed)
        for (int tonic = 0; tonic < 12; ++tonic)
            for (const bool minor : {false, true}) {
                const Song song = piece({{tonic, minor, 24}}, seed);
                const QString expected = QString::fromStdString(keyText({tonic, minor, 0}));
                QCOMPARE(QString::fromStdString(keyText(keyOfSong(song))), expected);
                QCOMPARE(keysOf(song), QStringLiteral("1 ") + expected);
            }
}

void TestSongKeys::modulationsAreTold_data() {
    QTest::addColumn<std::vector<Stretch>>("stretches");
    QTest::addColumn<QString>("keys"); // with the bars at which they begin; two more or less do, since chords
                                       // of both keys lie between
    QTest::newRow("a trio in the subdominant")
        << std::vector<Stretch>{{10, false, 32}, {3, false, 32}, {10, false, 16}}
        << QStringLiteral("1 B♭ major, 33 E♭ major, 65 B♭ major");
    QTest::newRow("eight bars a third away")
        << std::vector<Stretch>{{0, false, 16}, {4, false, 8}, {0, false, 16}}
        << QStringLiteral("1 C major, 17 E major, 25 C major");
    QTest::newRow("four bars far away") << std::vector<Stretch>{{0, false, 16}, {6, false, 4}, {0, false, 16}}
                                        << QStringLiteral("1 C major, 17 F♯ major, 21 C major");
    QTest::newRow("four bars in the dominant are none")
        << std::vector<Stretch>{{0, false, 16}, {7, false, 4}, {0, false, 16}} << QStringLiteral("1 C major");
    QTest::newRow("two bars far away are none")
        << std::vector<Stretch>{{0, false, 16}, {6, false, 2}, {0, false, 16}} << QStringLiteral("1 C major");
    QTest::newRow("minor and back") << std::vector<Stretch>{{9, true, 16}, {1, false, 16}, {9, true, 16}}
                                    << QStringLiteral("1 A minor, 17 D♭ major, 33 A minor");
    QTest::newRow("the last chorus a tone up")
        << std::vector<Stretch>{{7, false, 40}, {9, false, 16}} << QStringLiteral("1 G major, 41 A major");
    QTest::newRow("three bars in all") << std::vector<Stretch>{{2, false, 3}} << QStringLiteral("1 D major");
}

void TestSongKeys::modulationsAreTold() {
    QFETCH(std::vector<Stretch>, stretches);
    QFETCH(QString, keys);
    for (unsigned seed = 1; seed <= 4; ++seed) {
        const QStringList told = keysOf(piece(stretches, seed)).split(QStringLiteral(", ")),
                          expected = keys.split(QStringLiteral(", "));
        QVERIFY2(told.size() == expected.size(), qPrintable(told.join(QStringLiteral(", "))));
        for (int i = 0; i < told.size(); ++i) {
            QCOMPARE(told[i].section(QLatin1Char(' '), 1), expected[i].section(QLatin1Char(' '), 1));
            const int off = told[i].section(QLatin1Char(' '), 0, 0).toInt() -
                            expected[i].section(QLatin1Char(' '), 0, 0).toInt();
            QVERIFY2(std::abs(off) <= 2, qPrintable(told[i]));
        }
    }
}

void TestSongKeys::aSignatureIsEvidence() {
    // Chords of C, F and G alone, without a seventh: what is written decides between C and its neighbours.
    const auto song = [&](std::optional<int> sharps) {
        Builder chords;
        if (sharps)
            chords.file.addMeta(0, 0, meta::keySignature, Bytes{static_cast<std::uint8_t>(*sharps), 0});
        for (int bar = 0; bar < 16; ++bar)
            for (const int key : {0, 4, 7}) chords.note(0, bar * 2.0, 1.9, 60 + key + (bar % 2 ? 7 : 0));
        return chords.song();
    };
    QCOMPARE(keyText(keyOfSong(song(1))), std::string("G major"));
    QCOMPARE(keyText(keyOfSong(song(std::nullopt))), keyText(keyOfSong(song(0))));
    // Against the notes it counts for nothing.
    QCOMPARE(keyText(keyOfSong(piece({{2, false, 16}}, 1, std::pair(-4, false)))), std::string("D major"));
    QCOMPARE(keysOf(piece({{2, false, 16}}, 1, std::pair(-4, false))), QStringLiteral("1 D major"));
}

void TestSongKeys::theDemoSongsAreInTheirKeys() {
    // As they were composed: see demo/.
    QCOMPARE(keyText(keyOfSong(demoSong("lantern_quay.mid"))), std::string("G major"));
    QCOMPARE(keyText(keyOfSong(demoSong("SLACKW~1.MID"))), std::string("B♭ major"));
    QCOMPARE(keyText(keyOfSong(demoSong("TIDEMILL.MID"))), std::string("D major"));
    QCOMPARE(keyText(keyOfSong(demoSong("pilots-evening-song.kar"))), std::string("F major"));
    const auto keys = keysBySection(demoSong("lantern_quay.mid"));
    QCOMPARE(keys.size(), std::size_t{3}); // the procession is in C
    QCOMPARE(keyText(keys[1].key), std::string("C major"));
}

void TestSongKeys::theListTellsTheSameKey() {
    const auto listed = [](const Song& song) {
        return summaryOf(
                   song,
                   [&](const Part& part) { return std::make_shared<const HeardPart>(realise(song, part)); })
            .key;
    };
    std::mt19937 random(7);
    for (int i = 0; i < 60; ++i) {
        const Song song = edits::setKeyShift(songOf(randomFile(random)), static_cast<int>(random() % 13) - 6);
        const auto keys = keysBySection(song);
        QCOMPARE(listed(song), keys.empty() ? std::string() : keyText(keyOfSong(song)));
        if (keys.size() == 1) QVERIFY(isSame(keys[0].key, keyOfSong(song)));
    }
}

void TestSongKeys::aShiftMovesAllKeys() {
    const Song song = piece({{10, false, 32}, {3, false, 32}});
    const auto before = keysBySection(song), after = keysBySection(edits::setKeyShift(song, 3));
    QCOMPARE(after.size(), before.size());
    for (std::size_t i = 0; i < before.size(); ++i) {
        QCOMPARE(after[i].start, before[i].start);
        QCOMPARE(after[i].key.tonic, (before[i].key.tonic + 3) % 12);
    }
}

QTEST_APPLESS_MAIN(TestSongKeys)
#include "tst_songkeys.moc"
