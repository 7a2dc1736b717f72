#include "support/support.h"

#include <random>

using namespace support;

class TestReader : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void readsVariableLengthNumbers_data();
    void readsVariableLengthNumbers();
    void readsTheSpecificationsExample();
    void keepsRunningStatusOverMeta();
    void readsPortAndChannelPrefix();
    void readsSmpteDivision();
    void readsTypeTwo();
    void mends_data();
    void mends();
    void endsHangingNotesAtTheNextOfTheirKey();
    void saysWhatAFileSeemsToBe_data();
    void saysWhatAFileSeemsToBe();
    void survivesAnyBytes();
    void memoryFollowsTheBytesNotTheLengths();
};

void TestReader::readsVariableLengthNumbers_data() {
    // Standard MIDI Files 1.0 (RP-001), table of variable-length quantities.
    QTest::addColumn<QByteArray>("bytes");
    QTest::addColumn<quint32>("value");
    const std::pair<const char*, quint32> rows[] = {{"00", 0},
                                                    {"40", 0x40},
                                                    {"7F", 0x7F},
                                                    {"8100", 0x80},
                                                    {"C000", 0x2000},
                                                    {"FF7F", 0x3FFF},
                                                    {"818000", 0x4000},
                                                    {"C08000", 0x100000},
                                                    {"FFFF7F", 0x1FFFFF},
                                                    {"81808000", 0x200000},
                                                    {"C0808000", 0x8000000},
                                                    {"FFFFFF7F", 0xFFFFFFF}};
    for (const auto& [bytes, value] : rows) QTest::newRow(bytes) << QByteArray::fromHex(bytes) << value;
}

void TestReader::readsVariableLengthNumbers() {
    QFETCH(QByteArray, bytes);
    QFETCH(quint32, value);
    const auto* at = reinterpret_cast<const std::uint8_t*>(bytes.constData());
    const auto* end = at + bytes.size();
    QCOMPARE(readVariable(at, end), value);
    QVERIFY(at == end);
    std::vector<std::uint8_t> written;
    appendVariable(written, value);
    QCOMPARE(
        QByteArray(reinterpret_cast<const char*>(written.data()), static_cast<qsizetype>(written.size())),
        bytes);
}

void TestReader::readsTheSpecificationsExample() {
    const auto read = readMidi(specificationFormat0(), "spec.mid");
    QVERIFY(read.ok());
    const MidiFile& file = read.value().midi;
    QCOMPARE(file.type, 0);
    QCOMPARE(file.division.ticksPerQuarter, 96);
    QCOMPARE(file.tracks.size(), std::size_t{1});
    QCOMPARE(file.tracks[0].end, Tick{384});
    QVERIFY(read.value().damage.empty());
    std::map<int, Tick> starts;
    for (const Event& event : file.tracks[0].events)
        if (event.isNoteOn()) starts[event.data1] = event.tick;
    QCOMPARE(starts, (std::map<int, Tick>{{48, 0}, {60, 0}, {67, 96}, {76, 192}}));
    const auto second = readMidi(specificationFormat1(), "spec.mid");
    QCOMPARE(second.value().midi.tracks.size(), std::size_t{4});
    QVERIFY(second.value().damage.empty());
}

void TestReader::keepsRunningStatusOverMeta() {
    // SMF 1.0 says a meta event ends running status; real files go on.
    const auto read =
        readMidi(joined({header(0, 1),
                         track(hex("00 90 3C 40  00 FF 01 01 41  10 3E 40  20 3C 00  00 3E 00  00 FF2F00"))}),
                 "x.mid");
    QCOMPARE(read.value().midi.tracks[0].events.size(), std::size_t{5});
    QCOMPARE(read.value().damage.size(), std::size_t{1});
}

void TestReader::readsPortAndChannelPrefix() {
    const auto read = readMidi(
        joined(
            {header(1, 1),
             track(hex(
                 "00 FF 21 01 02  00 FF 20 01 04  00 FF 03 02 4142  00 94 3C 40  10 84 3C 40  00 FF2F00"))}),
        "x.mid");
    const auto& events = read.value().midi.tracks[0].events;
    QCOMPARE(int(events[3].port), 2);
    QCOMPARE(int(events[2].data2), 5); // prefix + 1
    const Song song = makeSong(std::make_shared<const SourceFile>(read.value()));
    QCOMPARE(song.parts[0].port, 2);
    QCOMPARE(song.parts[0].name, std::string("AB"));
}

void TestReader::readsSmpteDivision() {
    const auto read =
        readMidi(joined({header(0, 1, 0xE728), track(hex("00 90 3C 40  87 68 80 3C 40  00 FF2F00"))}),
                 "x.mid"); // −25 frames, 40 ticks
    QVERIFY(read.value().midi.division.isSmpte());
    QCOMPARE(read.value().midi.division.smpteTicksPerSecond(), 1000.0);
    QCOMPARE(makeSong(std::make_shared<const SourceFile>(read.value())).seconds(), 1.0); // 1000 ticks
}

void TestReader::readsTypeTwo() {
    const Bytes one = track(hex("00 90 3C 40  60 80 3C 40  00 FF2F00"));
    const Song song = songOf(joined({header(2, 2), one, one}));
    QCOMPARE(song.trackStarts, (std::vector<Tick>{0, 96}));
    QCOMPARE(song.end, Tick{192});
    QCOMPARE(song.parts.size(), std::size_t{2});
}

void TestReader::mends_data() {
    QTest::addColumn<QByteArray>("bytes");
    QTest::addColumn<int>("notes");   // note-ons that must be there
    QTest::addColumn<int>("reports"); // at least so many mends reported
    const auto row = [](const char* name, const Bytes& bytes, int notes, int reports) {
        QTest::newRow(name) << QByteArray(reinterpret_cast<const char*>(bytes.data()),
                                          static_cast<qsizetype>(bytes.size()))
                            << notes << reports;
    };
    const Bytes good = hex("00 90 3C 40  60 80 3C 40  00 FF2F00");
    const Bytes rmidChunk =
        joined({hex("52494646 FF000000 524D4944 64617461 F0000000"), header(0, 1), track(good)});
    row("sound file", joined({header(0, 1), track(good)}), 1, 0);
    row("RIFF wrapper (RP-029)", rmidChunk, 1, 0);
    row("junk before the header", joined({hex("00112233445566778899"), header(0, 1), track(good)}), 1, 1);
    row("no header", track(good), 1, 1);
    row("header cut off", hex("4D546864 000000"), 0, 1);
    row("longer header, as the standard allows for",
        joined({hex("4D546864 00000008 0000 0001 0060 0000"), track(good)}), 1, 0);
    row("header length wrong", joined({hex("4D546864 000000FF 0000 0001 0060"), track(good)}), 1, 1);
    row("more tracks promised", joined({header(1, 9), track(good)}), 1, 1);
    row("fewer tracks promised", joined({header(1, 1), track(good), track(good)}), 2, 1);
    row("type 0 with two tracks", joined({header(0, 2), track(good), track(good)}), 2, 1);
    row("type 7", joined({header(7, 1), track(good)}), 1, 1);
    row("division 0", joined({header(0, 1, 0), track(good)}), 1, 1);
    row("unknown chunk between",
        joined({header(1, 2), track(good), hex("58464948 00000004 01020304"), track(good)}), 2, 1);
    row("track length too short", joined({header(0, 1), hex("4D54726B 00000003"), good}), 1, 1);
    row("track length too long", joined({header(0, 1), hex("4D54726B 00FFFFFF"), good}), 1, 1);
    row("track length too long, a track after it",
        joined({header(1, 2), hex("4D54726B 00000020"), good, track(good)}), 2, 1);
    row("no end of track", joined({header(0, 1), track(hex("00 90 3C 40  60 80 3C 40"))}), 1, 1);
    row("cut off in a note", joined({header(0, 1), hex("4D54726B 00000040 00 90 3C 40 60 80 3C")}), 1, 2);
    row("text longer than its track",
        joined({header(0, 1), track(hex("00 90 3C 40 10 80 3C 40 00 FF 01 FF FF 7F 41"))}), 1, 1);
    row("five-byte delta",
        joined({header(0, 1), track(hex("80 80 80 80 00 90 3C 40  10 80 3C 40  00 FF2F00"))}), 1, 0);
    row("stray data bytes",
        joined({header(0, 1), track(hex("00 12 34  00 90 3C 40  10 80 3C 40  00 FF2F00"))}), 1, 1);
    row("live messages in the file",
        joined({header(0, 1), track(hex("00 F8  00 F2 01 02  00 90 3C 40  10 80 3C 40  00 FF2F00"))}), 1, 1);
    row("message cut short by the next",
        joined({header(0, 1), track(hex("00 90 3C 90 3E 40  10 80 3E 40  00 FF2F00"))}), 1, 1);
    row("note without end", joined({header(0, 1), track(hex("00 90 3C 40  60 FF2F00"))}), 1, 1);
    row("end without note",
        joined({header(0, 1), track(hex("00 80 3C 40  00 90 3C 40  60 80 3C 40  00 FF2F00"))}), 1, 0);
    row("padding after the last track", joined({header(0, 1), track(good), hex("00000000000000000000")}), 1,
        0);
    row("bytes after the end mark", joined({header(0, 1), track(joined({good, hex("0102030405")}))}), 1, 1);
}

void TestReader::mends() {
    QFETCH(QByteArray, bytes);
    QFETCH(int, notes);
    QFETCH(int, reports);
    const auto read = readMidi(Bytes(bytes.begin(), bytes.end()), "x.mid");
    QVERIFY2(read.ok(), read ? "" : read.error().message().c_str());
    int ons = 0, offs = 0;
    for (const Track& t : read.value().midi.tracks)
        for (const Event& event : t.events) {
            ons += event.isNoteOn();
            offs += event.isNoteOff();
        }
    QCOMPARE(ons, notes);
    QVERIFY(offs >= ons);
    QVERIFY2(reports == 0 ? read.value().damage.empty()
                          : static_cast<int>(read.value().damage.size()) >= reports,
             read.value().damage.empty() ? "nothing reported" : read.value().damage.front().what.c_str());
    for (const Damage& damage : read.value().damage) {
        QVERIFY(damage.offset <= static_cast<std::uint64_t>(bytes.size()));
        QVERIFY(!damage.what.empty());
    }
}

void TestReader::endsHangingNotesAtTheNextOfTheirKey() {
    const auto read = readMidi(
        joined({header(0, 1), track(hex("00 90 3C 40  60 90 3C 50  60 80 3C 40  20 FF2F00"))}), "x.mid");
    std::vector<Tick> ends;
    for (const Event& event : read.value().midi.tracks[0].events)
        if (event.isNoteOff()) ends.push_back(event.tick);
    QCOMPARE(ends, (std::vector<Tick>{0x60, 0xC0}));
}

void TestReader::saysWhatAFileSeemsToBe_data() {
    QTest::addColumn<QByteArray>("bytes");
    QTest::addColumn<QString>("word");
    QTest::newRow("empty") << QByteArray() << "empty";
    QTest::newRow("wave") << QByteArray("RIFF\x10\0\0\0WAVEfmt ", 16) << "WAV";
    QTest::newRow("zip") << QByteArray("PK\x03\x04zzzzzzzzzzzz") << "ZIP";
    QTest::newRow("mp3") << QByteArray("ID3\x04zzzzzzzzzz") << "MP3";
    QTest::newRow("text") << QByteArray("Dear diary, today the tide") << "other than";
}

void TestReader::saysWhatAFileSeemsToBe() {
    QFETCH(QByteArray, bytes);
    QFETCH(QString, word);
    const auto read = readMidi(Bytes(bytes.begin(), bytes.end()), "odd.mid");
    QVERIFY(!read.ok());
    QVERIFY(QString::fromStdString(read.error().what).contains(word));
    QCOMPARE(read.error().where, std::string("odd.mid"));
    QVERIFY(!read.error().whatNow.empty());
}

void TestReader::survivesAnyBytes() {
    std::mt19937 random(7);
    const std::vector<Bytes> seeds = {specificationFormat0(), specificationFormat1(),
                                      fileBytes(QStringLiteral(DEMO_FOLDER "/SLACKW~1.MID"))};
    QVERIFY(!seeds[2].empty());
    for (int round = 0; round < 4000; ++round) {
        Bytes bytes = seeds[static_cast<std::size_t>(round) % seeds.size()];
        if (bytes.size() > 4000) bytes.resize(400 + random() % 3600);
        for (unsigned i = 0; i < 1 + random() % 12; ++i) {
            const std::size_t at = random() % bytes.size();
            if (random() % 4 == 0)
                bytes.erase(bytes.begin() + static_cast<std::ptrdiff_t>(at));
            else
                bytes[at] = static_cast<std::uint8_t>(random());
        }
        const auto read = readMidi(bytes, "x.mid");
        if (!read) continue;
        for (const Track& t : read.value().midi.tracks)
            for (std::size_t i = 1; i < t.events.size(); ++i)
                QVERIFY(t.events[i - 1].tick <= t.events[i].tick);
        const Song song = makeSong(std::make_shared<const SourceFile>(read.value()));
        QVERIFY(song.bars() >= 1);
        // What was read can be written and read again, with the same notes.
        const auto again = readMidi(writeMidi(read.value().midi), "y.mid");
        QVERIFY(again.ok());
    }
}

void TestReader::memoryFollowsTheBytesNotTheLengths() {
    const auto read =
        readMidi(joined({header(1, 1), hex("4D54726B FFFFFFFF 00 FF 01 FF FF FF 7F 41 42")}), "x.mid");
    QVERIFY(read.ok());
    QVERIFY(read.value().midi.tracks[0].events.capacity() < 64);
    QCOMPARE(read.value().midi.bytes(read.value().midi.tracks[0].events[0]).size(), std::size_t{2});
}

QTEST_APPLESS_MAIN(TestReader)
#include "tst_reader.moc"
