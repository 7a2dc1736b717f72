#include "support/support.h"

#include "midi/devicemessages.h"
#include "midi/devicesettings.h"

#include "song/heard/realise.h"

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
    void fixes_data();
    void fixes();
    void chunksOfOtherKinds_data();
    void chunksOfOtherKinds();
    void endsHangingNotesAtTheNextOfTheirKey();
    void overlapsEndWithTheFirstThatBegan();
    void reportsTellTrackAndByte();
    void lengthsOfAllSizesAreRead();
    void whatIsReadOfDamageIsExact_data();
    void whatIsReadOfDamageIsExact();
    void bigFilesInBoundedTime_data();
    void bigFilesInBoundedTime();
    void typeTwoAsSongs();
    void dialects_data();
    void dialects();
    void listsDeviceMessages();
    void saysWhatAFileSeemsToBe_data();
    void saysWhatAFileSeemsToBe();
    void survivesAnyBytes();
    void memoryFollowsTheBytesNotTheLengths();
    void lengthsThatCannotBeAreCut();
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
    QCOMPARE(song.parts[0].source.port, 2);
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
    QCOMPARE(*song.trackStarts, (std::vector<Tick>{0, 96}));
    QCOMPARE(song.end, Tick{192});
    QCOMPARE(song.parts.size(), std::size_t{2});
}

void TestReader::fixes_data() {
    QTest::addColumn<QByteArray>("bytes");
    QTest::addColumn<int>("notes");   // note-ons that must be there
    QTest::addColumn<int>("reports"); // at least so many fixes reported
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
        joined({header(0, 1), track(hex("80 80 80 80 00 90 3C 40  10 80 3C 40  00 FF2F00"))}), 1, 1);
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
    row("end mark too early, notes after it",
        joined({header(0, 1), track(joined({good, hex("00 90 40 40  60 80 40 40  00 FF2F00")}))}), 2, 1);
    row("end mark too early, no other",
        joined({header(0, 1), track(joined({good, hex("00 90 40 40  60 80 40 40")}))}), 2, 1);
    Bytes macBinary(128, 0);
    macBinary[1] = 4;
    macBinary[2] = 'Q';
    row("MacBinary", joined({macBinary, header(0, 1), track(good)}), 1, 1);
    row("unknown chunk with an absurd length",
        joined({header(1, 2), track(good), hex("58464948 FFFFFFF0 01020304"), track(good)}), 2, 1);
    row("track length absurd", joined({header(0, 1), hex("4D54726B FFFFFFFF"), good}), 1, 1);
    row("track length zero", joined({header(0, 1), hex("4D54726B 00000000"), good}), 1, 1);
    row("undefined status bytes",
        joined({header(0, 1), track(hex("00 F4  00 F5  00 F9  00 FD  00 90 3C 40  10 80 3C 40  00 FF2F00"))}),
        1, 1);
    row("running status over a device message",
        joined({header(0, 1),
                track(hex("00 90 3C 40  00 F0 03 7D 01 F7  10 3E 40  20 3C 00  00 3E 00  00 FF2F00"))}),
        2, 1);
    row("device message without end",
        joined({header(0, 1), track(hex("00 F0 02 7D 01  00 90 3C 40  10 80 3C 40  00 FF2F00"))}), 1, 1);
    row("device message in pieces, as the standard has it",
        joined({header(0, 1),
                track(hex("00 F0 02 7D 01  08 F7 02 02 F7  00 90 3C 40  10 80 3C 40  00 FF2F00"))}),
        1, 0);
    row("escape, as the standard has it",
        joined({header(0, 1), track(hex("00 F7 02 F3 01  00 90 3C 40  10 80 3C 40  00 FF2F00"))}), 1, 0);
    row("tempo 0",
        joined({header(0, 1), track(hex("00 FF5103 000000  00 90 3C 40  10 80 3C 40  00 FF2F00"))}), 1, 1);
    row("tempo cut short",
        joined({header(0, 1), track(hex("00 FF5101 07  00 90 3C 40  10 80 3C 40  00 FF2F00"))}), 1, 1);
    row("tempo on a later track",
        joined({header(1, 2), track(good), track(hex("00 FF5103 07A120  00 FF2F00"))}), 1, 0);
    row("five-byte length of a text",
        joined(
            {header(0, 1), track(hex("00 FF 01 80 80 80 80 02 41 42  00 90 3C 40  10 80 3C 40  00 FF2F00"))}),
        1, 1);
    row("ticks past any number",
        joined({header(0, 1), track(hex("FF FF FF FF 7F 90 3C 40  FF FF FF FF 7F 80 3C 40  00 FF2F00"))}), 1,
        1);
    row("zero length note", joined({header(0, 1), track(hex("00 90 3C 40  00 80 3C 40  00 FF2F00"))}), 1, 0);
    row("notes of one key that overlap",
        joined({header(0, 1), track(hex("00 90 3C 40  10 90 3C 50  10 80 3C 40  10 80 3C 40  00 FF2F00"))}),
        2, 0);
    row("bytes after the end mark", joined({header(0, 1), track(joined({good, hex("0102030405")}))}), 1, 1);
}

/// SMF 1.0 (from memory): "Your programs should expect alien chunks and treat them as if they weren't there."
void TestReader::chunksOfOtherKinds_data() {
    QTest::addColumn<QByteArray>("bytes");
    QTest::addColumn<int>("told");
    QTest::addColumn<bool>("harmless");
    const Bytes good = hex("00 90 3C 40  60 80 3C 40  00 FF2F00"), one = hex("58464948 00000004 01020304"),
                two = hex("58464B4D 00000003 010203"), none = hex("4E6F7465 00000000");
    const auto row = [](const char* name, const Bytes& bytes, int told, bool harmless) {
        QTest::newRow(name) << QByteArray(reinterpret_cast<const char*>(bytes.data()),
                                          static_cast<qsizetype>(bytes.size()))
                            << told << harmless;
    };
    row("between", joined({header(1, 2), track(good), one, track(good)}), 1, true);
    row("before the first", joined({header(1, 2), one, track(good), track(good)}), 1, true);
    row("after the last", joined({header(1, 2), track(good), track(good), one}), 1, true);
    row("two of them", joined({header(1, 2), track(good), one, two, track(good)}), 2, true);
    row("two at the end", joined({header(1, 2), track(good), track(good), two, one}), 2, true);
    row("an empty one", joined({header(1, 2), track(good), none, track(good)}), 1, true);
    row("before padding", joined({header(1, 2), track(good), track(good), one, hex("0000000000")}), 1, true);
    row("one that is cut", joined({header(1, 2), track(good), track(good), hex("58464948 00000009 01")}), 1,
        false);
    row("bytes that are none", joined({header(1, 2), track(good), hex("01020304 00000001 01"), track(good)}),
        1, false);
    row("another header", joined({header(1, 2), track(good), header(1, 1), track(good)}), 1, false);
    row("one byte", joined({header(1, 2), track(good), hex("01"), track(good)}), 1, false);
    row("a tag and no more", joined({header(1, 2), track(good), track(good), hex("58464948 0000")}), 1,
        false);
}

void TestReader::chunksOfOtherKinds() {
    QFETCH(QByteArray, bytes);
    QFETCH(int, told);
    QFETCH(bool, harmless);
    const auto read = readMidi(Bytes(bytes.begin(), bytes.end()), "x.mid");
    QVERIFY(read.ok());
    QCOMPARE(read.value().midi.tracks.size(), std::size_t{2});
    QCOMPARE(static_cast<int>(read.value().damage.size()), told);
    for (const Damage& damage : read.value().damage) QCOMPARE(damage.harmless, harmless);
}

void TestReader::fixes() {
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
    QVERIFY2(
        reports == 0 ? read.value().damage.empty() : static_cast<int>(read.value().damage.size()) >= reports,
        read.value().damage.empty() ? "nothing reported" : inWords(read.value().damage.front().what).c_str());
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

void TestReader::overlapsEndWithTheFirstThatBegan() {
    const Song song = songOf(
        joined({header(0, 1), track(hex("00 90 3C 40  10 90 3C 50  10 80 3C 40  10 80 3C 40  00 FF2F00"))}));
    const auto notes = realise(song, song.parts[0]).notes;
    QCOMPARE(notes[0].end, Tick{0x20});
    QCOMPARE(notes[1].end, Tick{0x30});
}

void TestReader::reportsTellTrackAndByte() {
    const Bytes good = track(hex("00 90 3C 40  60 80 3C 40  00 FF2F00"));
    const auto read = readMidi(
        joined({header(1, 2), good, track(hex("00 F4  00 90 3C 40  60 80 3C 40  00 FF2F00"))}), "x.mid");
    QCOMPARE(read.value().damage.size(), std::size_t{1});
    QCOMPARE(read.value().damage[0].track, 2);
    QCOMPARE(read.value().damage[0].offset, std::uint64_t{14 + good.size() + 8 + 2});
}

/// Lengths are four bytes, the highest first (SMF 1.0): tracks whose length needs each of them.
void TestReader::lengthsOfAllSizesAreRead() {
    for (const std::size_t events : {3U, 100U, 20'000U, 4'300'000U}) {
        Bytes bytes;
        bytes.reserve(events * 4 + 4);
        for (std::size_t i = 0; i < events; ++i)
            bytes.insert(bytes.end(), {0, 0xB0, 7, static_cast<std::uint8_t>(i % 128)});
        bytes.insert(bytes.end(), {0, 0xFF, 0x2F, 0});
        const auto read = readMidi(joined({header(1, 2), track(bytes), track(hex("00 FF2F00"))}), "x.mid");
        QVERIFY(read.ok());
        QVERIFY(read.value().damage.empty());
        QCOMPARE(read.value().midi.tracks[0].events.size(), events);
    }
}

namespace {

/// A file as text: type and division; each track's events as "tick:bytes", and its end; each report as
/// "id@track:offset".
QString described(const SourceFile& file) {
    const Division& division = file.midi.division;
    QStringList said = {
        QStringLiteral("%1/%2")
            .arg(file.midi.type)
            .arg(division.isSmpte()
                     ? QStringLiteral("%1x%2").arg(division.framesPerSecond).arg(division.ticksPerFrame)
                     : QString::number(division.ticksPerQuarter))};
    for (const Track& track : file.midi.tracks) {
        said << QStringLiteral("[");
        for (const Event& event : track.events)
            said << QStringLiteral("%1:%2")
                        .arg(event.tick)
                        .arg(event.isChannel() ? QStringLiteral("%1 %2 %3")
                                                     .arg(event.status, 2, 16)
                                                     .arg(event.data1, 2, 16, QLatin1Char('0'))
                                                     .arg(event.data2, 2, 16, QLatin1Char('0'))
                                               : QString::number(event.status, 16));
        said << QStringLiteral("%1]").arg(track.end);
    }
    for (const Damage& damage : file.damage)
        said << QStringLiteral("%1@%2:%3%4")
                    .arg(QString::fromStdString(damage.what.id).remove(QStringLiteral("damage.")))
                    .arg(damage.track)
                    .arg(damage.offset)
                    .arg(damage.harmless ? QStringLiteral("~") : QString());
    return said.join(QLatin1Char(' '));
}

/// The 128 bytes of a MacBinary header, with a name of so many letters.
Bytes macBinary(std::uint8_t name, std::size_t set = 0) {
    Bytes head(128, 0);
    head[1] = name;
    if (set > 0) head[set] = 1;
    return head;
}

} // namespace

/// What the standard (SMF 1.0, RP-001) leaves no doubt about is read as it says; what breaks it is told with
/// its place, and read as people would expect (common practice, no source).
void TestReader::whatIsReadOfDamageIsExact_data() {
    QTest::addColumn<QByteArray>("bytes");
    QTest::addColumn<QString>("expected");
    const auto row = [](const char* name, const Bytes& bytes, const char* expected) {
        QTest::newRow(name) << QByteArray(reinterpret_cast<const char*>(bytes.data()),
                                          static_cast<qsizetype>(bytes.size()))
                            << QString::fromLatin1(expected);
    };
    const Bytes one = track(hex("00 90 3C 40  60 80 3C 40  00 FF2F00"));
    const auto after = [&](const Bytes& before) { return joined({before, header(0, 1), one}); };
    const auto timed = [&](int division) { return joined({header(0, 1, division), one}); };
    const auto of = [&](const char* events) { return joined({header(0, 1), track(hex(events))}); };
    const auto stated = [&](std::uint8_t length, const char* events) {
        Bytes chunk = track(hex(events));
        chunk[7] = length;
        return chunk;
    };
    row("MacBinary", after(macBinary(8)), "0/96 [ 0:90 3c 40 96:80 3c 40 96] macbinary@0:0");
    row("MacBinary, shortest name", after(macBinary(1)), "0/96 [ 0:90 3c 40 96:80 3c 40 96] macbinary@0:0");
    row("MacBinary, longest name", after(macBinary(63)), "0/96 [ 0:90 3c 40 96:80 3c 40 96] macbinary@0:0");
    row("no MacBinary: no name", after(macBinary(0)), "0/96 [ 0:90 3c 40 96:80 3c 40 96] begins-late@0:0");
    row("no MacBinary: long name", after(macBinary(64)), "0/96 [ 0:90 3c 40 96:80 3c 40 96] begins-late@0:0");
    row("no MacBinary: byte 0", after([] {
            Bytes head = macBinary(8);
            head[0] = 1;
            return head;
        }()),
        "0/96 [ 0:90 3c 40 96:80 3c 40 96] begins-late@0:0");
    row("no MacBinary: byte 74", after(macBinary(8, 74)),
        "0/96 [ 0:90 3c 40 96:80 3c 40 96] begins-late@0:0");
    row("no MacBinary: byte 82", after(macBinary(8, 82)),
        "0/96 [ 0:90 3c 40 96:80 3c 40 96] begins-late@0:0");
    row("no MacBinary: 127 bytes", after(Bytes(127, 0)), "0/96 [ 0:90 3c 40 96:80 3c 40 96] begins-late@0:0");
    row("RIFF that is no RMID", after(hex("52494646 00000030 57415645")),
        "0/96 [ 0:90 3c 40 96:80 3c 40 96] begins-late@0:0");
    row("RMID", after(hex("52494646 00000030 524D4944 64617461 00000028")),
        "0/96 [ 0:90 3c 40 96:80 3c 40 96]");
    row("24 frames", timed(0xE850), "0/24x80 [ 0:90 3c 40 96:80 3c 40 96]");
    row("25 frames", timed(0xE728), "0/25x40 [ 0:90 3c 40 96:80 3c 40 96]");
    row("29 frames", timed(0xE304), "0/29x4 [ 0:90 3c 40 96:80 3c 40 96]");
    row("30 frames", timed(0xE20A), "0/30x10 [ 0:90 3c 40 96:80 3c 40 96]");
    row("26 frames", timed(0xE60A), "0/25x10 [ 0:90 3c 40 96:80 3c 40 96] frame-rate@0:12");
    row("23 frames", timed(0xE90A), "0/25x10 [ 0:90 3c 40 96:80 3c 40 96] frame-rate@0:12");
    row("no ticks in a frame", timed(0xE700), "0/25x40 [ 0:90 3c 40 96:80 3c 40 96] frame-rate@0:12");
    row("no ticks in a quarter", timed(0), "0/480 [ 0:90 3c 40 96:80 3c 40 96] no-ticks@0:12");
    row("type 3", joined({header(3, 1), one}), "1/96 [ 0:90 3c 40 96:80 3c 40 96] type@0:8");
    row("type 0 with two tracks", joined({header(0, 2), one, one}),
        "1/96 [ 0:90 3c 40 96:80 3c 40 96] [ 0:90 3c 40 96:80 3c 40 96] type-0@0:8");
    row("fewer tracks than stated", joined({header(1, 3), one}),
        "1/96 [ 0:90 3c 40 96:80 3c 40 96] track-count@0:10");
    row("more tracks than stated", joined({header(1, 1), one, one}),
        "1/96 [ 0:90 3c 40 96:80 3c 40 96] [ 0:90 3c 40 96:80 3c 40 96] track-count@0:10");
    row(
        "a header of 13 bytes",
        [] {
            Bytes head = header(0, 1);
            head.pop_back();
            return joined({hex("4D54726B"), head});
        }(),
        "1/480 begins-late@0:0 header-cut@0:4 no-track@0:17");
    row("a header and nothing else", header(0, 0), "0/96 no-track@0:14");
    row("zeros after", joined({header(0, 1), one, hex("0000")}), "0/96 [ 0:90 3c 40 96:80 3c 40 96]");
    row("bytes after", joined({header(0, 1), one, hex("0102")}),
        "0/96 [ 0:90 3c 40 96:80 3c 40 96] bytes-after@0:34");
    row("a chunk of another kind", joined({header(1, 2), one, hex("58594A4B 00000003 010203"), one}),
        "1/96 [ 0:90 3c 40 96:80 3c 40 96] [ 0:90 3c 40 96:80 3c 40 96] unknown-chunk@0:34~");
    row("bytes between", joined({header(1, 2), one, hex("01020304 05060708 09"), one}),
        "1/96 [ 0:90 3c 40 96:80 3c 40 96] [ 0:90 3c 40 96:80 3c 40 96] bytes-between@0:34");
    row("a track shorter than stated",
        joined({header(1, 1), stated(40, "00 90 3C 40  60 80 3C 40  00 FF2F00")}),
        "1/96 [ 0:90 3c 40 96:80 3c 40 96] track-longer@1:18");
    row("a length that is too short",
        joined({header(1, 2), stated(5, "00 90 3C 40  60 80 3C 40  00 FF2F00"), one}),
        "1/96 [ 0:90 3c 40 96:80 3c 40 96] [ 0:90 3c 40 96:80 3c 40 96] track-goes-on@1:34");
    row("a length that is too long",
        joined({header(1, 2), stated(15, "00 90 3C 40  60 80 3C 40  00 FF2F00"), one}),
        "1/96 [ 0:90 3c 40 96:80 3c 40 96] [ 0:90 3c 40 96:80 3c 40 96] track-length@1:34");
    row("after the end mark nothing",
        joined({header(1, 2), track(hex("00 90 3C 40  60 80 3C 40  00 FF2F00  0000")), one}),
        "1/96 [ 0:90 3c 40 96:80 3c 40 96] [ 0:90 3c 40 96:80 3c 40 96] after-end@1:34");
    row("after the end mark notes",
        of("00 90 3C 40  60 80 3C 40  00 FF2F00  00 90 40 40  60 80 40 40  00 FF2F00"),
        "0/96 [ 0:90 3c 40 96:80 3c 40 96:90 40 40 192:80 40 40 192] early-end@1:34");
    row("after the end mark controllers", of("00 90 3C 40  60 80 3C 40  00 FF2F00  00 B0 07 40  00 FF2F00"),
        "0/96 [ 0:90 3c 40 96:80 3c 40 96] after-end@1:34");
    row("after the end mark what is no event",
        of("00 90 3C 40  60 80 3C 40  00 FF2F00  00 90 40 C0  00 FF2F00"),
        "0/96 [ 0:90 3c 40 96:80 3c 40 96] after-end@1:34");
    row("after the end mark a live message",
        of("00 90 3C 40  60 80 3C 40  00 FF2F00  00 F8 00 90 40 40  00 FF2F00"),
        "0/96 [ 0:90 3c 40 96:80 3c 40 96] after-end@1:34");
    row("after the end mark a live message with data",
        of("00 90 3C 40  60 80 3C 40  00 FF2F00  00 F6 01 01  00 90 40 40  00 FF2F00"),
        "0/96 [ 0:90 3c 40 96:80 3c 40 96] after-end@1:34");
    row("no end mark, and an empty chunk after",
        joined({header(0, 1), track(hex("00 90 3C 40  60 80 3C 40")), hex("58594A4B 00000000")}),
        "0/96 [ 0:90 3c 40 96:80 3c 40 96] no-end@1:30 unknown-chunk@0:30~");
    row("no end mark", of("00 90 3C 40  60 80 3C 40"), "0/96 [ 0:90 3c 40 96:80 3c 40 96] track-cut@1:30");
    row("F1 has one byte", of("00 90 3C 40  00 F1 05  60 80 3C 40  00 FF2F00"),
        "0/96 [ 0:90 3c 40 96:80 3c 40 96] live-message@1:28");
    row("F2 has two bytes", of("00 90 3C 40  00 F2 05 06  60 80 3C 40  00 FF2F00"),
        "0/96 [ 0:90 3c 40 96:80 3c 40 96] live-message@1:28");
    row("F3 has one byte", of("00 90 3C 40  00 F3 05  60 80 3C 40  00 FF2F00"),
        "0/96 [ 0:90 3c 40 96:80 3c 40 96] live-message@1:28");
    row("F6 has none", of("00 90 3C 40  00 F6  60 80 3C 40  00 FF2F00"),
        "0/96 [ 0:90 3c 40 96:80 3c 40 96] live-message@1:28");
    row("a message that stays open", of("00 90 3C 40  00 F0 02 41 10  60 80 3C 40  00 FF2F00"),
        "0/96 [ 0:90 3c 40 0:f0 96:80 3c 40 96] open-message@1:29");
    row("a message in pieces", of("00 F0 02 41 10  10 F7 02 42 F7  00 90 3C 40  60 80 3C 40  00 FF2F00"),
        "0/96 [ 0:f0 16:f7 16:90 3c 40 112:80 3c 40 112]");
    row("a note without an end", of("00 91 3C 40  60 81 3D 40  00 FF2F00"),
        "0/96 [ 0:91 3c 40 96:81 3d 40 96:81 3c 40 96] open-notes@1:22");
    row("a note ended on another track",
        joined({header(1, 2), track(hex("00 90 3C 40  60 FF2F00")), track(hex("40 80 3C 40  20 FF2F00"))}),
        "1/96 [ 0:90 3c 40 96] [ 64:80 3c 40 96]");
    row("an end for one of two",
        joined({header(1, 2), track(hex("00 90 3C 40  10 90 3C 50  50 FF2F00")),
                track(hex("40 80 3C 40  20 FF2F00"))}),
        "1/96 [ 0:90 3c 40 16:80 3c 40 16:90 3c 50 96] [ 64:80 3c 40 96] open-notes@1:22");
    row("of type 2 tracks are apart",
        joined({header(2, 2), track(hex("00 90 3C 40  60 FF2F00")), track(hex("40 80 3C 40  20 FF2F00"))}),
        "2/96 [ 0:90 3c 40 96:80 3c 40 96] [ 64:80 3c 40 96] open-notes@1:22");
}

void TestReader::whatIsReadOfDamageIsExact() {
    QFETCH(QByteArray, bytes);
    QFETCH(QString, expected);
    const auto read = readMidi(Bytes(bytes.begin(), bytes.end()), "x.mid");
    QCOMPARE(read ? described(read.value()) : QString::fromStdString(read.error().what.id), expected);
}

void TestReader::bigFilesInBoundedTime_data() {
    QTest::addColumn<int>("kind");
    QTest::newRow("a million events at one tick") << 0;
    QTest::newRow("a thousand tracks") << 1;
    QTest::newRow("a hundred thousand empty tracks with wrong lengths") << 2;
    QTest::newRow("a million texts on tracks of many channels") << 3;
}

void TestReader::bigFilesInBoundedTime() {
    QFETCH(int, kind);
    Bytes bytes = header(1, 1);
    std::size_t notes = 0;
    const auto add = [&bytes](const Bytes& more) { bytes.insert(bytes.end(), more.begin(), more.end()); };
    if (kind == 0 || kind == 3) {
        Bytes events;
        for (int i = 0; i < 500000; ++i) {
            const auto channel = static_cast<std::uint8_t>(i % 16), key = static_cast<std::uint8_t>(i % 128);
            const std::uint8_t note[] = {0, static_cast<std::uint8_t>(0x90 | channel), key, 64,
                                         0, static_cast<std::uint8_t>(0x80 | channel), key, 64};
            const std::uint8_t text[] = {0, 0xFF, 1, 1, 'a', 0, 0xFF, 1, 1, 'b'};
            kind == 0 ? events.insert(events.end(), std::begin(note), std::end(note))
                      : events.insert(events.end(), std::begin(text), std::end(text));
            notes += kind == 0;
        }
        add(track(events));
    }
    for (int t = 0; t < (kind == 1 ? 1000 : kind == 2 ? 100000 : kind == 3 ? 200 : 0); ++t) {
        Bytes events;
        for (int channel = 0; channel < (kind == 2 ? 0 : 16); ++channel) {
            const std::uint8_t note[] = {0, static_cast<std::uint8_t>(0x90 | channel), 60, 64,
                                         9, static_cast<std::uint8_t>(0x80 | channel), 60, 64};
            events.insert(events.end(), std::begin(note), std::end(note));
            ++notes;
        }
        Bytes chunk = track(events);
        if (kind == 2) chunk[7] = 77;
        add(chunk);
    }
    // The watchdog of the test program is what bounds the time: a square of these counts would take hours.
    const Song song = songOf(bytes);
    std::size_t found = 0;
    for (const Part& part : song.parts) found += realise(song, part).notes.size();
    QCOMPARE(found, notes);
    QVERIFY(song.source->damage.size() <= 200);
}

void TestReader::typeTwoAsSongs() {
    const Bytes one = track(hex("00 FF5103 07A120 00 90 3C 40  60 80 3C 40  00 FF2F00")),
                two = track(hex("00 FF5103 0F4240 00 90 40 40  60 80 40 40  00 FF2F00"));
    const auto songs = songsOfTracks(songOf(joined({header(2, 2), one, two}), "duets.mid"));
    QCOMPARE(songs.size(), std::size_t{2});
    QCOMPARE(songs[0].tempo->bpm(0), 120.0);
    QCOMPARE(songs[1].tempo->bpm(0), 60.0);
    QCOMPARE(songs[1].source->name, std::string("duets 2.mid"));
    QCOMPARE(int(realise(songs[1], songs[1].parts[0]).notes[0].key.value), 0x40);
    QVERIFY(songsOfTracks(songOf(joined({header(0, 1), one}))).empty());
}

void TestReader::dialects_data() {
    QTest::addColumn<QByteArray>("sysex");
    QTest::addColumn<int>("bank"); // MSB sent before a program; −1 for none
    QTest::addColumn<QString>("dialect");
    // RP-003, RP-024; GS and XG by their makers' published convention.
    QTest::newRow("GM") << QByteArray("7E7F0901F7") << -1 << "GM";
    QTest::newRow("GM2") << QByteArray("7E7F0903F7") << -1 << "GM2";
    QTest::newRow("GS") << QByteArray("411042124000 7F0041F7") << -1 << "GS";
    QTest::newRow("XG") << QByteArray("43104C00007E00F7") << -1 << "XG";
    QTest::newRow("none") << QByteArray() << -1 << "none said";
    QTest::newRow("GM2 by its banks") << QByteArray() << 121 << "GM2";
    QTest::newRow("64 is a bank of GS and XG") << QByteArray() << 64 << "none said";
    QTest::newRow("so is 126") << QByteArray() << 126 << "none said";
    QTest::newRow("a variation bank is no dialect") << QByteArray() << 8 << "none said";
}

void TestReader::dialects() {
    QFETCH(QByteArray, sysex);
    QFETCH(int, bank);
    QFETCH(QString, dialect);
    Builder b;
    if (!sysex.isEmpty()) b.sysex(sysex.constData());
    if (bank >= 0) b.cc(0, 0, 0, bank);
    const Song song = b.program(0, 0, 3).note(0, 0, 1, 60).song();
    QCOMPARE(QString::fromUtf8(dialectName(song.dialect).data()), dialect);
}

void TestReader::listsDeviceMessages() {
    const Song song = Builder()
                          .sysex("7E7F0901F7")
                          .sysex("7F7F0401 0040F7")         // master volume, half
                          .sysex("7F7F0403 0020F7")         // master tuning
                          .sysex("4110421240 0130 04 0BF7") // GS reverb
                          .sysex("47 00 01 F7")
                          .sysex("47 00 02 F7")
                          .sysex("7E7F0901F7")
                          .note(0, 0, 1, 60)
                          .song();
    const auto kinds = deviceMessageKinds(song.source->midi);
    QCOMPARE(kinds.size(), std::size_t{5}); // in order of the first of each
    std::vector<DeviceMessage> messages;
    std::vector<std::size_t> times;
    for (const auto& [first, count] : kinds) messages.push_back(first), times.push_back(count);
    QCOMPARE(times, (std::vector<std::size_t>{2, 1, 1, 1, 2}));
    QVERIFY(messages[0].followed && inWords(messages[0].what) == "GM reset");
    QVERIFY(messages[1].followed && inWords(messages[1].what) == "master volume 50 %");
    QVERIFY(messages[2].followed && inWords(messages[2].what) == "master tuning -50 cents");
    QVERIFY(!messages[3].followed && inWords(messages[3].what) == "reverb settings");
    QVERIFY(!messages[4].followed && inWords(messages[4].what).find("Akai") != std::string::npos);
    QVERIFY(std::abs(song.masterVolume - 0.5) < 0.001);
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
    QVERIFY(QString::fromStdString(inWords(read.error().what)).contains(word));
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
    // Of the shortest notes and device messages there are, 3 bytes each, no more is held than the events
    // themselves need, 16 bytes each.
    Bytes notes = hex("00 90 3C 40"), messages;
    for (int i = 0; i < 100'000; ++i) {
        notes.insert(notes.end(), {0x01, 0x3C, static_cast<std::uint8_t>(i % 2 ? 0x40 : 0x00)});
        messages.insert(messages.end(), {0x00, 0xF7, 0x00});
    }
    for (const Bytes& data : {notes, messages}) {
        const auto large =
            readMidi(joined({header(0, 1), track(joined({data, hex("01 FF 2F 00")}))}), "x.mid");
        QVERIFY(large.ok());
        const MidiFile& midi = large.value().midi;
        QVERIFY(midi.tracks[0].events.size() >= 100'000);
        QVERIFY(midi.tracks[0].events.capacity() * sizeof(Event) < 7 * data.size());
        QVERIFY(midi.cuts.empty());
    }
}

void TestReader::lengthsThatCannotBeAreCut() {
    // A text that says it is longer than its track gives what the track has, and nothing of the next.
    const auto read = readMidi(joined({header(1, 2), hex("4D54726B 00000006 00 FF 01 20 41 42"),
                                       track(hex("00 FF 01 02 43 44 00 FF 2F 00"))}),
                               "x.mid");
    QVERIFY(read.ok());
    const MidiFile& midi = read.value().midi;
    QCOMPARE(midi.rawText(midi.tracks[0].events.at(0)), std::string_view("AB"));
    QCOMPARE(midi.rawText(midi.tracks[1].events.at(0)), std::string_view("CD"));
}

QTEST_APPLESS_MAIN(TestReader)
#include "tst_reader.moc"
