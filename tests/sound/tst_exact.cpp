/// Controllers, parameters, modes and overlapping notes as the standards have them, where libfluidsynth alone
/// does not.
#include "support/support.h"

#include "song/heard/realise.h"
#include "song/model/levels.h"
#include "song/out/tomidi.h"
#include "sound/fontchannel.h"
#include "sound/render.h"

using namespace cobbleway;
using namespace support;

namespace {

std::vector<float> heard(Builder b, const Catalogue& font = testFont()) {
    Song song = b.song();
    song.room = 0;
    return renderToMemory(song, font, rate);
}

Builder& parameter(Builder& b, double at, int number, int msb, int lsb = -1) {
    b.cc(0, at, 101, 0).cc(0, at, 100, number);
    if (msb >= 0) b.cc(0, at, 6, msb);
    if (lsb >= 0) b.cc(0, at, 38, lsb);
    return b;
}

} // namespace

class TestExact : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void resettingControllersKeepsWhatItMust();
    void bendRanges_data();
    void bendRanges();
    void tuning();
    void deviceTuning_data();
    void deviceTuning();
    void theDevicesVolumeMoves();
    void modesEndNotes_data();
    void modesEndNotes();
    void monoModeSoundsOne();
    void portamentoGlides();
    void soundControllersAndTheirNrpns();
    void theSoftPedal();
    void overlappingNotesSoundAsTheyAreDrawn();
    void eventsSoundAtTheirPlace();
    void aKitOnSeveralTracksIsOneKit();
    void theFilesReverbIsTheShareOfTheRoom();
};

void TestExact::resettingControllersKeepsWhatItMust() {
    // RP-015: volume, pan, bank, sends, registered parameters' values and sound controllers stay.
    const auto song = [](bool reset) {
        Builder b;
        b.program(0, 0, 0).cc(0, 0, 7, 64).cc(0, 0, 10, 127);
        parameter(b, 0, 0, 12);
        parameter(b, 0, 2, 64 + 3);
        b.cc(0, 0, 72, 100);
        if (reset) b.cc(0, 0.1, 121, 0);
        return heard(b.note(0, 0.2, 1, 60).bend(0, 0.15, 8192 + 4096));
    };
    const auto with = song(true), without = song(false);
    QVERIFY(std::equal(with.begin(), with.end(), without.begin(), without.end(),
                       [](float a, float b) { return std::abs(a - b) < 1e-6F; }));
    QVERIFY(level(with, 0.4, 1.0, 1) > 0.001 && level(with, 0.4, 1.0, 0) < level(with, 0.4, 1.0, 1) * 1e-3);
    // What goes back: bend, modulation, expression, pedals.
    Builder b;
    b.program(0, 0, 0)
        .cc(0, 0, 11, 30)
        .bend(0, 0, 16383)
        .cc(0, 0, 64, 127)
        .note(0, 0.01, 0.04, 48)
        .cc(0, 0.1, 121, 0);
    const auto back = heard(b.note(0, 1.0, 1, 60));
    const auto plain = heard(Builder().program(0, 0, 0).note(0, 1.0, 1, 60));
    QVERIFY(std::abs(db(level(back, 1.2, 1.9), level(plain, 1.2, 1.9))) < 0.1);
    const auto tone = cut(back, 0, 1.2, 1.9);
    QVERIFY(std::abs(cents(frequencyOf(tone, keyHz(60)), keyHz(60))) < 1);
}

void TestExact::bendRanges_data() {
    QTest::addColumn<int>("semitones");
    QTest::addColumn<int>("centsMore");
    QTest::addColumn<int>("steps");
    QTest::addColumn<int>("bend");
    QTest::addColumn<double>("wanted");
    QTest::newRow("2, as it begins") << -1 << -1 << 0 << 16383 << 200.0;
    QTest::newRow("12 up") << 12 << -1 << 0 << 16383 << 1200.0;
    QTest::newRow("12 down") << 12 << -1 << 0 << 0 << -1200.0;
    QTest::newRow("24 up") << 24 << -1 << 0 << 16383 << 2400.0;
    QTest::newRow("24, half") << 24 << -1 << 0 << 8192 + 4096 << 1200.0;
    QTest::newRow("1 and 50 cents") << 1 << 50 << 0 << 16383 << 150.0;
    QTest::newRow("30 cents") << 0 << 30 << 0 << 16383 << 30.0;
    QTest::newRow("2 and 40 steps of a cent") << 2 << 0 << 40 << 16383 << 240.0; // RP-018; from memory
    QTest::newRow("2 less 40 steps of a cent") << 2 << 0 << -40 << 16383 << 160.0;
}

void TestExact::bendRanges() {
    // MIDI 1.0, RPN 0: data entry MSB in semitones, LSB in cents.
    QFETCH(int, semitones);
    QFETCH(int, centsMore);
    QFETCH(int, steps);
    QFETCH(int, bend);
    QFETCH(double, wanted);
    Builder b;
    b.program(0, 0, 0);
    parameter(b, 0, 0, semitones, centsMore);
    for (int i = 0; i < std::abs(steps); ++i) b.cc(0, 0, steps > 0 ? 96 : 97, 0);
    b.bend(0, 0.05, bend).note(0, 0.1, 3, 57);
    const double hz = keyHz(57) * std::pow(2, wanted / 1200);
    const double off = cents(frequencyOf(cut(heard(b), 0, 0.5, 2.9), hz), hz);
    QVERIFY2(std::abs(off) < 1.1, qPrintable(QStringLiteral("%1 cents").arg(off)));
}

void TestExact::tuning() {
    // MIDI 1.0: RPN 1 in 8192nds of a semitone around 8192, RPN 2 in semitones around 64.
    Builder b;
    b.program(0, 0, 0);
    parameter(b, 0, 1, 96, 0);
    parameter(b, 0, 2, 61);
    const double hz = keyHz(60) * std::pow(2, (50.0 - 300) / 1200);
    const double off = cents(frequencyOf(cut(heard(b.note(0, 0.1, 3, 60)), 0, 0.5, 2.9), hz), hz);
    QVERIFY2(std::abs(off) < 1, qPrintable(QStringLiteral("%1 cents").arg(off)));
}

void TestExact::deviceTuning_data() {
    QTest::addColumn<QByteArray>("sysex");
    QTest::addColumn<double>("wanted"); // cents, of C4
    // MIDI 1.0, universal real time: master fine tuning, 2000 is none; master coarse tuning, 40 is none.
    QTest::newRow("master fine tuning") << QByteArray("7F7F0403 0050F7") << 25.0;
    QTest::newRow("master coarse tuning") << QByteArray("7F7F0404 003DF7") << -300.0;
    // MMA CA-021 (from memory): scale tuning of channels 15, 16; 8 to 14; 1 to 7; then C to B, 40 is none.
    QTest::newRow("scale tuning, one byte")
        << QByteArray("7E7F0808 000001 0E4040404040404040404040F7") << -50.0;
    QTest::newRow("scale tuning, two bytes")
        << QByteArray("7F7F0809 000001 6000 4000 4000 4000 4000 4000 4000 4000 4000 4000 4000 4000F7")
        << 50.0;
    QTest::newRow("scale tuning of another channel")
        << QByteArray("7E7F0808 000002 0E4040404040404040404040F7") << 0.0;
    // Published parameter lists of GS and XG, from memory.
    QTest::newRow("GS master tuning")
        << QByteArray("411042124000000004030A 00F7") << 5.8; // 43A is 58 tenths over 400
    QTest::newRow("GS master key shift") << QByteArray("41104212400005 42 79F7") << 200.0;
    QTest::newRow("GS key shift of a part") << QByteArray("41104212401116 34 65F7") << -1200.0;
    QTest::newRow("GS scale tuning") << QByteArray("41104212401140 72 3DF7") << 50.0;
    QTest::newRow("XG master tuning") << QByteArray("43104C000000 00040708F7") << 12.0;
    QTest::newRow("XG transposition") << QByteArray("43104C000006 3BF7") << -500.0;
    QTest::newRow("XG note shift of a part") << QByteArray("43104C080008 47F7") << 700.0;
    QTest::newRow("XG scale tuning") << QByteArray("43104C080041 30F7") << -16.0;
}

void TestExact::deviceTuning() {
    QFETCH(QByteArray, sysex);
    QFETCH(double, wanted);
    const Song song = Builder().sysex(sysex.constData()).program(0, 0, 0).note(0, 0.1, 3, 60).song();
    const double hz = keyHz(60) * std::pow(2, wanted / 1200);
    const auto tuned = [&](const Song& plays, double from) {
        Song dry = plays;
        dry.room = 0;
        const auto sound = renderToMemory(dry, testFont(), rate);
        return cents(frequencyOf(cut(sound, 0, from, 2.9), hz), hz);
    };
    QVERIFY2(std::abs(tuned(song, 0.5)) < 1, qPrintable(QString::number(tuned(song, 0.5))));
    QVERIFY2(std::abs(tuned(song, 0.11)) < 1, qPrintable(QString::number(tuned(song, 0.11)))); // at once
    // What is written, whole and alone, sounds the same.
    for (const MidiFile& file :
         {toMidi(song, Layout::SingleTrack), toMidi(song, Layout::TrackPerPart), toMidi(song, song.parts[0])})
        QVERIFY2(std::abs(tuned(songOf(file), 0.5)) < 1,
                 qPrintable(QString::number(tuned(songOf(file), 0.5))));
    // Drums are not tuned.
    Builder drums;
    drums.sysex(sysex.constData()).note(9, 0.1, 0.2, 38);
    const auto plain = heard(Builder().note(9, 0.1, 0.2, 38));
    const auto with = heard(drums);
    QVERIFY(with == plain);
}

void TestExact::theDevicesVolumeMoves() {
    // Universal real time 04 01 by the law of a channel's volume, 40·log10 (GM developer guidelines).
    const auto plain = heard(Builder().program(0, 0, 0).note(0, 0.1, 4, 69));
    const auto moves = heard(Builder()
                                 .sysex("7F7F0401 7F7FF7")
                                 .sysex("7F7F0401 0040F7", 1)
                                 .sysex("7F7F0401 0000F7", 2)
                                 .sysex("41104212400004 7F3DF7", 3)
                                 .program(0, 0, 0)
                                 .note(0, 0.1, 4, 69));
    QVERIFY(std::abs(db(level(moves, 0.5, 0.95), level(plain, 0.5, 0.95))) < 0.1);
    QVERIFY(std::abs(db(level(moves, 1.3, 1.9), level(plain, 1.3, 1.9)) + 12.04) < 0.1);
    QVERIFY(level(moves, 2.5, 2.9) < level(plain, 2.5, 2.9) * 1e-4);
    QVERIFY(std::abs(db(level(moves, 3.4, 3.9), level(plain, 3.4, 3.9))) < 0.1);
}

void TestExact::modesEndNotes_data() {
    QTest::addColumn<int>("mode");
    for (const int mode : {120, 123, 124, 125, 126, 127})
        QTest::newRow(qPrintable(QString::number(mode))) << mode;
}

void TestExact::modesEndNotes() {
    // MIDI 1.0: the mode messages also turn notes off.
    QFETCH(int, mode);
    const auto sound =
        heard(Builder().program(0, 0, 0).note(0, 0, 4, 60).cc(0, 1, mode, mode == 126 ? 1 : 0));
    QVERIFY(level(sound, 0.3, 0.9) > 0.001);
    QVERIFY(level(sound, 2.5, 3.5) < level(sound, 0.3, 0.9) * 1e-3);
}

void TestExact::monoModeSoundsOne() {
    const auto sound = heard(Builder()
                                 .program(0, 0, 0)
                                 .cc(0, 0, 126, 1)
                                 .note(0, 0.1, 3, 60)
                                 .note(0, 1.1, 1, 67)
                                 .cc(0, 4, 127, 0)
                                 .note(0, 4.1, 1, 60)
                                 .note(0, 4.1, 1, 67));
    const auto share = [&](double from, double to) {
        const auto tone = cut(sound, 0, from, to);
        return strength(tone, keyHz(60)) / strength(tone, keyHz(67));
    };
    QVERIFY(share(0.3, 1.0) > 20);
    QVERIFY(share(1.4, 2.0) < 0.05);
    QVERIFY(share(2.4, 3.0) > 20);                         // the key that is still held
    QVERIFY(share(4.3, 5.0) > 0.5 && share(4.3, 5.0) < 2); // many again
}

void TestExact::portamentoGlides() {
    QCOMPARE(FontChannel::glideMilliseconds(0), 0);
    QCOMPARE(FontChannel::glideMilliseconds(127), 2000);
    const auto pitchAt = [](const std::vector<float>& sound, double from) {
        double best = 0, strongest = 0;
        for (double key = 45; key <= 75; key += 0.25) {
            const double now = strength(cut(sound, 0, from, from + 0.06), 440 * std::pow(2, (key - 69) / 12));
            if (now > strongest) strongest = now, best = key;
        }
        return best;
    };
    const int time = 110; // about a second
    const double seconds = FontChannel::glideMilliseconds(time) / 1000.0;
    const auto mono = heard(Builder()
                                .program(0, 0, 0)
                                .cc(0, 0, 126, 1)
                                .cc(0, 0, 65, 127)
                                .cc(0, 0, 5, time)
                                .note(0, 0.1, 1, 48)
                                .note(0, 1, 3, 60));
    const auto source = heard(Builder()
                                  .program(0, 0, 0)
                                  .cc(0, 0, 5, time)
                                  .note(0, 0.1, 0.5, 72)
                                  .cc(0, 0.95, 84, 48)
                                  .note(0, 1, 3, 60));
    for (const auto& sound : {mono, source}) {
        const double early = pitchAt(sound, 1.0), middle = pitchAt(sound, 1 + seconds / 2 - 0.03),
                     late = pitchAt(sound, 1.1 + seconds);
        QVERIFY2(early > 47 && early < 50, qPrintable(QString::number(early)));
        QVERIFY2(std::abs(middle - 54) < 1.5, qPrintable(QString::number(middle)));
        QVERIFY2(std::abs(late - 60) < 0.5, qPrintable(QString::number(late)));
    }
}

void TestExact::soundControllersAndTheirNrpns() {
    const auto with = [](int controller, int value, int nrpn = -1) {
        Builder b;
        b.program(0, 0, 0);
        if (nrpn >= 0)
            b.cc(0, 0, 99, 1).cc(0, 0, 98, nrpn).cc(0, 0, 6, value);
        else
            b.cc(0, 0, controller, value);
        return heard(b.note(0, 0.1, 1, 60).note(0, 4.9, 0.05, 30, 1));
    };
    const auto plain = with(70, 64);
    // Release: what is left right after the end. Attack: how loud it begins. Brightness: how loud a harmonic
    // is.
    QVERIFY(db(level(with(72, 127), 1.102, 1.11) + 1e-9, level(plain, 1.102, 1.11) + 1e-9) > 6);
    QVERIFY(db(level(with(73, 127), 0.1, 0.12), level(plain, 0.1, 0.12)) < -3);
    const auto bright = [](const std::vector<float>& sound) { return level(sound, 0.4, 1.0); };
    QVERIFY(db(bright(with(74, 0)), bright(plain)) < 0.1);
    // NRPNs of GS and XG (manufacturers' published convention) are the same.
    const std::pair<int, int> pairs[] = {{71, 0x21}, {72, 0x66}, {73, 0x63}, {74, 0x20},
                                         {75, 0x64}, {76, 0x08}, {77, 0x09}, {78, 0x0A}};
    for (const auto& [controller, nrpn] : pairs) QVERIFY(with(controller, 100) == with(0, 100, nrpn));
}

void TestExact::theSoftPedal() {
    const auto struck = [](int pedal) {
        return level(heard(Builder().program(0, 0, 0).cc(0, 0, 67, pedal).note(0, 0.1, 1, 60, 100)), 0.3,
                     1.0);
    };
    QCOMPARE(struck(63), struck(0));
    const double softer = db(struck(64), struck(0));
    QVERIFY2(softer < -2 && softer > -6, qPrintable(QString::number(softer)));
}

void TestExact::overlappingNotesSoundAsTheyAreDrawn() {
    // MIDI 1.0 leaves open which note of a key an end means; here it is the one that began first, drawn and
    // heard.
    Builder b;
    b.program(0, 0, 0).note(0, 0, 2, 60).note(0, 1, 3, 60);
    const HeardPart drawn = realise(b.song(), b.song().parts[0]);
    QCOMPARE(drawn.notes[1].end, Builder::at(4));
    const auto sound = heard(b);
    QVERIFY(level(sound, 3.0, 3.9) > 0.5 * level(sound, 1.2, 1.9));
    QVERIFY(level(sound, 4.8, 5.0) < 0.01 * level(sound, 1.2, 1.9));
    // The next note of a key begins before the end of the last, at one tick.
    MidiFile file;
    file.type = 0;
    file.division.ticksPerQuarter = 480;
    file.tracks.resize(1);
    for (const auto& [tick, status, velocity] :
         {std::tuple{0, 0x90, 100}, {960, 0x90, 100}, {960, 0x80, 0}, {1920, 0x80, 0}})
        file.addChannel(0, tick, static_cast<std::uint8_t>(status), 60, static_cast<std::uint8_t>(velocity));
    Song song = songOf(file);
    song.room = 0;
    const auto repeated = renderToMemory(song, testFont(), rate);
    QVERIFY(level(repeated, 1.3, 1.9) > 0.5 * level(repeated, 0.3, 0.9));
}

void TestExact::eventsSoundAtTheirPlace() {
    for (int i = 0; i < 12; ++i) {
        const double at = 0.5 + i * 0.00731;
        const auto mono = cut(heard(Builder().program(0, 0, 0).note(0, at, 0.5, 60)), 0, 0, 1);
        const auto first =
            std::find_if(mono.begin(), mono.end(), [](float v) { return v != 0; }) - mono.begin();
        const double wanted = static_cast<double>(Builder::at(at)) / 960 * rate;
        const double off = static_cast<double>(first) - wanted;
        // libfluidsynth begins sound every 64 frames; the nearest is half of that away at most, and the first
        // frame of a sine is zero.
        QVERIFY2(off >= -33 && off <= 34, qPrintable(QString::number(off)));
    }
}

void TestExact::aKitOnSeveralTracksIsOneKit() {
    // RP-003: the closed hi-hat (42) stops the open one (46), whichever track it is on.
    const Catalogue house = fontsAt(HOUSE_FONT);
    const auto ring = [&](int second, int tracks) {
        Builder b(1, 2);
        b.note(9, 0.1, 0.1, 46, 110, 0);
        if (second) b.note(9, 0.2, 0.1, second, 1, tracks == 2 ? 1 : 0);
        return level(heard(b, house), 0.35, 0.5);
    };
    const double rings = ring(0, 1);
    QVERIFY(rings > 0);
    QVERIFY2(ring(42, 2) < 0.3 * rings, qPrintable(QStringLiteral("%1 of %2").arg(ring(42, 2)).arg(rings)));
    const double apart = ring(42, 2), together = ring(42, 1);
    QVERIFY2(std::abs(apart - together) < 0.1 * rings, // as on one track
             qPrintable(QStringLiteral("%1, %2 of %3").arg(apart).arg(together).arg(rings)));
    QVERIFY(ring(51, 2) > 0.7 * rings); // a ride does not
}

void TestExact::theFilesReverbIsTheShareOfTheRoom() {
    const auto share = [](int send) {
        Builder b;
        if (send >= 0) b.cc(0, 0, 91, send);
        return b.note(0, 0.1, 1, 60).cc(0, 2, 91, 5).song().parts[0].mix.room;
    };
    QCOMPARE(share(-1), 1.0);
    QCOMPARE(share(40), 1.0); // General MIDI 2 begins with it (RP-024; from memory)
    QCOMPARE(share(0), 0.0);
    QCOMPARE(share(60), 1.5);
    QCOMPARE(share(127), 2.0);
}

QTEST_APPLESS_MAIN(TestExact)
#include "tst_exact.moc"
