/// Shaped parts, by ear: what splitting, joining and a part's recipe do to what is heard.
#include "sound/render.h"
#include "support/support.h"

#include "song/model/levels.h"
#include "song/shape/edits.h"
#include "song/shape/join.h"
#include "song/shape/splits.h"
#include "song/shape/tidy.h"
#include "song/shape/timeedits.h"

using namespace support;

namespace {

std::vector<float> heard(Song song) {
    static const Catalogue font = testFont();
    song.room = 0;
    return renderToMemory(song, font, rate);
}

} // namespace

class TestShapedSound : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void splitPartsSoundAsTheWhole_data();
    void splitPartsSoundAsTheWhole();
    void aSplitPartGetsASoundOfItsOwn();
    void programsAtOneTickAreHeardInOrder();
    void aFixedSoundWithstandsPrograms();
    void joinedPartsStayAsLoud();
    void pedalInLengthsIsHeardAsPedal();
    void transpositionIsHeard_data();
    void transpositionIsHeard();
    void velocitiesAreHeard();
    void unisonsLastAsTheLonger();
    void masterVolumeIsFollowed_data();
    void masterVolumeIsFollowed();
    void thinnedVolumeIsHeardTheSame();
    void whatIsDoneOnOpeningIsNotHeard();
    void tempoMovesNotes();
    void leadingSilenceIsGone();
    void tracksOfOneChannelPlayOneSound();
};

void TestShapedSound::splitPartsSoundAsTheWhole_data() {
    QTest::addColumn<int>("way");
    QTest::newRow("pitch") << 0;
    QTest::newRow("lines") << 1;
    QTest::newRow("programs") << 2;
    QTest::newRow("time") << 3;
}

void TestShapedSound::splitPartsSoundAsTheWhole() {
    QFETCH(int, way);
    Builder b;
    b.program(0, 0, 0).cc(0, 0, 7, 90);
    for (int i = 0; i < 6; ++i) b.note(0, i * 0.5, 0.4, 48 + i, 80).note(0, i * 0.5, 0.4, 72 + i, 60);
    const Song song = b.program(0, 1.4, 5).song();
    const Part& part = song.parts[0];
    const Split split = way == 0   ? splitByPitch(song, part, Key{60})
                        : way == 1 ? splitIntoLines(song, part, 2)
                        : way == 2 ? splitByProgram(song, part)
                                   : splitAtTime(song, part, Builder::at(1.2));
    const Song apart = edits::split(song, part.id, split);
    QCOMPARE(apart.parts.size(), std::size_t{2});
    QVERIFY(difference(heard(song), heard(apart)) < 0.01);
}

void TestShapedSound::aSplitPartGetsASoundOfItsOwn() {
    const Song song = Builder().program(0, 0, 0).note(0, 0.1, 1.5, 48).note(0, 2, 1.5, 69).song();
    Song apart = edits::split(song, 1, splitByPitch(song, song.parts[0], Key{60}));
    const Catalogue font = testFont();
    apart = edits::chooseSound(apart, 1,
                               {font.defaultFont()->id, 0, 1, "x"}); // program 1 has the second harmonic
    const auto sound = heard(apart);
    const auto high = cut(sound, 0, 2.4, 3.2), low = cut(sound, 0, 0.5, 1.4);
    QVERIFY(strength(high, 2 * keyHz(69)) > 0.2 * strength(high, keyHz(69)));
    QVERIFY(strength(low, 2 * keyHz(48)) < 0.02 * strength(low, keyHz(48))); // the other keeps its own
}

void TestShapedSound::programsAtOneTickAreHeardInOrder() {
    // Program 1, a note, program 2, a note: all at one tick.
    Builder b;
    for (const int program : {0, 1}) {
        b.file.addChannel(0, 96, 0xC0, static_cast<std::uint8_t>(program));
        b.file.addChannel(0, 96, 0x90, program ? 72 : 60, 100);
    }
    b.file.addChannel(0, 2000, 0x80, 60, 64);
    b.file.addChannel(0, 2000, 0x80, 72, 64);
    const auto sound = cut(heard(b.song()), 0, 0.5, 1.5);
    QVERIFY(strength(sound, 2 * keyHz(72)) > 0.2 * strength(sound, keyHz(72)));
    // The first note has no second harmonic of its own: what is at 2·f of key 60 is the fundamental of
    // key 72.
    QVERIFY(std::abs(db(strength(sound, keyHz(60)), strength(sound, keyHz(72)))) < 6);
    QVERIFY(strength(sound, 3 * keyHz(60)) < 0.05 * strength(sound, keyHz(60)));
}

void TestShapedSound::aFixedSoundWithstandsPrograms() {
    const Song song = edits::fixProgram(
        Builder().program(0, 0, 0).note(0, 0.1, 0.8, 69).program(0, 1, 1).note(0, 1.1, 0.8, 69).song(), 1);
    const auto later = cut(heard(song), 0, 1.3, 1.8);
    QVERIFY(strength(later, 2 * keyHz(69)) < 0.02 * strength(later, keyHz(69)));
}

void TestShapedSound::joinedPartsStayAsLoud() {
    const Song song = Builder()
                          .program(0, 0, 0)
                          .program(1, 0, 0)
                          .cc(0, 0, 7, 110)
                          .cc(1, 0, 7, 60)
                          .note(0, 0.1, 1, 60, 100)
                          .note(1, 2, 1, 72, 100)
                          .song();
    const auto apart = heard(song), joined = heard(edits::join(song, {1, 2}));
    for (const double from : {0.4, 2.3}) {
        const double off = db(level(joined, from, from + 0.5), level(apart, from, from + 0.5));
        QVERIFY2(std::abs(off) < 0.35, qPrintable(QString::number(off))); // a step of velocity is 0.3 dB
    }
}

void TestShapedSound::pedalInLengthsIsHeardAsPedal() {
    const Song song = Builder()
                          .program(0, 0, 0)
                          .program(1, 0, 0)
                          .cc(0, 0, 64, 127)
                          .note(0, 0.1, 0.3, 60)
                          .cc(0, 1.5, 64, 0)
                          .note(1, 0.2, 2.5, 84)
                          .song();
    const auto joined = heard(edits::join(song, {1, 2}));
    const auto held = cut(joined, 0, 0.8, 1.3), after = cut(joined, 0, 2.0, 2.5);
    QVERIFY(strength(held, keyHz(60)) > 0.3 * strength(held, keyHz(84)));
    QVERIFY(strength(after, keyHz(60)) < 0.02 * strength(after, keyHz(84)));
}

void TestShapedSound::transpositionIsHeard_data() {
    QTest::addColumn<int>("semitones");
    QTest::addColumn<int>("octaves");
    QTest::addColumn<int>("key");
    QTest::newRow("B flat trumpet as written") << -2 << 0 << 67;
    QTest::newRow("horn and an octave up") << -7 << 1 << 74;
    QTest::newRow("a semitone up") << 1 << 0 << 70;
}

void TestShapedSound::transpositionIsHeard() {
    QFETCH(int, semitones);
    QFETCH(int, octaves);
    QFETCH(int, key);
    Song song = edits::setSemitones(Builder().program(0, 0, 0).note(0, 0, 3, 69).song(), 1, semitones);
    song = edits::setOctaves(song, 1, octaves);
    const auto tone = cut(heard(song), 0, 0.5, 2.9);
    QVERIFY(std::abs(cents(frequencyOf(tone, keyHz(key)), keyHz(key))) < 1); // ISO 16, equal temperament
}

void TestShapedSound::velocitiesAreHeard() {
    const Song song = Builder().program(0, 0, 0).note(0, 0.1, 1, 69, 120).song();
    const double before = level(heard(song), 0.4, 0.9);
    const double after = level(heard(edits::setVelocity(song, 1, {0.5, 0, 0})), 0.4, 0.9);
    // SoundFont 2.04, 8.4.1: velocity to attenuation is concave, 40·log10(v/127); half of it is −12.04 dB.
    QVERIFY2(std::abs(db(after, before) + 12.04) < 0.5, qPrintable(QString::number(db(after, before))));
}

void TestShapedSound::unisonsLastAsTheLonger() {
    const Song once = Builder().program(0, 0, 0).note(0, 0.1, 1, 69, 90).song();
    // The shorter of the two would end the longer.
    const Song twice = Builder().program(0, 0, 0).note(0, 0.1, 1, 69, 90).note(0, 0.1, 0.2, 69, 60).song();
    const double single = level(heard(once), 0.5, 0.9);
    QVERIFY(std::abs(db(level(heard(edits::setUnisons(twice, 1, Unisons::KeepOne)), 0.5, 0.9), single)) <
            0.1);
}

void TestShapedSound::masterVolumeIsFollowed_data() {
    QTest::addColumn<QByteArray>("sysex");
    QTest::addColumn<double>("db");
    QTest::newRow("full") << QByteArray("7F7F0401 7F7FF7") << 0.0;
    QTest::newRow("half") << QByteArray("7F7F0401 0040F7") << -12.04; // 40·log10(0.5)
    QTest::newRow("nothing would be heard, so it is not followed") << QByteArray("7F7F0401 0000F7") << 0.0;
}

void TestShapedSound::masterVolumeIsFollowed() {
    QFETCH(QByteArray, sysex);
    QFETCH(double, db);
    const double plain = level(heard(Builder().program(0, 0, 0).note(0, 0.1, 1, 69).song()), 0.4, 0.9);
    const double with = level(
        heard(Builder().sysex(sysex.constData()).program(0, 0, 0).note(0, 0.1, 1, 69).song()), 0.4, 0.9);
    QVERIFY2(std::abs(support::db(with, plain) - db) < 0.1,
             qPrintable(QString::number(support::db(with, plain))));
}

void TestShapedSound::whatIsDoneOnOpeningIsNotHeard() {
    const Song song = Builder()
                          .program(0, 0, 1)
                          .cc(0, 0, 7, 90)
                          .cc(0, 0, 11, 100)
                          .cc(0, 0, 10, 30)
                          .note(0, 0.1, 1, 60)
                          .song();
    const Song tidy = edits::tidy(song);
    QCOMPARE(tidy.tidied.size(), std::size_t{2});
    const double off = db(level(heard(tidy), 0.2, 1), level(heard(song), 0.2, 1));
    QVERIFY2(std::abs(off) < 0.02, qPrintable(QString::number(off)));
}

void TestShapedSound::thinnedVolumeIsHeardTheSame() {
    Builder b;
    b.program(0, 0, 0).note(0, 0.1, 4, 69);
    for (int i = 0; i < 400; ++i) b.cc(0, 0.1 + i * 0.01, 7, 127 - i / 5);
    const Song song = b.song();
    const Song thin = edits::thinController(song, 1, cc::volume, 1);
    const auto before = heard(song), after = heard(thin);
    for (double from = 0.5; from < 3.5; from += 0.5) {
        const double off = db(level(after, from, from + 0.3), level(before, from, from + 0.3));
        QVERIFY2(std::abs(off) < 0.5, qPrintable(QString::number(off))); // one step of 127, at 47, is 0.4 dB
    }
}

void TestShapedSound::tempoMovesNotes() {
    const Song song = Builder().program(0, 0, 0).note(0, 2, 0.5, 69).song();
    const auto sound = heard(edits::scaleTempo(song, 2)); // at 1 s now
    QVERIFY(level(sound, 0.5, 0.95) < 1e-4);
    QVERIFY(level(sound, 1.05, 1.2) > 0.01);
}

void TestShapedSound::leadingSilenceIsGone() {
    const Song song = Builder().program(0, 0, 0).note(0, 4, 1, 69).song();
    QVERIFY(level(heard(edits::removeLeadingSilence(song, leadingSilence(song))), 0.05, 0.5) > 0.01);
}

void TestShapedSound::tracksOfOneChannelPlayOneSound() {
    // The second track has no program of its own: it plays what its channel plays, as a device would.
    Builder b(1, 2);
    const auto sound = heard(b.program(0, 0, 1).note(0, 0.1, 0.5, 60).note(0, 1, 1, 69, 127, 1).song());
    const auto second = cut(sound, 0, 1.2, 1.9);
    QVERIFY(strength(second, 2 * keyHz(69)) > 0.2 * strength(second, keyHz(69)));
}

QTEST_APPLESS_MAIN(TestShapedSound)
#include "tst_shapedsound.moc"
