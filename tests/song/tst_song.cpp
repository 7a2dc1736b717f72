#include "support/support.h"

#include "song/filenames.h"
#include "song/heard/phrase.h"
#include "song/heard/realise.h"
#include "song/model/names.h"
#include "song/out/tomidi.h"
#include "song/shape/edits.h"
#include "song/shape/eventlist.h"

#include <algorithm>
#include <random>

#include "song/heard/firstnote.h"

using namespace support;

namespace {

using Row = std::tuple<Tick, int, int, int>;

/// A track's channel events, sorted; a note-off of either form counts as velocity 0 (MIDI 1.0: the same
/// thing).
std::vector<Row> channelRows(const Track& track) {
    std::vector<Row> rows;
    for (const Event& event : track.events)
        if (event.isChannel())
            rows.emplace_back(event.tick, event.isNoteOff() ? 0x90 | event.channel().value : event.status,
                              event.data1, event.isNoteOff() ? 0 : event.data2);
    std::sort(rows.begin(), rows.end());
    return rows;
}
std::vector<Row> channelRows(const MidiFile& file) {
    std::vector<Row> rows;
    for (const Track& track : file.tracks)
        for (const Row& row : channelRows(track)) rows.push_back(row);
    std::sort(rows.begin(), rows.end());
    return rows;
}
std::vector<std::pair<Tick, int>> metaRows(const Track& track) {
    std::vector<std::pair<Tick, int>> rows;
    for (const Event& event : track.events)
        if (!event.isChannel()) rows.emplace_back(event.tick, event.data1);
    return rows;
}

} // namespace

class TestSong : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void aPhraseIsWhatThePartPlaysFirst();
    void firstNotesOfParts();
    void splittingTheSpecificationsFirstFormGivesTheSecond();
    void joiningTheSecondGivesTheFirst();
    void splitAndJoinLoseNoEvent_data();
    void splitAndJoinLoseNoEvent();
    void partsAreByTrackPortAndChannel();
    void namesAreGoodAndUnlike();
    void namesThatSayNothing();
    void whatPlaysNamesThePartInstead();
    void drumsByChannelAndByMessage_data();
    void drumsByChannelAndByMessage();
    void emptyPartsAreSetAside();
    void sectionsComeFromMarkers();
    void titles_data();
    void titles();
    void pairsNotesFirstInFirstOut();
    void shiftsKeysAndFoldsThemBack();
    void chosenSoundDropsProgramsFromTheData();
    void writesChangesIn();
    void demoSongsAreWhatTheyShouldBe();
    void listsOfEventsAreAsVectors();
    void anEditOfAnEventKeepsLittle();
};

void TestSong::splittingTheSpecificationsFirstFormGivesTheSecond() {
    // SMF 1.0 (RP-001) prints one piece in both forms.
    const MidiFile split = toMidi(songOf(specificationFormat0()), Layout::TrackPerPart);
    const MidiFile wanted = readMidi(specificationFormat1(), "x").value().midi;
    QCOMPARE(split.type, 1);
    QCOMPARE(split.tracks.size(), wanted.tracks.size());
    for (std::size_t t = 0; t < wanted.tracks.size(); ++t) {
        QCOMPARE(channelRows(split.tracks[t]), channelRows(wanted.tracks[t]));
        QCOMPARE(metaRows(split.tracks[t]), metaRows(wanted.tracks[t]));
        QCOMPARE(split.tracks[t].end, wanted.tracks[t].end);
    }
}

void TestSong::joiningTheSecondGivesTheFirst() {
    const MidiFile joined = toMidi(songOf(specificationFormat1()), Layout::SingleTrack);
    const MidiFile wanted = readMidi(specificationFormat0(), "x").value().midi;
    QCOMPARE(joined.type, 0);
    QCOMPARE(joined.tracks.size(), std::size_t{1});
    QCOMPARE(channelRows(joined), channelRows(wanted));
    QCOMPARE(metaRows(joined.tracks[0]), metaRows(wanted.tracks[0]));
    QCOMPARE(joined.tracks[0].end, wanted.tracks[0].end);
}

void TestSong::splitAndJoinLoseNoEvent_data() {
    QTest::addColumn<QString>("name");
    for (const char* name : {"lantern_quay.mid", "TIDEMILL.MID", "pilots-evening-song.kar", "SLACKW~1.MID"})
        QTest::newRow(name) << name;
}

void TestSong::splitAndJoinLoseNoEvent() {
    QFETCH(QString, name);
    const Song song = demoSong(qPrintable(name));
    const auto wanted = channelRows(song.source->midi);
    const MidiFile split = toMidi(song, Layout::TrackPerPart);
    QCOMPARE(channelRows(split), wanted);
    const Song again = songOf(split);
    QCOMPARE(channelRows(toMidi(again, Layout::SingleTrack)), wanted);
    QCOMPARE(*again.tempo, *song.tempo);
    QCOMPARE(again.sections, song.sections);
}

void TestSong::partsAreByTrackPortAndChannel() {
    Builder b(1, 2);
    b.note(0, 0, 1, 60).note(1, 0, 1, 60).note(0, 0, 1, 64, 100, 1);
    b.file.addMeta(1, 0, meta::port, std::vector<std::uint8_t>{1});
    b.file.addChannel(1, 0, 0x90, 67, 100, 1);
    b.file.addChannel(1, 500, 0x80, 67, 64, 1);
    std::stable_sort(b.file.tracks[1].events.begin(), b.file.tracks[1].events.end(),
                     [](const Event& x, const Event& y) { return x.port < y.port; });
    const Song song = b.song();
    QCOMPARE(song.parts.size(), std::size_t{4});
    QCOMPARE(song.parts[3].source.port, 1);
    QCOMPARE(song.parts[3].source.channel, Channel{0});
}

void TestSong::namesAreGoodAndUnlike() {
    Builder b(1, 3);
    b.program(0, 0, 56)
        .note(0, 0, 1, 60)
        .program(1, 0, 56)
        .note(1, 0, 1, 60)
        .note(9, 0, 1, 38)
        .note(2, 0, 1, 50);
    b.file.addText(1, 0, meta::trackName, "Ferry bell");
    b.note(4, 0, 1, 80, 90, 1);
    b.file.addText(2, 0, meta::trackName, "Ferry bell");
    b.note(5, 0, 1, 80, 90, 2);
    std::vector<std::string> names;
    for (const Part& part : b.song().parts) names.push_back(part.name);
    QCOMPARE(names, (std::vector<std::string>{"Trumpet", "Trumpet 2", "Drums", "Channel 3", "Ferry bell",
                                              "Ferry bell 2"}));
}

void TestSong::namesThatSayNothing() {
    int checked = 0;
    for (const NameInFile& each : namesInFiles) {
        QVERIFY2(saysNothing(each.name) != each.saysSomething, each.name);
        ++checked;
    }
    QVERIFY(checked > 200);
}

void TestSong::whatPlaysNamesThePartInstead() {
    Builder b(1, 5);
    b.file.addText(0, 0, meta::trackName, "Untitled");
    const char* names[] = {"MIDI Ch. 2", "Staff-1", "made by hand", "Ferry bell"};
    for (std::uint8_t c = 0; c < 4; ++c) {
        b.file.addText(c + std::size_t{1}, 0, meta::trackName, names[c]);
        b.program(c, 0, c == 0 ? 34 : 65, c + std::size_t{1}).note(c, 0, 1, 50, 90, c + std::size_t{1});
    }
    const Song song = b.song();
    std::vector<std::string> called;
    for (const Part& part : song.parts) called.push_back(part.name);
    QCOMPARE(called, (std::vector<std::string>{"Picked bass", "Alto sax", "Alto sax 2", "Ferry bell"}));
    QCOMPARE(nameInFile(song, song.parts[0]), std::string("MIDI Ch. 2"));
    QVERIFY(!song.parts[0].nameGiven && song.parts[3].nameGiven);
    QVERIFY(!saysNothing(song.title)); // the file's name, since "Untitled" is none
    // A MIDI file keeps what the file said, until somebody renames the part.
    const auto trackNames = [](const MidiFile& file) {
        std::vector<std::string> found;
        for (const Track& track : file.tracks)
            for (const Event& event : track.events)
                if (event.isMeta(meta::trackName)) found.push_back(std::string(file.rawText(event)));
        return found;
    };
    const auto kept = trackNames(toMidi(song, Layout::TrackPerPart));
    QVERIFY(std::find(kept.begin(), kept.end(), "MIDI Ch. 2") != kept.end());
    const auto renamed = trackNames(toMidi(edits::rename(song, 1, "Tug bass"), Layout::TrackPerPart));
    QVERIFY(std::find(renamed.begin(), renamed.end(), "Tug bass") != renamed.end());
    QVERIFY(std::find(renamed.begin(), renamed.end(), "MIDI Ch. 2") == renamed.end());
}

void TestSong::drumsByChannelAndByMessage_data() {
    QTest::addColumn<QByteArray>("sysex");
    QTest::addColumn<int>("channel"); // 1-based
    QTest::addColumn<int>("msb");
    QTest::addColumn<bool>("drums");
    QTest::newRow("channel 10 by custom (RP-003)") << QByteArray() << 10 << -1 << true;
    QTest::newRow("channel 11 is not") << QByteArray() << 11 << -1 << false;
    QTest::newRow("GS makes channel 11 drums")
        << QByteArray("41 10 42 12 40 1A 15 02 0F F7") << 11 << -1 << true;
    QTest::newRow("GS makes channel 10 pitched")
        << QByteArray("41 10 42 12 40 10 15 00 1B F7") << 10 << -1 << false;
    QTest::newRow("XG bank 127") << QByteArray("43 10 4C 00 00 7E 00 F7") << 11 << 127 << true;
    QTest::newRow("bank 127 without XG") << QByteArray() << 11 << 127 << false;
    QTest::newRow("GM2 bank 120") << QByteArray("7E 7F 09 03 F7") << 5 << 120 << true;
    QTest::newRow("GM2 bank 121 on channel 10") << QByteArray("7E 7F 09 03 F7") << 10 << 121 << false;
}

void TestSong::drumsByChannelAndByMessage() {
    QFETCH(QByteArray, sysex);
    QFETCH(int, channel);
    QFETCH(int, msb);
    QFETCH(bool, drums);
    Builder b;
    if (!sysex.isEmpty()) b.sysex(sysex.constData());
    if (msb >= 0) b.cc(channel - 1, 0.01, cc::bankMsb, msb);
    b.program(channel - 1, 0.02, 0).note(channel - 1, 0.1, 0.5, 40);
    QCOMPARE(b.song().parts[0].source.drums, drums);
}

void TestSong::emptyPartsAreSetAside() {
    const Song song = Builder().program(3, 0, 10).note(0, 0, 1, 60).cc(5, 0, 7, 90).song();
    QCOMPARE(song.parts.size(), std::size_t{3});
    QVERIFY(!song.parts[0].aside && song.parts[1].aside && song.parts[2].aside);
    QCOMPARE(channelRows(toMidi(song, Layout::TrackPerPart)),
             channelRows(song.source->midi)); // set aside, not lost
}

void TestSong::sectionsComeFromMarkers() {
    const Song song = demoSong("lantern_quay.mid");
    std::vector<std::string> names;
    for (const Section& section : song.sections) names.push_back(section.name);
    QCOMPARE(names, (std::vector<std::string>{"Intro", "Quayside", "Lanterns lit", "Quayside", "Procession",
                                              "Home"}));
    QCOMPARE(song.sections.back().end, song.end);
    QCOMPARE(song.tempo->position(song.sections[1].start), (Position{9, 1, 0}));
}

void TestSong::titles_data() {
    QTest::addColumn<QString>("file");
    QTest::addColumn<QString>("title");
    QTest::newRow("lower case") << "lantern_quay.mid"
                                << "Lantern Quay";
    QTest::newRow("upper case") << "TIDE-MILL.MID"
                                << "Tide Mill";
    QTest::newRow("as it is") << "The Harbour by Night.mid"
                              << "The Harbour by Night";
    QTest::newRow("blanks at the ends") << "__low-tide--waltz_.mid"
                                        << "Low Tide Waltz";
    QTest::newRow("no ending") << "ropewalk"
                               << "Ropewalk";
}

void TestSong::titles() {
    QFETCH(QString, file);
    QFETCH(QString, title);
    QCOMPARE(QString::fromStdString(titleFromFileName(file.toStdString())), title);
}

void TestSong::pairsNotesFirstInFirstOut() {
    const Song song = Builder().note(0, 0, 2, 60, 80).note(0, 1, 2, 60, 100).song(); // one key, overlapping
    const auto notes = realise(song, song.parts[0]).notes;
    QCOMPARE(notes.size(), std::size_t{2});
    QCOMPARE(notes[0].end, Tick{1920});
    QCOMPARE(notes[1].end, Tick{2880});
}

void TestSong::shiftsKeysAndFoldsThemBack() {
    QCOMPARE(shiftedKey(Key{60}, 12), Key{72});
    QCOMPARE(shiftedKey(Key{120}, 12), Key{120});
    QCOMPARE(shiftedKey(Key{3}, -12), Key{3});
    Song song = Builder().note(0, 0, 1, 60).note(9, 0, 1, 60).song();
    song.keyShift = 2;
    song.parts[0].recipe.octaves = -1;
    song.parts[1].recipe.octaves = -1;
    QCOMPARE(realise(song, song.parts[0]).notes[0].key, Key{50});
    QCOMPARE(realise(song, song.parts[1]).notes[0].key, Key{60}); // drums stay
}

void TestSong::chosenSoundDropsProgramsFromTheData() {
    Song song =
        Builder().program(0, 0, 5).note(0, 0, 1, 60).cc(0, 1, 0, 8).program(0, 1, 6).note(0, 2, 1, 60).song();
    song.parts[0].sound.chosen = SoundRef{"house", 0, 32, "Bass"};
    QVERIFY(!song.parts[0].sound.heedsPrograms());
    int programs = 0;
    for (const Event& event : realisedEvents(song, song.parts[0])) programs += event.isProgram();
    QCOMPARE(programs, 2); // the notes and controllers do not depend on the sound
    const Song again = songOf(toMidi(song, Layout::TrackPerPart));
    QCOMPARE(asksOf(again, again.parts[0]).size(), std::size_t{1});
    QCOMPARE(asksOf(again, again.parts[0])[0].program, std::optional(Program{32}));
}

void TestSong::writesChangesIn() {
    Song song = Builder().cc(0, 0, 7, 100).note(0, 0, 1, 60).note(1, 0, 1, 62).song();
    song.parts[0].mix.levelDb = -6;
    song.parts[0].recipe.octaves = 1;
    song.parts[0].mix.pan = -1;
    song.parts[0].name = "Ferry bell";
    song.parts[0].nameGiven = true;
    const Song again = songOf(toMidi(song, Layout::TrackPerPart));
    QCOMPARE(again.parts[0].name, std::string("Ferry bell"));
    int volume = -1, pan = -1;
    for (const EventRef ref : *again.parts[0].source.events) {
        if (again.event(ref).isController(cc::volume)) volume = again.event(ref).data2;
        if (again.event(ref).isController(cc::pan)) pan = again.event(ref).data2;
    }
    QCOMPARE(volume, 71); // 100·10^(−6/40), the General MIDI volume law
    QCOMPARE(pan, 1);
    QCOMPARE(realise(again, again.parts[0]).notes[0].key, Key{72});
}

void TestSong::demoSongsAreWhatTheyShouldBe() {
    const struct {
        const char* name;
        int type;
        Dialect dialect;
        int parts;
    } songs[] = {{"lantern_quay.mid", 0, Dialect::GM, 10},
                 {"TIDEMILL.MID", 1, Dialect::GS, 8},
                 {"pilots-evening-song.kar", 1, Dialect::GM, 4},
                 {"SLACKW~1.MID", 0, Dialect::XG, 12}};
    for (const auto& wanted : songs) {
        const Song song = demoSong(wanted.name);
        QCOMPARE(song.source->midi.type, wanted.type);
        QCOMPARE(song.dialect, wanted.dialect);
        QCOMPARE(static_cast<int>(std::count_if(song.parts.begin(), song.parts.end(),
                                                [](const Part& p) { return !p.aside; })),
                 wanted.parts);
        QVERIFY(song.seconds() > 90 && song.seconds() < 180);
    }
    const Song march = demoSong("SLACKW~1.MID");
    QCOMPARE(march.parts[0].name, std::string("第一コルネット"));
    QCOMPARE(std::count_if(march.parts.begin(), march.parts.end(),
                           [](const Part& p) { return p.source.drums && !p.aside; }),
             2);
}

void TestSong::listsOfEventsAreAsVectors() {
    std::mt19937 random(11);
    for (int round = 0; round < 200; ++round) {
        std::vector<EventRef> plain;
        for (int runs = static_cast<int>(random() % 12); runs > 0; --runs) {
            EventRef ref{static_cast<std::uint32_t>(random() % 3), static_cast<std::uint32_t>(random() % 50)};
            for (auto count = random() % 9; count > 0; --count, ++ref.index) plain.push_back(ref);
        }
        const EventRefs list(plain);
        QCOMPARE(list.size(), plain.size());
        QCOMPARE(list.empty(), plain.empty());
        QVERIFY(std::vector<EventRef>(list) == plain);
        QVERIFY(std::equal(list.begin(), list.end(), plain.begin(), plain.end()));
        QVERIFY(std::equal(std::make_reverse_iterator(plain.end()), std::make_reverse_iterator(plain.begin()),
                           [&] {
                               std::vector<EventRef> back;
                               for (auto at = list.end(); at != list.begin();) back.push_back(*--at);
                               return back;
                           }()
                               .begin()));
        for (std::size_t i = 0; i < plain.size(); ++i) {
            QVERIFY(list[i] == plain[i]);
            const std::size_t from = random() % plain.size();
            const auto step = static_cast<std::ptrdiff_t>(i) - static_cast<std::ptrdiff_t>(from);
            QVERIFY(*(list.begin() + static_cast<std::ptrdiff_t>(from) + step) == plain[i]);
            QCOMPARE((list.begin() + static_cast<std::ptrdiff_t>(i)) - list.begin(),
                     static_cast<std::ptrdiff_t>(i));
        }
        auto other = plain;
        QVERIFY(EventRefs(other) == list);
        other.push_back({7, 7});
        QVERIFY(!(EventRefs(other) == list));
    }
}

void TestSong::anEditOfAnEventKeepsLittle() {
    // A part of 20 000 notes is one run; each event that is changed adds two at most, and made events are
    // shared between the song before and the song after.
    Builder b;
    for (int i = 0; i < 20'000; ++i) b.note(0, i * 0.5, 0.25, 60 + i % 5);
    Song song = b.song();
    QVERIFY(song.parts[0].source.events->runs() <= 2);
    std::vector<Song> steps;
    for (int i = 0; i < 600; ++i) {
        steps.push_back(song);
        song = edits::setEventValue(song, 1, (*song.parts[0].source.events)[static_cast<std::size_t>(i * 60)],
                                    i % 2 ? 31 : 77);
    }
    QVERIFY(song.made.size() > 250);
    QVERIFY(song.parts[0].source.events->runs() <= 2 + 2 * song.made.size());
    QCOMPARE(&steps[550].made[3], &song.made[3]);
    // And each step stays what it was.
    for (std::size_t i = 1; i < steps.size(); ++i)
        QVERIFY(steps[i].made.size() >= steps[i - 1].made.size() && steps[i].made.size() <= i);
}

void TestSong::firstNotesOfParts() {
    const Song song = Builder(1, 3)
                          .note(0, 1, 1, 60, 90, 0)
                          .note(0, 1, 1, 67, 90, 0)
                          .note(0, 3, 1, 62, 90, 0)
                          .note(1, 0, 4, 48, 90, 1)
                          .note(9, 1, 1, 36, 90, 2)
                          .song();
    const auto heardOf = [&](const Part& part) {
        return std::make_shared<const HeardPart>(realise(song, part));
    };
    const PartId lead = song.parts[0].id;
    const auto first = firstNoteAfter(song, lead, 0, heardOf);
    QVERIFY(first && first->tick == Builder::at(1));
    QCOMPARE(int(first->key.value), 67);             // of a chord the highest
    QCOMPARE(first->harmony.size(), std::size_t{1}); // no drums
    QCOMPARE(int(first->harmony[0].second.value), 48);
    QCOMPARE(int(firstNoteAfter(song, lead, Builder::at(1) + 1, heardOf)->key.value), 62);
    QVERIFY(!firstNoteAfter(song, lead, Builder::at(3) + 1, heardOf));
    QVERIFY(!firstNoteAfter(song, song.parts[2].id, 0, heardOf) && !firstNoteAfter(song, 99, 0, heardOf));
    // Bars of 4/4 at 120 last two seconds: notes in bar 1 and bar 2, and at last in bar 6.
    const Song rests = Builder().note(0, 0, 0.5, 60).note(0, 3, 0.5, 60).note(0, 11, 1, 60).song();
    const HeardPart heard = realise(rests, rests.parts[0]);
    const auto left = [&](double seconds) { return barsOfRest(rests, heard, Builder::at(seconds)); };
    QCOMPARE(left(0), 0);
    QCOMPARE(left(1), 1);
    QCOMPARE(left(2.5), 0); // a note begins in this bar
    QCOMPARE(left(4), 3);
    QCOMPARE(left(9.9), 1);
    QCOMPARE(left(11.5), 0);
    QCOMPARE(left(13), 0); // after the last
    Song silent = song;
    silent.parts[1].mix.role = Role::Off;
    QVERIFY(firstNoteAfter(silent, lead, 0, heardOf)->harmony.empty());
}

/// What a sound is tried by: the part's own notes, no longer than three seconds, or a scale.
void TestSong::aPhraseIsWhatThePartPlaysFirst() {
    Builder b; // in seconds
    b.note(0, 4, 1, 60, 80).note(0, 5, 9, 64, 90).note(0, 6.25, 1, 67, 70).note(0, 6.75, 1, 72, 70);
    const Song song = b.song();
    const HeardPart heard = realise(song, song.parts[0]);
    const std::vector<PhraseNote> whole = {
        {0, 1, Key{60}, Velocity{80}}, {1, 3, Key{64}, Velocity{90}}, {2.25, 3, Key{67}, Velocity{70}}};
    const auto isWhole = [&](Tick from) {
        const auto phrase = phraseOf(song, heard, from);
        return std::equal(phrase.begin(), phrase.end(), whole.begin(), whole.end(),
                          [](const PhraseNote& one, const PhraseNote& other) {
                              return std::abs(one.start - other.start) < 1e-6 &&
                                     std::abs(one.end - other.end) < 1e-6 && one.key == other.key &&
                                     one.velocity == other.velocity;
                          });
    };
    QVERIFY(isWhole(0));
    QVERIFY(isWhole(Builder::at(4)));
    QCOMPARE(phraseOf(song, heard, Builder::at(4.1)).front().key, Key{64});
    QVERIFY(isWhole(Builder::at(30))); // after the last: from the first
    QVERIFY(phraseOf(song, {}, 0).empty());
    const auto scale = scaleIn({48, 76});
    QStringList keys;
    for (const PhraseNote& note : scale) keys << QString::number(note.key.value);
    QCOMPARE(keys.join(QLatin1Char(' ')), QStringLiteral("58 60 62 63 65")); // B flat major
    QCOMPARE(scale.back().end, 1.25);
    for (const KeyRange& edge : {KeyRange{0, 0}, KeyRange{127, 127}})
        for (const PhraseNote& note : scaleIn(edge)) QVERIFY(note.key.value <= 127);
}

QTEST_APPLESS_MAIN(TestSong)
#include "tst_song.moc"
