#include "support/support.h"

using namespace support;

class TestWriter : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void writesTheSpecificationsExampleToTheByte();
    void leavesRunningStatusOutWhenAsked();
    void readsBackWhatItWrote();
    void keepsSysexAndMeta();
    void bridgesTimesThatNoDeltaTimeCanSay();

  private:
    /// Tracks with the bytes of each event in place of where they stand in the file.
    static std::vector<std::pair<std::vector<Event>, std::vector<std::string>>>
    contentOf(const MidiFile& file);
};

std::vector<std::pair<std::vector<Event>, std::vector<std::string>>>
TestWriter::contentOf(const MidiFile& file) {
    std::vector<std::pair<std::vector<Event>, std::vector<std::string>>> content;
    for (const Track& track : file.tracks) {
        auto& [events, texts] = content.emplace_back();
        for (Event event : track.events) {
            texts.emplace_back(file.rawText(event));
            event.payload = noPayload;
            events.push_back(event);
        }
        texts.push_back(std::to_string(track.end));
    }
    return content;
}

void TestWriter::writesTheSpecificationsExampleToTheByte() {
    // RP-001: both files use running status where they can.
    for (const Bytes& bytes : {specificationFormat0(), specificationFormat1()})
        QCOMPARE(writeMidi(readMidi(bytes, "x").value().midi), bytes);
}

void TestWriter::leavesRunningStatusOutWhenAsked() {
    const MidiFile file = readMidi(specificationFormat0(), "x").value().midi;
    const Bytes plain = writeMidi(file, {.runningStatus = false});
    QVERIFY(plain.size() > writeMidi(file).size());
    QVERIFY(contentOf(readMidi(plain, "x").value().midi) == contentOf(file));
}

void TestWriter::readsBackWhatItWrote() {
    for (const char* name : {"lantern_quay.mid", "TIDEMILL.MID", "pilots-evening-song.kar"}) {
        const MidiFile file =
            readMidi(fileBytes(QStringLiteral(DEMO_FOLDER "/") + QLatin1String(name)), name).value().midi;
        const MidiFile again = readMidi(writeMidi(file), name).value().midi;
        QCOMPARE(again.type, file.type);
        QCOMPARE(again.division, file.division);
        QVERIFY(contentOf(again) == contentOf(file));
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

void TestWriter::bridgesTimesThatNoDeltaTimeCanSay() {
    // SMF 1.0: a delta time is at most 0x0FFFFFFF. What stands later is written in steps, and sounds when it
    // should.
    constexpr Tick most = 0x0FFFFFFF;
    for (const Tick tick : {most, most + 1, 2 * most, 5 * most + 7}) {
        Builder b;
        b.file.tracks[0].events.clear();
        b.file.addChannel(0, 0, 0x90, 60, 100);
        b.file.addChannel(0, tick, 0x90, 60, 0);
        b.file.addChannel(0, tick, 0x90, 62, 100);
        b.file.addChannel(0, tick + most + 3, 0x80, 62, 64);
        b.file.tracks[0].end = tick + 3 * most;
        const auto read = readMidi(writeMidi(b.file), "x");
        QVERIFY(read.ok());
        QVERIFY(read.value().damage.empty());
        const Track& track = read.value().midi.tracks[0];
        std::vector<std::pair<Tick, int>> notes;
        for (const Event& event : track.events) {
            if (event.isChannel()) notes.emplace_back(event.tick, event.data1);
            QVERIFY(event.isChannel() ||
                    (event.isMeta(meta::sequencerSpecific) && read.value().midi.bytes(event).empty()));
        }
        const std::vector<std::pair<Tick, int>> wanted = {
            {0, 60}, {tick, 60}, {tick, 62}, {tick + most + 3, 62}};
        QCOMPARE(notes, wanted);
        QCOMPARE(track.end, tick + 3 * most);
    }
}

QTEST_APPLESS_MAIN(TestWriter)
#include "tst_writer.moc"
