#include "support/support.h"

using namespace support;

class TestWriter : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void writesTheSpecificationsExampleToTheByte();
    void leavesRunningStatusOutWhenAsked();
    void readsBackWhatItWrote();
    void keepsSysexAndMeta();
};

void TestWriter::writesTheSpecificationsExampleToTheByte() {
    // RP-001: both files use running status where they can.
    for (const Bytes& bytes : {specificationFormat0(), specificationFormat1()})
        QCOMPARE(writeMidi(readMidi(bytes, "x").value().midi), bytes);
}

void TestWriter::leavesRunningStatusOutWhenAsked() {
    const MidiFile file = readMidi(specificationFormat0(), "x").value().midi;
    const Bytes plain = writeMidi(file, {.runningStatus = false});
    QVERIFY(plain.size() > writeMidi(file).size());
    QCOMPARE(readMidi(plain, "x").value().midi.tracks, file.tracks);
}

void TestWriter::readsBackWhatItWrote() {
    for (const char* name : {"lantern_quay.mid", "TIDEMILL.MID", "pilots-evening-song.kar"}) {
        const MidiFile file =
            readMidi(fileBytes(QStringLiteral(DEMO_FOLDER "/") + QLatin1String(name)), name).value().midi;
        const MidiFile again = readMidi(writeMidi(file), name).value().midi;
        QCOMPARE(again.type, file.type);
        QCOMPARE(again.division, file.division);
        QCOMPARE(again.tracks, file.tracks);
    }
}

void TestWriter::keepsSysexAndMeta() {
    Builder b;
    b.file.tracks[0].events.clear();
    b.sysex("7E 7F 09 01 F7");
    b.file.addText(0, 10, meta::marker, "Quay");
    b.file.addTempo(0, 20, 461538);
    b.file.tracks[0].end = 100;
    const MidiFile again = readMidi(writeMidi(b.file), "x").value().midi;
    QCOMPARE(again.tracks[0].events.size(), std::size_t{3});
    QCOMPARE(again.bytes(again.tracks[0].events[0]).size(), std::size_t{5});
    QCOMPARE(again.rawText(again.tracks[0].events[1]), std::string_view("Quay"));
    QCOMPARE(tempoOf(again.bytes(again.tracks[0].events[2])), 461538);
    QCOMPARE(again.tracks[0].end, Tick{100});
}

QTEST_APPLESS_MAIN(TestWriter)
#include "tst_writer.moc"
