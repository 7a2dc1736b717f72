/// What device messages set on channels, on their port and from their place on. Addresses of GS and XG are
/// those of the manufacturers' published parameter lists, universal messages those of MIDI 1.0; all from
/// memory.
#include "support/support.h"

#include "font/catalogue.h"
#include "midi/devicesettings.h"
#include "song/heard/realise.h"
#include "song/match/match.h"
#include "song/model/asks.h"
#include "song/out/tomidi.h"
#include "song/shape/edits.h"
#include "song/shape/join.h"
#include "song/shape/splits.h"

using namespace cobbleway;
using namespace support;

namespace {

/// "7=100 10=64 P12 ": the controllers and programs of a part, as heard, before a tick.
QString saidBefore(const Song& song, std::size_t part, Tick tick) {
    QString text;
    for (const Event& event : realise(song, song.parts[part]).controls) {
        if (event.tick > tick) break;
        text += event.isProgram() ? QStringLiteral("P%1 ").arg(event.data1)
                                  : QStringLiteral("%1=%2 ").arg(event.data1).arg(event.data2);
    }
    return text;
}

Song oneNote(std::initializer_list<const char*> messages) {
    Builder b;
    for (const char* message : messages) b.sysex(message);
    return b.note(2, 1, 1, 60).song();
}

std::vector<int> keysOf(const Song& song, std::size_t part = 0) {
    std::vector<int> keys;
    for (const Note& note : realise(song, song.parts[part]).notes) keys.push_back(note.key.value);
    return keys;
}

} // namespace

class TestDeviceState : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void partsAreSetByMessage_data();
    void partsAreSetByMessage();
    void aPartListensToAnotherChannel();
    void messagesCountOnTheirPortFromTheirPlace();
    void keyShiftsMoveWhatIsDrawnAndWritten();
    void aResetInTheMiddleBeginsAnew();
    void dialectsHoldOnTheirPort();
    void whatIsWrittenSaysItOnce();
    void splitsAndJoinsKeepThem();
    void hugeNumbersOfMessagesAreLeftOut();
};

void TestDeviceState::partsAreSetByMessage_data() {
    QTest::addColumn<QByteArray>("sysex");
    QTest::addColumn<QString>("said");
    QTest::newRow("XG bank and program at once") << QByteArray("43104C080201 000819F7") << "0=0 32=8 P25 ";
    QTest::newRow("XG volume") << QByteArray("43104C08020B 32F7") << "7=50 ";
    QTest::newRow("XG pan") << QByteArray("43104C08020E 10F7") << "10=16 ";
    QTest::newRow("XG sends") << QByteArray("43104C080212 0A14F7") << "93=10 91=20 ";
    QTest::newRow("XG brightness") << QByteArray("43104C080218 50F7") << "74=80 ";
    QTest::newRow("XG range of the bend")
        << QByteArray("43104C080223 4CF7") << "101=0 100=0 6=12 38=0 101=127 100=127 ";
    QTest::newRow("XG another device number") << QByteArray("43124C08020B 32F7") << "7=50 ";
    QTest::newRow("XG of another part") << QByteArray("43104C08030B 32F7") << "";
    QTest::newRow("XG random place") << QByteArray("43104C08020E 00F7") << "";
    QTest::newRow("GS program") << QByteArray("41104212401300 0819 0CF7") << "0=8 P25 ";
    QTest::newRow("GS level") << QByteArray("41104212401319 32 62F7") << "7=50 ";
    QTest::newRow("GS place") << QByteArray("4110421240131C 10 01F7") << "10=16 ";
    QTest::newRow("GS sends") << QByteArray("41104212401321 0A14 6EF7") << "93=10 91=20 ";
    QTest::newRow("GS attack") << QByteArray("41104212401334 50 29F7") << "73=80 ";
    QTest::newRow("GS range of the bend")
        << QByteArray("41104212402310 4C 41F7") << "101=0 100=0 6=12 38=0 101=127 100=127 ";
    QTest::newRow("GS one voice") << QByteArray("41104212401313 00 1AF7") << "126=1 ";
    QTest::newRow("GS of channel 10's block") << QByteArray("41104212401019 32 65F7") << "";
    QTest::newRow("cut short") << QByteArray("43104C0802F7") << "";
}

void TestDeviceState::partsAreSetByMessage() {
    QFETCH(QByteArray, sysex);
    QFETCH(QString, said);
    const Song song = oneNote({sysex.constData()});
    QCOMPARE(saidBefore(song, 0, 960), said);
    // Told as followed where it is.
    const auto settings = deviceSettingsOf(song.source->midi);
    QCOMPARE(!said.isEmpty(), !settings.empty() && (settings[0].settings.channels & 4) != 0);
}

void TestDeviceState::aPartListensToAnotherChannel() {
    // GS 40 1x 02, XG 08 nn 04: part 1 listens to channel 3, and is then set.
    for (const auto& [listens, level] : {std::pair{"41104212401102 02 2BF7", "41104212401119 32 64F7"},
                                         std::pair{"43104C080004 02F7", "43104C08000B 32F7"}}) {
        QCOMPARE(saidBefore(oneNote({level}), 0, 960), QString());
        QCOMPARE(saidBefore(oneNote({listens, level}), 0, 960), QStringLiteral("7=50 "));
        // A reset gives each part its channel back.
        QCOMPARE(saidBefore(oneNote({listens, "7E7F0901F7", level}), 0, 960), QString());
    }
}

void TestDeviceState::messagesCountOnTheirPortFromTheirPlace() {
    // Two ports (FF 21), a level on the second alone, at 1 s.
    MidiFile file = Builder(1, 3).file;
    for (std::uint8_t port = 0; port < 2; ++port) {
        const std::size_t on = port + 1U;
        const std::uint8_t bytes[] = {port};
        file.addMeta(on, 0, meta::port, bytes);
        file.addChannel(on, 0, 0x90, 60, 100);
        file.addChannel(on, 1920, 0x80, 60, 64);
    }
    file.addSysex(2, 960, hex("43104C08000B 32F7"));
    file.sortTracks();
    const Song song = songOf(file);
    QCOMPARE(song.parts.size(), std::size_t{2});
    QCOMPARE(saidBefore(song, 0, 1920), QString());
    QCOMPARE(saidBefore(song, 1, 959), QString());
    QCOMPARE(saidBefore(song, 1, 960), QStringLiteral("7=50 "));
}

void TestDeviceState::keyShiftsMoveWhatIsDrawnAndWritten() {
    Builder b;
    b.note(0, 0, 0.5, 60).note(0, 1, 2, 62).note(0, 1.5, 0.2, 64).note(9, 1, 1, 38);
    b.sysex("7F7F0404 0042F7", 0.9).sysex("43104C080008 34F7", 1.4).sysex("7F7F0404 0040F7", 1.6);
    const Song song = b.song();
    QCOMPARE(keysOf(song), (std::vector{60, 64, 54})); // 2 up; 2 up and 12 down
    QCOMPARE(keysOf(song, 1), (std::vector{38}));
    // A note ends on the key on which it began.
    const auto notes = realise(song, song.parts[0]).notes;
    QCOMPARE(Tick{notes[1].end}, Tick{2880});
    for (const MidiFile& file : {toMidi(song, Layout::SingleTrack), toMidi(song, song.parts[0])})
        QCOMPARE(keysOf(songOf(file)), keysOf(song));
    // As the file has it, the messages do it.
    Song plain = song;
    plain.midi.writtenIn = false;
    QCOMPARE(keysOf(songOf(toMidi(plain, Layout::SingleTrack))), keysOf(song));
}

void TestDeviceState::aResetInTheMiddleBeginsAnew() {
    const auto song = [](double at) {
        Builder b;
        b.program(0, 0, 40).cc(0, 0, 7, 30).cc(0, 0, 10, 0).sysex("43104C080008 4CF7");
        return b.note(0, 0.1, 0.5, 60).sysex("7E7F0901F7", at).note(0, 2, 0.5, 60).song();
    };
    // General MIDI 1: program 1, volume 100, pan 64; before the first note it changes nothing of what follows
    // it.
    const auto asks = asksOf(song(1), song(1).parts[0]);
    QCOMPARE(asks.size(), std::size_t{2});
    QCOMPARE(asks[1].program, std::optional(Program{0}));
    const QString said = saidBefore(song(1), 0, 1920);
    QVERIFY2(said.contains("P0 ") && said.contains(" 7=100 ") && said.contains(" 10=64 "), qPrintable(said));
    QCOMPARE(keysOf(song(1)), (std::vector{72, 60}));
    QCOMPARE(asksOf(song(0), song(0).parts[0]).size(), std::size_t{1});
}

void TestDeviceState::dialectsHoldOnTheirPort() {
    // An XG device on one port, a GS device on the other: MSB 8 is a bank of GS, LSB 8 one of XG.
    MidiFile file = Builder(1, 3).file;
    for (std::uint8_t port = 0; port < 2; ++port) {
        const std::size_t on = port + 1U;
        const std::uint8_t bytes[] = {port};
        file.addMeta(on, 0, meta::port, bytes);
        file.addSysex(on, 0, hex(port == 0 ? "43104C00007E00F7" : "41104212 40007F00 41F7"));
        file.addChannel(on, 0, 0xB0, 0, port == 0 ? 0 : 8);
        file.addChannel(on, 0, 0xB0, 32, port == 0 ? 8 : 2);
        file.addChannel(on, 0, 0xC0, 4);
        file.addChannel(on, 480, 0x90, 60, 100);
        file.addChannel(on, 960, 0x80, 60, 64);
    }
    file.sortTracks();
    const Song song = songOf(file);
    const auto bankOf = [&](std::size_t part) {
        const Ask ask = asksOf(song, song.parts[part]).front();
        return std::pair(ask.dialect, wishOf(ask, ask.dialect).bank);
    };
    QCOMPARE(bankOf(0), (std::pair{Dialect::XG, 8}));
    QCOMPARE(bankOf(1), (std::pair{Dialect::GS, 8}));
    // One dialect in the whole file leaves nothing to say.
    QVERIFY(oneNote({"7E7F0901F7"}).dialects->empty());
    // Before its reset a port follows none.
    Builder late;
    late.cc(0, 0, 32, 5).program(0, 0, 4).note(0, 0, 0.5, 60).sysex("43104C00007E00F7", 1);
    const Song reset = late.cc(0, 1.1, 0, 0).cc(0, 1.1, 32, 5).program(0, 1.1, 4).note(0, 2, 1, 60).song();
    const auto asks = asksOf(reset, reset.parts[0]);
    QCOMPARE(wishOf(asks.front(), asks.front().dialect).bank, 0);
    QCOMPARE(wishOf(asks.back(), asks.back().dialect).bank, 5);
}

void TestDeviceState::whatIsWrittenSaysItOnce() {
    // A level that a person changes is not set again by the message that gave it.
    const Song song = oneNote({"43104C00007E00F7", "43104C08020B 64F7", "43104C080201 000819F7"});
    const Song quiet = edits::setLevel(song, song.parts[0].id, -12);
    const MidiFile file = toMidi(quiet, Layout::SingleTrack);
    for (const PlacedSettings& message : deviceSettingsOf(file)) QVERIFY(!message.settings.setsChannel());
    QCOMPARE(saidBefore(songOf(file), 0, 960), QStringLiteral("7=50 0=0 32=8 P25 "));
    // The file's own data are written with the message.
    Song plain = song;
    plain.midi.writtenIn = false;
    QCOMPARE(deviceSettingsOf(toMidi(plain, Layout::SingleTrack)).size(), std::size_t{3});
}

void TestDeviceState::splitsAndJoinsKeepThem() {
    Builder b;
    b.sysex("43104C080008 4CF7").sysex("43104C08000B 32F7");
    b.note(0, 0.1, 0.5, 40).note(0, 0.1, 0.5, 80).note(1, 0.1, 0.5, 50);
    const Song song = b.song();
    const Song apart = edits::split(song, song.parts[0].id, splitByPitch(song, song.parts[0], Key{60}));
    QCOMPARE(apart.parts.size(), std::size_t{3});
    QCOMPARE(keysOf(apart, 0), (std::vector{92}));
    QCOMPARE(keysOf(apart, 1), (std::vector{52}));
    QVERIFY(saidBefore(apart, 1, 0).contains("7=50"));
    const Song together = edits::join(apart, {apart.parts[0].id, apart.parts[1].id}, {});
    QCOMPARE(keysOf(together, 0), (std::vector{52, 92}));
    // Written into the notes, it is not applied twice.
    const Song in = edits::writeInRecipe(song, song.parts[0].id);
    QCOMPARE(keysOf(in, 0), keysOf(song, 0));
    // The shift is that of channel 1 alone, also when another channel's notes join.
    const Song all = edits::join(song, {song.parts[0].id, song.parts[1].id}, {});
    QCOMPARE(keysOf(all, 0), (std::vector{52, 92, 50}));
}

void TestDeviceState::hugeNumbersOfMessagesAreLeftOut() {
    Builder b;
    for (int i = 0; i < 20000; ++i) b.sysex("43104C08000B 32F7", i * 0.001);
    for (int channel = 0; channel < 16; ++channel) b.note(channel, 1, 30, 60);
    const Song song = b.song();
    QCOMPARE(deviceSettingsOf(song.source->midi).size(), mostDeviceSettings);
}

QTEST_APPLESS_MAIN(TestDeviceState)
#include "tst_devicestate.moc"
