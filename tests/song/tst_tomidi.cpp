/// Writing a song as MIDI: channels, ports, names, sounds, levels, and what cannot be carried over.
#include "support/anyedit.h"

#include "song/heard/facts.h"
#include "song/heard/realise.h"
#include "song/model/asks.h"
#include "song/model/levels.h"
#include "song/out/fold.h"
#include "song/out/heardsounds.h"
#include "song/out/midiorder.h"
#include "song/out/tomidi.h"

using namespace support;

namespace {

/// Channel events of a track, as "tick status data data".
QStringList eventsOf(const MidiFile& file, std::size_t track) {
    QStringList said;
    for (const Event& e : file.tracks[track].events)
        if (e.isChannel())
            said << QStringLiteral("%1 %2 %3 %4").arg(e.tick).arg(e.status, 0, 16).arg(e.data1).arg(e.data2);
    return said;
}

std::string textIn(const MidiFile& file, std::size_t track, std::uint8_t type) {
    for (const Event& event : file.tracks[track].events)
        if (event.isMeta(type)) return std::string(file.rawText(event));
    return {};
}

Song manyParts(int count) {
    Builder b(1, count);
    for (int i = 0; i < count; ++i) {
        b.program(i % 16, 0, i % 16 == 9 ? 0 : 8 * (i % 12), static_cast<std::size_t>(i));
        for (int n = 0; n <= i; ++n) b.note(i % 16, n, 0.5, 60, 90, static_cast<std::size_t>(i));
    }
    return b.song();
}

} // namespace

class TestToMidi : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void whatIsHeardIsSaid_data();
    void whatIsHeardIsSaid();
    void standInsAreSaidWhereTheyPlay();
    void partsOfOneTrackGetTheirNames();
    void fontsOfGeneralMidiStayAsTheyAre();
    void chosenSoundsAreWritten_data();
    void chosenSoundsAreWritten();
    void banksReadBackAsTheyWereChosen();
    void whatIsAddedComesAgainAfterAReset();
    void levelsAndPan_data();
    void levelsAndPan();
    void movingVolumeIsScaledByTheLevel();
    void fixedSoundsSilencePrograms();
    void namesStayUnlessChanged();
    void aNumberThatToldPartsApartIsNotWritten();
    void addedSettingsComeAfterResetsAndBeforeNotes();
    void portsOnASingleTrack();
    void movedPortsReplaceOldOnes();
    void foldingKeepsDrumsAndFirstComers();
    void foldingSharesByProgramFirst();
    void foldingChangesAsFewNotesAsCanBe();
    void aScoreOfFortyPartsLosesNothing();
    void aFileForEachPortHoldsTheSongTogether_data();
    void aFileForEachPortHoldsTheSongTogether();
    void separateChannelsOnlyWhereSoundsDiffer();
    void whatIsLostIsSaid_data();
    void whatIsLostIsSaid();
    void aPartAloneHasTimeAndMarkers();
    void withoutChangesKeepsTheCutAlone();
    void changedEventsStandWhereTheOldOnesStood();
    void anEmptySongIsWritten();
};

namespace {

/// A font with presets of these numbers and names, and no samples.
Catalogue fontOf(const std::vector<std::pair<int, std::string>>& sounds) {
    auto font = std::make_shared<SoundFont>();
    font->id = "quay";
    for (const auto& [program, name] : sounds) {
        Preset preset;
        preset.program = program;
        preset.name = name;
        preset.ranges = {KeyRange{0, 127}};
        font->presets.push_back(preset);
    }
    return Catalogue({font}, "quay");
}

SoundRef presetOf(int program, const std::string& name, int bank = 0) {
    return {"quay", bank, program, name};
}
SoundRef pluginNamed(const std::string& name) { return {"urn:x", 0, 0, name, SoundKind::Plugin}; }

/// Programs of a file as "tick program", in order.
QStringList programsOf(const MidiFile& file) {
    QStringList said;
    for (const Track& track : file.tracks)
        for (const Event& e : track.events)
            if (e.isProgram()) said << QStringLiteral("%1 %2").arg(e.tick).arg(e.data1);
    return said;
}

MidiFile saidBy(const Song& song, const Catalogue& fonts) {
    return toMidi(withHeardPrograms(song, matchSong(song, fonts), fonts), Layout::SingleTrack);
}

} // namespace

/// Numbers of programs: General MIDI 1 sound set (0-based here).
void TestToMidi::whatIsHeardIsSaid_data() {
    QTest::addColumn<QString>("name");
    QTest::addColumn<bool>("plugin");
    QTest::addColumn<int>("number");
    QTest::addColumn<int>("said");
    QTest::newRow("a name at odds with its number") << "French Horns" << false << 3 << 60;
    QTest::newRow("a name that fits") << "Upright Piano" << false << 0 << 0;
    QTest::newRow("kin of its number") << "Bright Piano" << false << 1 << 1;
    QTest::newRow("a name that tells nothing, among odd ones")
        << "Zzyx 7" << false << 99 << 73; // what the file asks
    QTest::newRow("a plug-in by its name") << "Little organ" << true << 0 << 16;
    QTest::newRow("a plug-in that tells nothing") << "Zzyx" << true << 0 << 73;
}

void TestToMidi::whatIsHeardIsSaid() {
    QFETCH(QString, name);
    QFETCH(bool, plugin);
    QFETCH(int, number);
    QFETCH(int, said);
    const std::string text = name.toStdString();
    const Catalogue fonts = fontOf({{number, text}, {40, "Trumpet"}, {41, "Piano"}, {42, "Flute"}});
    Song song = Builder().program(0, 0, 73).note(0, 0, 1, 60).song();
    song = edits::chooseSound(song, 1, plugin ? pluginNamed(text) : presetOf(number, text));
    const MidiFile file = saidBy(song, fonts);
    QCOMPARE(programsOf(file), QStringList{QStringLiteral("0 %1").arg(said)});
    const auto told = heardProgramsSaid(song, matchSong(song, fonts), fonts);
    QCOMPARE(told.size(), std::size_t(plugin ? said != 73 : said != number));
    if (!told.empty()) QVERIFY(inWords(told[0]).find(text) != std::string::npos);
    // Where changes are not written in, none is.
    song.midi.writtenIn = false;
    QCOMPARE(programsOf(saidBy(song, fonts)), QStringList{QStringLiteral("0 73")});
    QVERIFY(heardProgramsSaid(song, matchSong(song, fonts), fonts).empty());
}

/// A part that changes its program: only the stretch that a stand-in plays says another.
void TestToMidi::standInsAreSaidWhereTheyPlay() {
    const Catalogue fonts = fontOf({{0, "Grand Piano"}, {73, "Flute"}, {56, "Trumpet"}});
    const Song song = Builder()
                          .program(0, 0, 73)
                          .note(0, 0, 0.5, 72)
                          .program(0, 1, 59) // muted trumpet, which the font lacks
                          .note(0, 1, 0.5, 72)
                          .program(0, 2, 73)
                          .note(0, 2, 0.5, 72)
                          .song();
    const auto matches = matchSong(song, fonts);
    QCOMPARE(matches[0].matches.size(), std::size_t{3});
    QVERIFY(matches[0].matches[1].how == How::StandIn);
    QCOMPARE(matches[0].matches[1].sound->program, 56);
    QCOMPARE(programsOf(saidBy(song, fonts)), (QStringList{"0 73", "960 56", "1920 73"}));
    const auto told = heardProgramsSaid(song, matches, fonts);
    QCOMPARE(told.size(), std::size_t{1});
    // One program for the whole: the part says its stand-in from the start.
    const Song one = Builder().program(0, 0, 59).note(0, 0, 1, 72).song();
    QCOMPARE(programsOf(saidBy(one, fonts)), QStringList{"0 56"});
    // Drums and what is set aside say what they did.
    Song aside = one;
    aside.parts[0].aside = true;
    QVERIFY(withHeardPrograms(aside, matchSong(aside, fonts), fonts) == aside);
    const Song drums = Builder().program(9, 0, 40).note(9, 0, 1, 38).song();
    QVERIFY(withHeardPrograms(drums, matchSong(drums, fonts), fonts) == drums);
}

/// A type 0 file split into tracks: each track says its part's name, once, and a part alone does, too.
void TestToMidi::partsOfOneTrackGetTheirNames() {
    const Song bare = Builder()
                          .program(0, 0, 73)
                          .note(0, 0, 1, 72)
                          .program(1, 0, 32)
                          .note(1, 0, 1, 40)
                          .note(9, 0, 1, 36)
                          .song();
    const Song song = withTrackNames(bare);
    QVERIFY(bare.parts.size() == 3 && !bare.parts[0].nameGiven);
    const auto namesIn = [](const MidiFile& file) {
        QStringList names;
        for (const Track& track : file.tracks)
            for (const Event& event : track.events)
                if (event.isMeta(meta::trackName))
                    names << QString::fromStdString(std::string(file.rawText(event)));
        return names;
    };
    QStringList wanted;
    for (const Part& part : song.parts) wanted << QString::fromStdString(part.name);
    QCOMPARE(wanted.size(), 3);
    QCOMPARE(namesIn(toMidi(song, Layout::TrackPerPart)), wanted);
    QCOMPARE(namesIn(toMidi(song, song.parts[1])), QStringList{wanted[1]});
    QVERIFY(namesIn(toMidi(song, Layout::SingleTrack)).isEmpty());
    // Read and written again it is the same.
    const Song again = songOf(toMidi(song, Layout::TrackPerPart));
    QCOMPARE(namesIn(toMidi(again, Layout::TrackPerPart)), wanted);
}

void TestToMidi::fontsOfGeneralMidiStayAsTheyAre() {
    // The house font has all of General MIDI: nothing is said otherwise, in any song of the demo set.
    const Catalogue house = fontsAt(HOUSE_FONT);
    for (const char* name : {"lantern_quay.mid", "pilots-evening-song.kar"}) {
        const Song song = demoSong(name);
        QVERIFY(withHeardPrograms(song, matchSong(song, house), house) == song);
    }
    // Also a sound of another bank that was chosen by hand, and one whose name says something else.
    Song song = Builder().program(0, 0, 0).note(0, 0, 1, 60).song();
    for (int program = 0; program < 128; ++program) {
        const Song chosen = edits::chooseSound(song, 1, {houseFontId, 0, program, "Flute"});
        QVERIFY(withHeardPrograms(chosen, matchSong(chosen, house), house) == chosen);
    }
}

void TestToMidi::chosenSoundsAreWritten_data() {
    QTest::addColumn<QByteArray>("reset");
    QTest::addColumn<int>("bank");
    QTest::addColumn<int>("program");
    QTest::addColumn<QStringList>("written");
    QTest::newRow("a preset") << QByteArray("7E7F0901F7") << 0 << 40 << QStringList{"0 c0 40 0"};
    QTest::newRow("a variation") << QByteArray("411042124000 7F0041F7") << 8 << 4
                                 << QStringList{"0 b0 0 8", "0 b0 32 0", "0 c0 4 0"};
    QTest::newRow("a kit") << QByteArray("7E7F0901F7") << kitBank << 16 << QStringList{"0 c0 16 0"};
    QTest::newRow("a kit, in XG by its bank") << QByteArray("43104C00007E00F7") << kitBank << 16
                                              << QStringList{"0 b0 0 127", "0 b0 32 0", "0 c0 16 0"};
}

void TestToMidi::chosenSoundsAreWritten() {
    QFETCH(QByteArray, reset);
    QFETCH(int, bank);
    QFETCH(int, program);
    QFETCH(QStringList, written);
    const Song song = edits::chooseSound(Builder()
                                             .sysex(reset.constData())
                                             .program(0, 0, 1)
                                             .note(0, 0.5, 1, 60)
                                             .program(0, 2, 9)
                                             .note(0, 3, 1, 60)
                                             .song(),
                                         1, {"house", bank, program, "x"});
    const QStringList events = eventsOf(toMidi(song, Layout::TrackPerPart), 1);
    QCOMPARE(events.mid(0, written.size()), written);
    for (const QString& event : events.mid(written.size()))
        QVERIFY2(!event.contains(QStringLiteral(" c0 ")), qPrintable(event));
}

void TestToMidi::banksReadBackAsTheyWereChosen() {
    // GM 1 and 2 (RP-003, RP-024), GS and XG as their published charts have banks: what is written for a
    // sound is read as that sound, or it is told that it cannot be said.
    const std::pair<Dialect, const char*> dialects[] = {{Dialect::None, ""},
                                                        {Dialect::GM, "7E7F0901F7"},
                                                        {Dialect::GM2, "7E7F0903F7"},
                                                        {Dialect::GS, "411042124000 7F0041F7"},
                                                        {Dialect::XG, "43104C00007E00F7"}};
    for (const auto& [dialect, reset] : dialects)
        for (const int channel : {0, 9})
            for (const int bank : {0, 1, 8, 63, 64, 127, kitBank}) {
                Builder b;
                if (*reset) b.sysex(reset);
                Song song = b.note(channel, 0.5, 1, 60).song();
                QVERIFY(song.dialect == dialect);
                song = edits::chooseSound(song, 1, {"house", bank, 5, "Any"});
                const Song again = songOf(toMidi(song, Layout::TrackPerPart));
                const SoundRef read = wishOf(asksOf(again, again.parts[0]).front(), again.dialect);
                const bool same = read.bank == bank && read.program == 5;
                QVERIFY2(same == notCarriedOver(song).empty(),
                         qPrintable(QStringLiteral("%1, channel %2, bank %3: read as %4:%5")
                                        .arg(QString::fromUtf8(dialectName(dialect).data()))
                                        .arg(channel)
                                        .arg(bank)
                                        .arg(read.bank)
                                        .arg(read.program)));
                const bool can =
                    channel == 9 ? bank == kitBank || dialect == Dialect::GM2 || dialect == Dialect::XG
                                 : (dialect == Dialect::GM                              ? bank == 0
                                    : dialect == Dialect::GM2 || dialect == Dialect::XG ? true
                                                                                        : bank != kitBank);
                QCOMPARE(same, can);
            }
}

void TestToMidi::whatIsAddedComesAgainAfterAReset() {
    // A GM reset in the file, after its start: a device forgets program and volume by it (RP-003).
    Builder b;
    b.file.addSysex(0, 120, hex("7E7F0901F7"));
    Song song = b.note(0, 0.5, 1, 60).song();
    song = edits::setLevel(edits::chooseSound(song, 1, {"house", 0, 40, "Violin"}), 1, 40 * std::log10(0.5));
    const MidiFile file = toMidi(song, Layout::SingleTrack);
    int program = -1, volume = -1;
    for (const Event& event : file.tracks[0].events) {
        if (event.status == 0xF0) program = volume = -1; // as a device
        if (event.isProgram()) program = event.data1;
        if (event.isController(cc::volume)) volume = event.data2;
        if (event.isNoteOn()) break;
    }
    QCOMPARE(program, 40);
    QCOMPARE(volume, 50);
}

void TestToMidi::levelsAndPan_data() {
    QTest::addColumn<double>("db");
    QTest::addColumn<double>("pan");
    QTest::addColumn<int>("volumeInFile"); // −1 for none
    QTest::addColumn<int>("volume");       // −1 for none written
    QTest::addColumn<int>("panned");
    // General MIDI developer guidelines: 40·log10(v/127), so that −12.04 dB halves the value; 100 without
    // any.
    QTest::newRow("nothing set") << 0.0 << 0.0 << -1 << -1 << -1;
    QTest::newRow("softer, no volume of its own") << 40 * std::log10(0.5) << 0.0 << -1 << 50 << -1;
    QTest::newRow("softer, its volume scaled") << 40 * std::log10(0.5) << 0.0 << 80 << 40 << -1;
    QTest::newRow("louder than a controller can say") << 12.0 << 0.0 << 127 << 127 << -1;
    QTest::newRow("left") << 0.0 << -1.0 << -1 << -1 << 1;
    QTest::newRow("right") << 0.0 << 1.0 << -1 << -1 << 127;
    QTest::newRow("half right") << 0.0 << 0.5 << -1 << -1 << 96;
}

void TestToMidi::levelsAndPan() {
    QFETCH(double, db);
    QFETCH(double, pan);
    QFETCH(int, volumeInFile);
    QFETCH(int, volume);
    QFETCH(int, panned);
    Builder b;
    if (volumeInFile >= 0) b.cc(0, 0, 7, volumeInFile);
    Song song = b.note(0, 0.5, 1, 60).song();
    song = edits::setPan(edits::setLevel(song, 1, db), 1, pan);
    int foundVolume = -1, foundPan = -1;
    const MidiFile file = toMidi(song, Layout::SingleTrack);
    for (const Event& event : file.tracks[0].events) {
        if (event.isController(cc::volume)) foundVolume = event.data2;
        if (event.isController(cc::pan)) foundPan = event.data2;
    }
    QCOMPARE(foundVolume, volume);
    QCOMPARE(foundPan, panned);
}

void TestToMidi::movingVolumeIsScaledByTheLevel() {
    Song song = Builder().cc(0, 0, 7, 100).note(0, 0, 4, 60).cc(0, 1, 7, 60).cc(0, 2, 7, 20).song();
    song = edits::setLevel(song, 1, 40 * std::log10(0.5));
    std::vector<int> values;
    const MidiFile file = toMidi(song, Layout::TrackPerPart);
    for (const Event& event : file.tracks[1].events)
        if (event.isController(cc::volume)) values.push_back(event.data2);
    QCOMPARE(values, (std::vector<int>{50, 30, 10}));
}

void TestToMidi::fixedSoundsSilencePrograms() {
    const Song song = edits::fixProgram(
        Builder().program(0, 0, 3).note(0, 0, 1, 60).program(0, 1, 4).note(0, 2, 1, 60).song(), 1);
    int programs = 0;
    for (const QString& event : eventsOf(toMidi(song, Layout::TrackPerPart), 1))
        programs += event.contains(QStringLiteral(" c0 "));
    QCOMPARE(programs, 1);
}

void TestToMidi::namesStayUnlessChanged() {
    Builder b(1, 2);
    b.file.addText(0, 0, meta::trackName, "Fl\xF6te"); // Windows-1252
    const Song song = b.note(0, 0, 1, 60).note(1, 0, 1, 64, 90, 1).song();
    QCOMPARE(song.parts[0].name, std::string("Flöte"));
    // Unchanged: the very bytes of the file.
    QCOMPARE(textIn(toMidi(song, Layout::TrackPerPart), 1, meta::trackName), std::string("Fl\xF6te"));
    // Renamed: UTF-8, and only once.
    const MidiFile renamed = toMidi(edits::rename(song, 1, "Flöte eins"), Layout::TrackPerPart);
    QCOMPARE(textIn(renamed, 1, meta::trackName), std::string("Flöte eins"));
    QCOMPARE(std::count_if(renamed.tracks[1].events.begin(), renamed.tracks[1].events.end(),
                           [](const Event& e) { return e.isMeta(meta::trackName); }),
             std::ptrdiff_t{1});
    // A name of the program's is none of the file's.
    QCOMPARE(textIn(toMidi(song, Layout::TrackPerPart), 2, meta::trackName), std::string());
}

void TestToMidi::aNumberThatToldPartsApartIsNotWritten() {
    Builder b(1, 2);
    for (std::size_t t = 0; t < 2; ++t) b.file.addText(t, 0, meta::trackName, "Horn");
    const Song song = b.note(0, 0, 1, 60).note(1, 0, 1, 64, 90, 1).song();
    QCOMPARE(song.parts[1].name, std::string("Horn 2"));
    QCOMPARE(textIn(toMidi(song, Layout::TrackPerPart), 2, meta::trackName), std::string("Horn"));
    QCOMPARE(textIn(toMidi(edits::rename(song, 2, "Horn two"), Layout::TrackPerPart), 2, meta::trackName),
             std::string("Horn two"));
}

void TestToMidi::addedSettingsComeAfterResetsAndBeforeNotes() {
    const Song song =
        edits::giveProgram(Builder().note(0, 0, 1, 60).sysex("7E7F0901F7").song(), 1, Program{73});
    const MidiFile file = toMidi(song, Layout::SingleTrack);
    std::vector<int> order; // reset, program, note
    for (const Event& event : file.tracks[0].events) {
        if (event.isSysex()) order.push_back(0);
        if (event.isProgram()) order.push_back(1);
        if (event.isNoteOn()) order.push_back(2);
    }
    QCOMPARE(order, (std::vector<int>{0, 1, 2}));
}

void TestToMidi::portsOnASingleTrack() {
    Song song = manyParts(18); // 16 channels and two of them again
    song.parts[16].source.port = 1;
    song.parts[17].source.port = 2;
    const MidiFile file = toMidi(song, Layout::SingleTrack);
    const Song again = songOf(file);
    std::set<int> ports;
    for (const Part& part : again.parts) ports.insert(part.source.port);
    QCOMPARE(ports, (std::set<int>{0, 1, 2}));
    QCOMPARE(notesHeld(again), notesHeld(song));
}

void TestToMidi::movedPortsReplaceOldOnes() {
    Builder b(1, 1);
    b.file.addMeta(0, 0, meta::port, std::vector<std::uint8_t>{3});
    b.file.addChannel(0, 0, 0x90, 60, 80, 3);
    b.file.addChannel(0, 480, 0x80, 60, 64, 3);
    Song song = b.song();
    QCOMPARE(song.parts[0].source.port, 3);
    const auto portsIn = [](const Song& s) {
        std::vector<int> ports;
        const MidiFile file = toMidi(s, Layout::TrackPerPart);
        for (const Event& event : file.tracks[1].events)
            if (event.isMeta(meta::port)) ports.push_back(file.bytes(event)[0]);
        return ports;
    };
    QCOMPARE(portsIn(song), std::vector<int>{3});
    song.parts[0].source.port = 1;
    QCOMPARE(portsIn(song), std::vector<int>{1});
    song.parts[0].source.port = 0;
    QVERIFY(portsIn(song).empty());
}

void TestToMidi::foldingKeepsDrumsAndFirstComers() {
    Song song = manyParts(16);
    song = edits::split(song, 1, splitAtTime(song, song.parts[0], 1)); // one note: nothing to split
    QCOMPARE(song.parts.size(), std::size_t{16});
    song = edits::split(song, 12, splitAtTime(song, *song.part(12), Builder::at(5)));
    const auto places = foldOnto16(song).places;
    for (std::size_t i = 0; i < song.parts.size(); ++i) {
        QCOMPARE(places[i].port, 0);
        if (song.parts[i].id <= 16) QCOMPARE(places[i].channel, song.parts[i].source.channel);
        if (song.parts[i].source.drums) QCOMPARE(places[i].channel, drumChannel);
    }
}

void TestToMidi::foldingSharesByProgramFirst() {
    Song song = manyParts(16);
    // A seventeenth part that asks for what part 3 asks for goes with it.
    Part more = song.parts[2];
    more.id = 17;
    more.source.port = 1;
    more.source.channel = Channel{4};
    song.parts.push_back(more);
    QCOMPARE(foldOnto16(song).places.back().channel, song.parts[2].source.channel);
    QCOMPARE(notesChanged(song, foldOnto16(song)), 0);
    // One that asks for something nobody has gets a channel, and two that ask for the same share.
    song.parts.back().sound.followsPrograms = false;
    song.parts.back().sound.programGiven = Program{127};
    const Folding folding = foldOnto16(song);
    QCOMPARE(notesChanged(song, folding), 0);
    std::map<int, std::set<int>> programs;
    for (std::size_t i = 0; i < song.parts.size(); ++i)
        if (!song.parts[i].source.drums)
            programs[folding.places[i].channel.value].insert(
                i == 16 ? 127 : asksOf(song, song.parts[i]).front().program->value);
    QCOMPARE(programs.size(), std::size_t{15});
    for (const auto& [channel, on] : programs) QCOMPARE(on.size(), std::size_t{1});
}

namespace {

/// The fewest notes that can change their sound on so many channels, by trying every way to share them.
int fewestChanged(const std::vector<std::pair<int, int>>& parts, int channels) {
    std::vector<int> at(parts.size(), 0);
    int fewest = std::numeric_limits<int>::max();
    const std::function<void(std::size_t)> deal = [&](std::size_t i) {
        if (i < parts.size()) {
            for (at[i] = 0; at[i] < channels; ++at[i]) deal(i + 1);
            return;
        }
        int changed = 0;
        for (int channel = 0; channel < channels; ++channel) {
            std::map<int, int> byProgram;
            int all = 0, most = 0;
            for (std::size_t p = 0; p < parts.size(); ++p)
                if (at[p] == channel) {
                    all += parts[p].second;
                    most = std::max(most, byProgram[parts[p].first] += parts[p].second);
                }
            changed += all - most;
        }
        fewest = std::min(fewest, changed);
    };
    deal(0);
    return fewest;
}

/// A song with a track for each, on a channel of its own over as many ports as it takes: program, notes.
Song scoreOf(const std::vector<std::pair<int, int>>& parts) {
    Builder b(1, static_cast<int>(parts.size()));
    int place = 0;
    for (std::size_t i = 0; i < parts.size(); ++i, ++place) {
        if (place % 16 == drumChannel.value) ++place;
        const std::array<std::uint8_t, 1> port = {static_cast<std::uint8_t>(place / 16)};
        b.file.addMeta(i, 0, meta::port, port);
        b.program(place % 16, 0, parts[i].first, i);
        for (int n = 0; n < parts[i].second; ++n) b.note(place % 16, 0.1 * n, 0.05, 60, 90, i);
    }
    return b.song();
}

} // namespace

void TestToMidi::foldingChangesAsFewNotesAsCanBe() {
    std::mt19937 random(5);
    for (int round = 0; round < 40; ++round) {
        // Twelve large parts of programs of their own take twelve channels whatever is done; the small ones
        // share the other three.
        std::vector<std::pair<int, int>> parts, small;
        for (int i = 0; i < 12; ++i) parts.emplace_back(8 * i, 60);
        for (int i = 0; i < 6; ++i)
            small.emplace_back(100 + static_cast<int>(random() % 5), 1 + static_cast<int>(random() % 9));
        parts.insert(parts.end(), small.begin(), small.end());
        const Song song = scoreOf(parts);
        QCOMPARE(song.parts.size(), parts.size());
        const Folding folding = foldOnto16(song);
        QCOMPARE(notesChanged(song, folding), fewestChanged(small, 3));
        for (const PortChannel& place : folding.places)
            QVERIFY(place.port == 0 && place.channel != drumChannel);
    }
}

/// Forty parts of a score with fourteen programs lose nothing; what is written says so.
void TestToMidi::aScoreOfFortyPartsLosesNothing() {
    std::vector<std::pair<int, int>> parts;
    const int programs[] = {40, 41, 42, 43, 73, 68, 71, 70, 60, 56, 57, 58, 46, 0};
    for (int i = 0; i < 40; ++i) parts.emplace_back(programs[i % 14], 3 + i % 4);
    Song song = scoreOf(parts);
    song.midi.folded = true;
    QCOMPARE(notesChanged(song, foldOnto16(song)), 0);
    const Song again = songOf(toMidi(song, Layout::TrackPerPart));
    std::map<int, int> wanted, written;
    for (const auto& [program, notes] : parts) wanted[program] += notes;
    for (const Part& part : again.parts) {
        QCOMPARE(part.source.port, 0);
        written[asksOf(again, part).front().program->value] += factsOf(again, part.source).notes;
    }
    QVERIFY(written == wanted);
    // With a program more than there is room for, the one with fewest notes joins its kin, and is told.
    parts.emplace_back(44, 2); // tremolo strings
    parts.emplace_back(105, 9);
    song = scoreOf(parts);
    song.midi.folded = true;
    const Folding folding = foldOnto16(song);
    QCOMPARE(notesChanged(song, folding), 2);
    const int as = folding.soundsAs[40];
    QVERIFY(as >= 0);
    const int heardProgram = parts[static_cast<std::size_t>(as)].first;
    QVERIFY2(heardProgram >= 40 && heardProgram <= 43, qPrintable(QString::number(heardProgram)));
    bool told = false;
    for (const Message& message : notCarriedOver(song))
        told = told || inWords(message).find(song.parts[40].name) != std::string::npos;
    QVERIFY(told);
    // Said beforehand, with how many notes, folded or not; not where 16 channels are enough.
    int all = 0;
    for (const auto& [program, notes] : parts) all += notes;
    QCOMPARE(notesIn(song), all);
    for (const bool done : {true, false}) {
        const auto said = foldingSaid(song, done);
        QCOMPARE(said.size(), std::size_t{2});
        QVERIFY(inWords(said[0]).find("2 of " + std::to_string(all) + " notes") != std::string::npos);
        QVERIFY(inWords(said[1]).find(song.parts[40].name + " (2 notes)") != std::string::npos);
    }
    QVERIFY(foldingSaid(scoreOf({{40, 3}, {41, 3}}), false).empty());
    // On its channel no other program is said.
    const MidiFile file = toMidi(song, Layout::SingleTrack);
    std::set<int> said;
    for (const Event& event : file.tracks[0].events)
        if (event.isProgram() && event.channel() == folding.places[40].channel) said.insert(event.data1);
    QCOMPARE(said, std::set<int>{heardProgram});
}

void TestToMidi::aFileForEachPortHoldsTheSongTogether_data() {
    QTest::addColumn<bool>("singleTrack");
    QTest::newRow("type 1") << false;
    QTest::newRow("type 0") << true;
}

/// Forty parts are on three ports: three files of 16 channels at most, which name no port, and hold what the
/// one with ports holds; tempo and sections in each.
void TestToMidi::aFileForEachPortHoldsTheSongTogether() {
    QFETCH(bool, singleTrack);
    const int programs[] = {40, 41, 42, 43, 73, 68, 71};
    std::vector<std::pair<int, int>> parts;
    for (int i = 0; i < 40; ++i) parts.emplace_back(programs[i % 7], 3 + i % 4);
    Song song = edits::addSection(scoreOf(parts), Builder::at(1), "Second verse");
    const auto ports = portsOf(song);
    QCOMPARE(ports, (std::vector<int>{0, 1, 2}));
    using Sounded = std::tuple<Tick, int, int, int>; // start, key, velocity, program
    const auto soundsOf = [](const MidiFile& file) {
        const Song read = songOf(file);
        std::multiset<Sounded> sounds;
        for (const Part& part : read.parts) {
            const int program = asksOf(read, part).front().program->value;
            for (const Note& note : realise(read, part).notes)
                sounds.insert({note.start, note.key.value, note.velocity.value, program});
        }
        return sounds;
    };
    MidiOrder order;
    order.layout = singleTrack ? Layout::SingleTrack : Layout::TrackPerPart;
    const auto whole = soundsOf(midiOf(song, order));
    std::multiset<Sounded> together;
    std::size_t tracks = 0;
    for (const int port : ports) {
        order.port = port;
        const MidiFile file = midiOf(song, order);
        std::set<int> channels;
        for (const Track& track : file.tracks)
            for (const Event& event : track.events) {
                QCOMPARE(int(event.port), 0);
                QVERIFY(!event.isMeta(meta::port));
                if (event.isChannel()) channels.insert(event.channel().value);
            }
        QVERIFY(!channels.empty() && channels.size() <= 16);
        together.merge(soundsOf(file));
        const Song read = songOf(file);
        QCOMPARE(read.tempo->bpm(0), song.tempo->bpm(0));
        QVERIFY(read.sections == songOf(midiOf(song, {order.layout})).sections);
        tracks += file.tracks.size();
    }
    QVERIFY(together == whole && !whole.empty());
    QCOMPARE(tracks, singleTrack ? std::size_t{3} : std::size_t{40 + 3});
    song.midi.folded = true;
    QCOMPARE(portsOf(song), std::vector<int>{0});
}

void TestToMidi::separateChannelsOnlyWhereSoundsDiffer() {
    Builder b(1, 3);
    b.program(0, 0, 56, 0).note(0, 0, 1, 60, 90, 0);
    b.program(0, 0, 56, 1).note(0, 0, 1, 64, 90, 1);
    b.program(0, 0, 73, 2).note(0, 0, 1, 67, 90, 2);
    const Song song = edits::separateChannels(b.song());
    QCOMPARE(song.parts[0].source.channel, song.parts[1].source.channel);
    QVERIFY(song.parts[2].source.channel != song.parts[0].source.channel);
    QVERIFY(edits::separateChannels(song) == song);
}

void TestToMidi::whatIsLostIsSaid_data() {
    QTest::addColumn<int>("what");
    QTest::addColumn<QString>("word");
    QTest::newRow("nothing") << 0 << QString();
    QTest::newRow("a level above what a controller can say") << 1 << "higher than a volume controller";
    QTest::newRow("drums elsewhere") << 2 << "is drums on channel";
    QTest::newRow("a mix") << 3 << "as they stand";
    QTest::newRow("pieces of a kit with levels of their own") << 4 << "shares channel 10";
    QTest::newRow("nothing when changes are not written") << 5 << QString();
    QTest::newRow("a share of the room") << 6 << "shares of the room";
    QTest::newRow("an effect") << 7 << "Effects are not written";
}

void TestToMidi::whatIsLostIsSaid() {
    QFETCH(int, what);
    QFETCH(QString, word);
    Song song = Builder()
                    .program(0, 0, 1)
                    .note(0, 0, 1, 60)
                    .program(9, 0, 0)
                    .note(9, 0, 0.1, 36)
                    .note(9, 1, 0.1, 38)
                    .song();
    switch (what) {
    case 1: song = edits::setLevel(song, 1, 12); break;
    case 2: song.parts[0].source.drums = true; break;
    case 3: song = edits::putInFront(song, 1); break;
    case 4: song = edits::setLevel(edits::split(song, 2, splitByPiece(song, *song.part(2))), 2, -6); break;
    case 5:
        song = edits::setLevel(song, 1, 12);
        song.midi.writtenIn = false;
        break;
    case 6: song = edits::setRoomShare(song, 1, 0.5, false); break;
    case 7: song = edits::setEffects(song, 1, {{"urn:x", "X", {}, true}}); break;
    default: break;
    }
    QString said;
    for (const Message& lost : notCarriedOver(song)) {
        const std::string one = inWords(lost);
        QVERIFY(one.ends_with('.'));
        said += QString::fromStdString(one);
    }
    QVERIFY2(word.isEmpty() ? said.isEmpty() : said.contains(word), qPrintable(said));
}

void TestToMidi::aPartAloneHasTimeAndMarkers() {
    const Song song = edits::setMetre(demoSong("lantern_quay.mid"), 0, 2, 4);
    const Song alone = songOf(toMidi(song, *song.part(3)));
    QVERIFY(*alone.tempo == *song.tempo);
    QCOMPARE(alone.sections.size(), song.sections.size());
    QCOMPARE(realise(alone, alone.parts[0]).notes, realise(song, *song.part(3)).notes);
}

void TestToMidi::withoutChangesKeepsTheCutAlone() {
    std::mt19937 random(81);
    for (int round = 0; round < 40; ++round) {
        const Song file = songOf(randomFile(random));
        Song song = file;
        for (int i = 0; i < 6; ++i)
            song = edits::split(song, song.parts[random() % song.parts.size()].id,
                                anySplit(song, song.parts[random() % song.parts.size()], random));
        const Song cut = song;
        for (const Part& part : cut.parts) {
            song = edits::setSemitones(edits::setVelocity(song, part.id, {0.5, 3, 0.2}), part.id, 4);
            song = edits::dropController(song, part.id, 7);
        }
        song = edits::scaleTempo(edits::removeLeadingSilence(song, 100), 2);
        QVERIFY(notesHeard(withoutChanges(song)) == notesHeard(file));
        QCOMPARE(withoutChanges(song).parts.size(), cut.parts.size());
    }
}

void TestToMidi::changedEventsStandWhereTheOldOnesStood() {
    const Song song = Builder().note(0, 0, 1, 60, 50).note(0, 0, 1, 64, 50).cc(0, 0, 7, 90).song();
    const EventRef second = (*song.parts[0].source.events)[1];
    const Song changed = edits::setEventValue(song, 1, second, 99);
    const QStringList before = eventsOf(toMidi(song, Layout::SingleTrack), 0),
                      after = eventsOf(toMidi(changed, Layout::SingleTrack), 0);
    QCOMPARE(after.size(), before.size());
    int differ = 0;
    for (int i = 0; i < before.size(); ++i) differ += before[i] != after[i];
    QCOMPARE(differ, 1);
}

void TestToMidi::anEmptySongIsWritten() {
    const Song song = songOf(joined({header(1, 1), track(hex("00 FF2F00"))}));
    QVERIFY(song.parts.empty());
    for (const Layout layout : {Layout::TrackPerPart, Layout::SingleTrack})
        QVERIFY(readMidi(writeMidi(toMidi(song, layout)), "x").value().damage.empty());
    QVERIFY(foldOnto16(song).places.empty() && notCarriedOver(song).empty() && channelsNeeded(song) == 0);
    QVERIFY(edits::flattenTempo(song, 0.1) == song);
    QCOMPARE(leadingSilence(song), Tick{0});
}

QTEST_APPLESS_MAIN(TestToMidi)
#include "tst_tomidi.moc"
