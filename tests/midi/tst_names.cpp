#include "support/support.h"

#include "midi/devicemessages.h"
#include "midi/devicesettings.h"
#include "midi/dialect.h"
#include "midi/gm.h"
#include "midi/text.h"

using namespace support;

class TestNames : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void programsAreThoseOfGeneralMidi();
    void drumsAreThoseOfGeneralMidi();
    void middleCIsC4();
    void findsTheEncoding_data();
    void findsTheEncoding();
    void textNeverBreaks();
    void knowsTheDialect_data();
    void knowsTheDialect();
    void knowsRhythmParts();
    void messagesInPiecesArePutTogether();
    void masterVolumesOfEachDialect();
};

void TestNames::programsAreThoseOfGeneralMidi() {
    // General MIDI level 1 (RP-003), sound set; from memory.
    QCOMPARE(programName(Program{0}), std::string_view("Acoustic Grand Piano"));
    QCOMPARE(programName(Program{32}), std::string_view("Acoustic Bass"));
    QCOMPARE(programName(Program{56}), std::string_view("Trumpet"));
    QCOMPARE(programName(Program{127}), std::string_view("Gunshot"));
    QCOMPARE(familyName(7), std::string_view("Brass"));
    for (int p = 0; p < 128; ++p) QVERIFY(!programName(Program{static_cast<std::uint8_t>(p)}).empty());
}

void TestNames::drumsAreThoseOfGeneralMidi() {
    // RP-003, percussion map: keys 35–81; from memory.
    QCOMPARE(drumName(Key{36}), std::string_view("Bass Drum 1"));
    QCOMPARE(drumName(Key{42}), std::string_view("Closed Hi Hat"));
    QCOMPARE(drumName(Key{81}), std::string_view("Open Triangle"));
    QVERIFY(drumName(Key{26}).empty());
    // RP-024: drum sets 1, 9, 17, 25, 26, 33, 41, 49, 57.
    int kits = 0;
    for (int p = 0; p < 128; ++p) kits += !kitName(Program{static_cast<std::uint8_t>(p)}).empty();
    QCOMPARE(kits, 9);
    QCOMPARE(kitName(Program{40}), std::string_view("Brush kit"));
}

void TestNames::middleCIsC4() {
    QCOMPARE(keyName(Key{60}), std::string("C4"));
    QCOMPARE(keyName(Key{0}), std::string("C-1"));
    QCOMPARE(keyName(Key{127}), std::string("G9"));
    QCOMPARE(keyName(Key{66}), std::string("F#4"));
}

void TestNames::findsTheEncoding_data() {
    QTest::addColumn<QByteArray>("bytes");
    QTest::addColumn<QString>("text");
    QTest::newRow("ASCII") << QByteArray("Lead cornet") << "Lead cornet";
    QTest::newRow("UTF-8") << QByteArray("Fl\xC3\xB6te") << QString::fromUtf8("Flöte");
    QTest::newRow("Shift-JIS")
        << QByteArray("\x83\x67\x83\x89\x83\x93\x83\x79\x83\x62\x83\x67\x82\xC6\x83\x7A\x83\x8B\x83\x93")
        << QString::fromUtf8("トランペットとホルン");
}

void TestNames::findsTheEncoding() {
    QFETCH(QByteArray, bytes);
    QFETCH(QString, text);
    const std::string raw = bytes.toStdString();
    QCOMPARE(QString::fromStdString(toUtf8(raw, guessEncoding(raw))), text);
}

void TestNames::textNeverBreaks() {
    for (int a = 0; a < 256; ++a) {
        const std::string raw = {static_cast<char>(a), 'x', static_cast<char>(255 - a), '\x01'};
        for (const char* encoding : {"UTF-8", "SHIFT_JIS", "WINDOWS-1252", "KOI8-R", "no such encoding"}) {
            const std::string text = toUtf8(raw, encoding);
            QCOMPARE(validUtf8(text), text);
            QVERIFY(text.find('\x01') == std::string::npos);
        }
    }
    QCOMPARE(validUtf8("a\xC0\xAF"),
             std::string("a\xEF\xBF\xBD\xEF\xBF\xBD")); // RFC 3629: overlong forms are not UTF-8
}

void TestNames::knowsTheDialect_data() {
    // Resets: RP-003, RP-024; GS and XG as their makers publish them.
    QTest::addColumn<QByteArray>("sysex");
    QTest::addColumn<QString>("name");
    QTest::newRow("GM") << QByteArray("7E 7F 09 01 F7") << "GM";
    QTest::newRow("GM2") << QByteArray("7E 7F 09 03 F7") << "GM2";
    QTest::newRow("GS") << QByteArray("41 10 42 12 40 00 7F 00 41 F7") << "GS";
    QTest::newRow("XG") << QByteArray("43 10 4C 00 00 7E 00 F7") << "XG";
    QTest::newRow("other") << QByteArray("43 10 4C 00 00 04 00 F7") << "none said";
}

void TestNames::knowsTheDialect() {
    QFETCH(QByteArray, sysex);
    QFETCH(QString, name);
    const MidiFile file = Builder().sysex(sysex.constData()).file;
    QCOMPARE(QString::fromUtf8(dialectName(dialectOf(file)).data()), name);
}

void TestNames::knowsRhythmParts() {
    // GS: part block 0 is channel 10, 1–9 are channels 1–9, A–F are 11–16.
    const MidiFile file = Builder()
                              .sysex("41 10 42 12 40 1A 15 02 0F F7")
                              .sysex("41 10 42 12 40 10 15 00 1B F7")
                              .sysex("43 10 4C 08 03 07 02 F7")
                              .file;
    const std::vector<RhythmPart> wanted = {{Channel{10}, true}, {Channel{9}, false}, {Channel{3}, true}};
    QCOMPARE(rhythmPartsOf(file), wanted);
    // They count from their place on, and on their port alone; a reset gives channel 10 back to drums.
    MidiFile later;
    later.tracks.resize(1);
    later.division.ticksPerQuarter = 480;
    later.addSysex(0, 480, hex("41 10 42 12 40 1A 15 02 0F F7"));
    later.addSysex(0, 960, hex("41 10 42 12 40 00 7F 00 41 F7"));
    const auto messages = rhythmPartsOf(later);
    QVERIFY(!madeDrums(messages, 0, Channel{10}, 479) && madeDrums(messages, 0, Channel{10}, 480));
    QVERIFY(!madeDrums(messages, 1, Channel{10}, 480) && !madeDrums(messages, 0, Channel{10}, 960));
    QVERIFY(madeDrums(messages, 0, Channel{9}, 960));
}

void TestNames::messagesInPiecesArePutTogether() {
    // SMF 1.0: F0 without a closing F7, then F7 events, the last of which ends with F7.
    const std::vector<std::uint8_t> bytes = {'M',  'T',  'h', 'd',  0,    0,    0,    6,    0,    0, 0,
                                             1,    0,    96,  'M',  'T',  'r',  'k',  0,    0,    0, 27,
                                             0,    0xF0, 3,   0x41, 0x10, 0x42, // GS reset in three pieces
                                             10,   0xF7, 4,   0x12, 0x40, 0x00, 0x7F, 10,   0xF7, 3, 0x00,
                                             0x41, 0xF7, 0,   0x90, 60,   100,  0,    0xFF, 0x2F, 0};
    const auto read = readMidi(bytes, "pieces.mid");
    QVERIFY(read.ok());
    QCOMPARE(dialectOf(read.value().midi), Dialect::GS);
    const auto kinds = deviceMessageKinds(read.value().midi);
    QCOMPARE(kinds.size(), std::size_t{1});
    QVERIFY(kinds[0].first.followed && kinds[0].first.tick == 0);
}

void TestNames::masterVolumesOfEachDialect() {
    const auto fixed = [](const char* sysex) { return deviceVolumeOf(Builder().sysex(sysex).file).fixed; };
    QCOMPARE(fixed("7F 7F 04 01 00 40 F7"), 8192 / 16383.0);
    QCOMPARE(fixed("41 10 42 12 40 00 04 64 58 F7"), 100 / 127.0);
    QCOMPARE(fixed("43 10 4C 00 00 04 40 F7"), 64 / 127.0);
    const MidiFile moves = Builder().sysex("7F 7F 04 01 00 40 F7").sysex("7F 7F 04 01 00 20 F7").file;
    QVERIFY(deviceVolumeOf(moves).moves && deviceVolumeOf(moves).fixed == 1);
    for (const auto& [message, times] : deviceMessageKinds(moves)) QVERIFY(message.followed && times == 1);
    // One that nothing would be heard by is not followed, and told.
    const MidiFile silent = Builder().sysex("7F 7F 04 01 00 00 F7").file;
    QVERIFY(deviceVolumeOf(silent).ignored && deviceVolumeOf(silent).fixed == 1);
    QVERIFY(!deviceMessageKinds(silent)[0].first.followed);
    // One that comes after the first note holds from there.
    Builder late;
    late.note(0, 0, 1, 60).file.addSysex(0, 480, hex("7F 7F 04 01 00 40 F7"));
    late.file.sortTracks();
    QVERIFY(deviceVolumeOf(late.file).moves);
}

QTEST_APPLESS_MAIN(TestNames)
#include "tst_names.moc"
