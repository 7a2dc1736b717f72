/// Cutting parts and joining them again.
#include "support/anyedit.h"
#include "support/whatsounds.h"

#include "midi/gm.h"
#include "song/model/asks.h"
#include "song/out/fold.h"
#include "song/out/tomidi.h"

using namespace support;

namespace {

std::vector<int> keysOf(const Song& song, PartId id) {
    std::vector<int> keys;
    for (const PartNote& note : notesOf(song, song.part(id)->source)) keys.push_back(note.key.value);
    return keys;
}

const Clash* ofKind(const std::vector<Clash>& clashes, Clash::Kind kind) {
    for (const Clash& clash : clashes)
        if (clash.kind == kind) return &clash;
    return nullptr;
}

} // namespace

class TestSplitJoin : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void splittingLosesNoNoteAndJoiningGivesTheEventsBack();
    void byPitch();
    void aKeyToSplitAtIsSuggested_data();
    void aKeyToSplitAtIsSuggested();
    void byProgramEachAsksForItsOwn();
    void programsAtOneTickGoByOrder();
    void byPieceOfTheKit();
    void bySectionAndTime();
    void byChannelUndoesAJoin();
    void linesFollowTheRule();
    void linesAgreeWithTryingAll();
    void suggestsTheEmptyStretch();
    void partsGetChannelsOfTheirOwn();
    void joiningSplitPartsClashesWithNothing();
    void programsThatClash();
    void volumesGoIntoVelocities();
    void pedalGoesIntoLengths();
    void bendsOfOthersAreLeftOut();
    void unisons_data();
    void unisons();
    void recipesAreWrittenIn();
    void writingInChangesNothingThatIsHeard();
    void joiningWithoutAClashSoundsTheSame();
    void whatAPartHasOfItsOwnClashes();
    void drumsAndPitched();
};

void TestSplitJoin::splittingLosesNoNoteAndJoiningGivesTheEventsBack() {
    std::mt19937 random(41);
    int cut = 0;
    for (int round = 0; round < 200; ++round) {
        const Song song = songOf(randomFile(random));
        const Part& part =
            *std::max_element(song.parts.begin(), song.parts.end(), [](const Part& a, const Part& b) {
                return a.source.events->size() < b.source.events->size();
            });
        const Song apart = edits::split(song, part.id, anySplit(song, part, random));
        QCOMPARE(notesHeard(apart), notesHeard(song));
        if (apart == song) continue;
        ++cut;
        std::vector<PartId> pieces = {part.id};
        for (const Part& piece : apart.parts)
            if (!song.part(piece.id)) pieces.push_back(piece.id);
        const Song whole = edits::join(apart, pieces, {Unisons::KeepBoth, true, true});
        QVERIFY(whole.part(part.id)->source.events == part.source.events);
        QCOMPARE(whole.parts.size(), song.parts.size());
        QCOMPARE(contentOf(toMidi(whole, Layout::SingleTrack)).size(), contentOf(song.source->midi).size());
    }
    QVERIFY(cut > 40);
}

void TestSplitJoin::byPitch() {
    const Song song =
        Builder().note(0, 0, 1, 40).note(0, 0, 1, 72).note(0, 1, 1, 60).note(0, 2, 1, 59).song();
    const Song apart = edits::split(song, 1, splitByPitch(song, song.parts[0], Key{60}));
    QCOMPARE(apart.parts.size(), std::size_t{2});
    QCOMPARE(keysOf(apart, 1), (std::vector<int>{72, 60}));
    QCOMPARE(keysOf(apart, apart.parts[1].id), (std::vector<int>{40, 59}));
    QVERIFY(apart.parts[0].name.ends_with(" high") && apart.parts[1].name.ends_with(" low"));
    // Nothing on one side: nothing to split.
    QVERIFY(edits::split(song, 1, splitByPitch(song, song.parts[0], Key{20})) == song);
    QVERIFY(edits::split(song, 9, splitByPitch(song, song.parts[0], Key{60})) == song);
}

/// Worked by hand: no note within three keys of the cut before halves of like size; a tenth at least on
/// each side, or else the middle of all notes. The lowest of the best.
void TestSplitJoin::aKeyToSplitAtIsSuggested_data() {
    QTest::addColumn<QVector<QPair<int, int>>>("notes"); // key, how many
    QTest::addColumn<int>("expected");
    const auto row = [](const char* name, const QVector<QPair<int, int>>& notes, int expected) {
        QTest::newRow(name) << notes << expected;
    };
    row("two hands far apart", {{48, 10}, {72, 10}}, 52);
    row("a tenth below", {{40, 10}, {80, 90}}, 44);
    row("less than a tenth below", {{40, 9}, {80, 91}}, 81);
    row("a tenth above", {{40, 90}, {80, 10}}, 44);
    row("less than a tenth above", {{40, 91}, {80, 9}}, 41);
    row("three heaps: nearer to halves", {{50, 30}, {60, 30}, {90, 40}}, 64);
    row("three heaps: the other way", {{50, 40}, {80, 30}, {90, 30}}, 54);
    row("a gap of seven keys", {{60, 10}, {67, 10}}, 64);
    row("a gap of five keys: as few near as can be", {{60, 10}, {61, 2}, {66, 10}}, 65);
    row("at the bottom", {{0, 10}, {1, 10}}, 1);
    row("at the top", {{126, 10}, {127, 10}}, 127);
    row("one key alone", {{60, 8}}, 61);
}

void TestSplitJoin::aKeyToSplitAtIsSuggested() {
    using Heaps = QVector<QPair<int, int>>;
    QFETCH(Heaps, notes);
    QFETCH(int, expected);
    Builder builder;
    double at = 0;
    for (const auto& [key, count] : notes)
        for (int i = 0; i < count; ++i, at += 0.25) builder.note(0, at, 0.2, key);
    const Song song = builder.song();
    QCOMPARE(int(suggestedSplitKey(song, song.parts[0]).value), expected);
}

void TestSplitJoin::byProgramEachAsksForItsOwn() {
    const Song song = Builder()
                          .cc(0, 0, 7, 80)
                          .program(0, 0, 56)
                          .note(0, 0.1, 0.5, 60)
                          .program(0, 1, 73)
                          .note(0, 1.1, 0.5, 72)
                          .program(0, 2, 56)
                          .note(0, 2.1, 0.5, 62)
                          .song();
    const Song apart = edits::split(song, 1, splitByProgram(song, song.parts[0]));
    QCOMPARE(apart.parts.size(), std::size_t{2});
    QCOMPARE(keysOf(apart, 1), (std::vector<int>{60, 62}));
    QCOMPARE(apart.parts[1].name, std::string("Flute"));
    const auto asks = asksOf(apart, apart.parts[1]);
    QCOMPARE(asks.size(), std::size_t{1});
    QCOMPARE(asks[0].program, std::optional(Program{73}));
    // The volume goes with both.
    for (const Part& part : apart.parts)
        QVERIFY(std::any_of(part.source.events->begin(), part.source.events->end(),
                            [&](EventRef ref) { return apart.event(ref).isController(7); }));
    int programs = 0;
    for (const Event& event : realisedEvents(apart, apart.parts[1])) programs += event.isProgram();
    QCOMPARE(programs, 1);
}

void TestSplitJoin::programsAtOneTickGoByOrder() {
    // A note before and a note after a program change, all at one tick.
    const Song song = songOf(
        joined({header(0, 1), track(hex("00 C000 00 903C50 00 C003 00 904050 60 803C40 00 804040 00 C000 "
                                        "00 904350 20 804340 00 FF2F00"))}));
    const Song apart = edits::split(song, 1, splitByProgram(song, song.parts[0]));
    QCOMPARE(keysOf(apart, 1), (std::vector<int>{0x3C, 0x43}));
    QCOMPARE(keysOf(apart, apart.parts[1].id), (std::vector<int>{0x40}));
    for (const Part& part : apart.parts) QCOMPARE(asksOf(apart, part).size(), std::size_t{1});
}

void TestSplitJoin::byPieceOfTheKit() {
    Builder b;
    for (int i = 0; i < 4; ++i)
        b.note(9, i, 0.1, 36).note(9, i, 0.1, 42).note(9, i + 0.5, 0.1, 38).note(9, i, 0.1, 56);
    const Song song = b.song();
    const Song apart = edits::split(song, 1, splitByPiece(song, song.parts[0]));
    QCOMPARE(apart.parts.size(), std::size_t{4});
    QCOMPARE(apart.parts[0].name, song.parts[0].name + " kick");
    QVERIFY(apart.parts[0].name.ends_with("kick") && apart.parts[1].name.ends_with("snare") &&
            apart.parts[2].name.ends_with("hats") && apart.parts[3].name.ends_with("percussion"));
    for (const Part& part : apart.parts) QVERIFY(part.source.drums && part.source.channel == drumChannel);
}

void TestSplitJoin::bySectionAndTime() {
    Builder b;
    for (int i = 0; i < 8; ++i) b.note(0, i, 0.5, 60 + i);
    for (int i = 0; i < 2; ++i) b.file.addText(0, Builder::at(i * 4), meta::marker, i ? "Verse" : "Intro");
    const Song song = b.song();
    const Song sections = edits::split(song, 1, splitBySection(song, song.parts[0]));
    QCOMPARE(sections.parts.size(), std::size_t{2});
    QCOMPARE(keysOf(sections, sections.parts[1].id), (std::vector<int>{64, 65, 66, 67}));
    QVERIFY(sections.parts[1].name.ends_with(", Verse"));
    const Song time = edits::split(song, 1, splitAtTime(song, song.parts[0], Builder::at(6)));
    QCOMPARE(keysOf(time, time.parts[1].id), (std::vector<int>{66, 67}));
}

void TestSplitJoin::byChannelUndoesAJoin() {
    const Song song = Builder().note(0, 0, 1, 60).note(3, 0.5, 1, 64).song();
    const Song joined = edits::join(song, {1, 2});
    QCOMPARE(joined.parts.size(), std::size_t{1});
    const Song apart = edits::split(joined, 1, splitByChannel(joined, joined.parts[0]));
    QCOMPARE(apart.parts.size(), std::size_t{2});
    QCOMPARE(keysOf(apart, apart.parts[1].id), (std::vector<int>{64}));
}

void TestSplitJoin::linesFollowTheRule() {
    // A chord gives its ends to the lines at the ends; single notes and overlaps follow the nearest line.
    const Song song = Builder()
                          .note(0, 0, 0.9, 72)
                          .note(0, 0, 0.9, 48)
                          .note(0, 1, 0.9, 74) // near the top line
                          .note(0, 2, 0.9, 50) // near the bottom line
                          .note(0, 3, 2, 60)   // as near to either
                          .note(0, 3, 2, 76)
                          .note(0, 4, 0.9, 62) // its line still sounds, but the other is far
                          .song();
    const auto of = splitIntoLines(song, song.parts[0], 2).groupOf;
    QCOMPARE(of, (std::vector<int>{0, 1, 0, 1, 1, 0, 1}));
    const auto three = splitIntoLines(song, song.parts[0], 3);
    QCOMPARE(three.names.size(), std::size_t{3});
    QVERIFY(three.names[0].ends_with("top") && three.names[2].ends_with("bottom"));
}

void TestSplitJoin::linesAgreeWithTryingAll() {
    // A chord of as many notes as lines goes to them in order, whatever came before; of fewer notes the order
    // is kept: a higher note never lies on a lower line.
    std::mt19937 random(42);
    for (int round = 0; round < 100; ++round) {
        Builder b;
        for (int i = 0; i < 12; ++i)
            for (unsigned n = 0; n < 1 + random() % 4; ++n)
                b.note(0, i, 0.5 + random() % 2, 40 + static_cast<int>(random() % 40));
        const Song song = b.song();
        const int lines = 2 + round % 3;
        const auto notes = notesOf(song, song.parts[0].source);
        const auto of = splitIntoLines(song, song.parts[0], lines).groupOf;
        for (std::size_t i = 0; i < notes.size(); ++i)
            for (std::size_t k = 0; k < notes.size(); ++k)
                if (notes[i].start == notes[k].start && notes[i].key > notes[k].key) QVERIFY(of[i] <= of[k]);
        std::map<Tick, std::set<int>> used;
        std::map<Tick, int> count;
        for (std::size_t i = 0; i < notes.size(); ++i) {
            used[notes[i].start].insert(of[i]);
            ++count[notes[i].start];
        }
        for (const auto& [tick, set] : used)
            QCOMPARE(static_cast<int>(set.size()), std::min(lines, count[tick]));
    }
}

void TestSplitJoin::suggestsTheEmptyStretch() {
    Builder b;
    for (int i = 0; i < 12; ++i) b.note(0, i, 0.5, 36 + i).note(0, i, 0.5, 67 + i);
    const Song song = b.song();
    const int key = suggestedSplitKey(song, song.parts[0]).value;
    QVERIFY2(key > 47 && key <= 67, qPrintable(QString::number(key)));
}

void TestSplitJoin::partsGetChannelsOfTheirOwn() {
    Builder b;
    for (int channel = 0; channel < 16; ++channel) b.note(channel, 0, 1, 40).note(channel, 1, 1, 80);
    Song song = b.song();
    song = edits::split(song, 1, splitByPitch(song, *song.part(1), Key{60}));
    QCOMPARE(channelsNeeded(song), 17);
    QCOMPARE(song.parts[1].source.port, 1);
    QCOMPARE(int(song.parts[1].source.channel.value), 0);
    // Written with a second port, and read again as it is.
    for (const Layout layout : {Layout::TrackPerPart, Layout::SingleTrack}) {
        const Song again = songOf(toMidi(song, layout));
        QCOMPARE(again.parts.size(), song.parts.size());
        QCOMPARE(notesHeard(again), notesHeard(song));
        QVERIFY(std::any_of(again.parts.begin(), again.parts.end(),
                            [](const Part& p) { return p.source.port == 1; }));
    }
    // Folded: all on one port; drums stay on channel 10 alone.
    song.midi.folded = true;
    const Song folded = songOf(toMidi(song, Layout::TrackPerPart));
    for (const Part& part : folded.parts) QCOMPARE(part.source.port, 0);
    const auto places = foldOnto16(song).places;
    for (std::size_t i = 0; i < places.size(); ++i)
        QCOMPARE(places[i].channel == drumChannel, song.parts[i].source.drums);
}

void TestSplitJoin::joiningSplitPartsClashesWithNothing() {
    const Song song = demoSong("lantern_quay.mid");
    for (const Part& part : song.parts) {
        const Song apart = edits::split(song, part.id, splitIntoLines(song, part, 2));
        if (apart == song) continue;
        std::vector<PartId> pieces = {part.id};
        for (const Part& piece : apart.parts)
            if (!song.part(piece.id)) pieces.push_back(piece.id);
        const auto clashes = clashesOf(apart, pieces);
        QVERIFY2(clashes.empty() || (clashes.size() == 1 && clashes[0].kind == Clash::Kind::Doubled),
                 clashes.empty() ? "" : inWords(clashes[0].what).c_str());
    }
}

void TestSplitJoin::programsThatClash() {
    const Song song = Builder()
                          .program(0, 0, 56)
                          .program(1, 0, 73)
                          .note(0, 0, 2, 60)
                          .note(1, 1, 2, 72)
                          .note(1, 4, 1, 74)
                          .song();
    const auto clashes = clashesOf(song, {1, 2});
    QVERIFY(ofKind(clashes, Clash::Kind::Program));
    const Song joined = edits::join(song, {1, 2});
    const auto asks = asksOf(joined, joined.parts[0]);
    QCOMPARE(asks.size(), std::size_t{1});
    QCOMPARE(asks[0].program, std::optional(Program{56}));
    QCOMPARE(keysOf(joined, 1), (std::vector<int>{60, 72, 74}));
    // The other way round the other sound plays.
    QCOMPARE(asksOf(edits::join(song, {2, 1}), edits::join(song, {2, 1}).parts[0])[0].program,
             std::optional(Program{73}));
}

void TestSplitJoin::volumesGoIntoVelocities() {
    const Song song =
        Builder().cc(0, 0, 7, 100).cc(1, 0, 7, 50).note(0, 0.1, 1, 60, 100).note(1, 0.2, 1, 72, 100).song();
    QVERIFY(ofKind(clashesOf(song, {1, 2}), Clash::Kind::Level));
    const Song joined = edits::join(song, {1, 2});
    const HeardPart line = realise(joined, joined.parts[0]);
    QCOMPARE(int(line.notes[0].velocity.value), 100);
    QCOMPARE(int(line.notes[1].velocity.value), 50); // both follow 40·log10(v/127), so half is half
    for (const Event& event : line.controls) QVERIFY(!event.isController(cc::volume));
    const Song plain = edits::join(song, {1, 2}, {Unisons::KeepOne, false, true});
    QCOMPARE(int(realise(plain, plain.parts[0]).notes[1].velocity.value), 100);
}

void TestSplitJoin::pedalGoesIntoLengths() {
    const Song song =
        Builder().cc(0, 0, 64, 127).note(0, 0.1, 0.2, 60).cc(0, 2, 64, 0).note(1, 0.5, 0.5, 72).song();
    QVERIFY(ofKind(clashesOf(song, {1, 2}), Clash::Kind::Sustain));
    const Song joined = edits::join(song, {1, 2});
    const HeardPart line = realise(joined, joined.parts[0]);
    QCOMPARE(line.notes[0].end, Builder::at(2));
    QCOMPARE(line.notes[1].end, Builder::at(1));
    for (const Event& event : line.controls) QVERIFY(!event.isController(cc::sustain));
}

void TestSplitJoin::bendsOfOthersAreLeftOut() {
    const Song song = Builder().note(0, 0, 2, 60).note(1, 0, 2, 72).bend(1, 1, 10000).song();
    QVERIFY(ofKind(clashesOf(song, {1, 2}), Clash::Kind::Bend));
    const Song joined = edits::join(song, {1, 2});
    for (const Event& event : realisedEvents(joined, joined.parts[0])) QVERIFY(event.kind() != 0xE0);
    // Bends that meet no note of the other stay.
    const Song apart =
        Builder().note(0, 0, 0.5, 60).note(1, 2, 1, 72).bend(1, 2.5, 10000).bend(1, 3, 8192).song();
    QVERIFY(!ofKind(clashesOf(apart, {1, 2}), Clash::Kind::Bend));
}

void TestSplitJoin::unisons_data() {
    QTest::addColumn<int>("rule");
    QTest::addColumn<QString>("notes"); // start-end/velocity in tenths of a second
    QTest::newRow("both") << int(Unisons::KeepBoth) << "0-10/90 0-20/60 15-30/80";
    QTest::newRow("one, the longer and louder") << int(Unisons::KeepOne) << "0-20/90 15-30/80";
    QTest::newRow("cut") << int(Unisons::Cut) << "0-15/90 15-30/80";
}

void TestSplitJoin::unisons() {
    QFETCH(int, rule);
    QFETCH(QString, notes);
    const Song song = Builder()
                          .note(0, 0, 1, 60, 90)
                          .note(1, 0, 2, 60, 60)
                          .note(1, 1.5, 1.5, 60, 80)
                          .note(0, 3, 0, 61, 1)
                          .song();
    const Song joined = edits::join(song, {1, 2}, {static_cast<Unisons>(rule), true, true});
    std::vector<EventRef> origins;
    const HeardPart line = realise(joined, joined.parts[0]);
    const std::vector<Event> events = realisedEvents(joined, joined.parts[0], &origins);
    QStringList said;
    for (const Note& n : line.notes)
        if (n.key.value == 60)
            said << QStringLiteral("%1-%2/%3").arg(n.start / 96).arg(n.end / 96).arg(n.velocity.value);
    QCOMPARE(said.join(QLatin1Char(' ')), notes);
    // The events say the same as the notes, in order.
    QCOMPARE(origins.size(), events.size());
    QVERIFY(std::is_sorted(events.begin(), events.end(),
                           [](const Event& a, const Event& b) { return a.tick < b.tick; }));
    const auto ons = std::count_if(events.begin(), events.end(), [](const Event& e) { return e.isNoteOn(); });
    const auto offs =
        std::count_if(events.begin(), events.end(), [](const Event& e) { return e.isNoteOff(); });
    QCOMPARE(ons, static_cast<std::ptrdiff_t>(line.notes.size()));
    QCOMPARE(offs, ons);
    if (rule == int(Unisons::KeepBoth)) return;
    QCOMPARE(notesHeard(songOf(toMidi(joined, Layout::TrackPerPart))), notesHeard(joined));
}

void TestSplitJoin::recipesAreWrittenIn() {
    Song song = Builder().note(0, 0, 1, 60, 100).note(1, 1, 1, 60, 100).song();
    song = edits::setSemitones(song, 2, -2);
    song = edits::setVelocity(song, 2, {0.5, 0, 0});
    QVERIFY(ofKind(clashesOf(song, {1, 2}), Clash::Kind::Recipe));
    const Song joined = edits::join(song, {1, 2});
    QCOMPARE(notesHeard(joined), notesHeard(song));
}

void TestSplitJoin::writingInChangesNothingThatIsHeard() {
    std::mt19937 random(43);
    for (int round = 0; round < 60; ++round) {
        Song song = songOf(randomFile(random));
        const PartId id = song.parts[random() % song.parts.size()].id;
        song = edits::setOctaves(song, id, static_cast<int>(random() % 3) - 1);
        song = edits::setVelocity(
            song, id, {0.5 + static_cast<double>(random() % 10) / 10, static_cast<int>(random() % 20), 0.3});
        song = edits::setUnisons(song, id, static_cast<Unisons>(random() % 3));
        song = edits::dropController(song, id, static_cast<int>(random() % 128));
        song = edits::thinController(song, id, pitchBendId, 200);
        const Song written = edits::writeInRecipe(song, id);
        QCOMPARE(notesHeard(written), notesHeard(song));
        QVERIFY(realisedEvents(written, *written.part(id)) == realisedEvents(song, *song.part(id)));
        QVERIFY(written.part(id)->recipe.velocity == VelocityShape{} &&
                written.part(id)->recipe.controllers.empty());
    }
}

namespace {

/// One of the edits of a part that shape what is heard of it, with the same values for all given parts.
Song anyPartEdit(Song song, const std::vector<PartId>& parts, std::mt19937& random) {
    const auto seed = random();
    for (const PartId id : parts) {
        std::mt19937 same(seed);
        const auto number = [&same](int from, int to) {
            return from + static_cast<int>(same() % static_cast<unsigned>(to - from + 1));
        };
        const SoundRef sound{TEST_FONT, 0, number(0, 3), "Any"};
        switch (number(0, 14)) {
        case 0: song = edits::setOctaves(song, id, number(-1, 1)); break;
        case 1: song = edits::foldInto(song, id, KeyRange{48, 48 + number(12, 30)}); break;
        case 2: song = edits::setSemitones(song, id, number(-5, 5)); break;
        case 3: song = edits::setVelocity(song, id, {number(5, 15) / 10.0, number(-9, 9), 0}); break;
        case 4: song = edits::chooseSound(song, id, sound); break;
        case 5: song = edits::chooseForStretch(song, id, number(0, 9000), number(9001, 20000), sound); break;
        case 6: song = edits::addLayer(song, id, sound); break;
        case 7: song = edits::setEffects(song, id, {{"urn:effect", "Any", {}, number(0, 1) == 1}}); break;
        case 8: song = edits::setRoomShare(song, id, number(0, 20) / 10.0, number(0, 1) == 1); break;
        case 9: song = edits::setMuted(song, id, number(0, 1) == 1); break;
        case 10: song = edits::setSolo(song, id, number(0, 1) == 1); break;
        case 11: song = edits::setRole(song, id, static_cast<Role>(number(0, 2))); break;
        case 12: song = edits::setLevel(song, id, number(-12, 3)); break;
        case 13: song = edits::setPan(song, id, number(-10, 10) / 10.0); break;
        default:
            song = edits::fixProgram(song, id, Program{static_cast<std::uint8_t>(number(0, 127))});
            break;
        }
    }
    return song;
}

/// Parts that a random song's part was split to, with edits on all of them alike, or on one of them too.
struct Cut {
    Song song;
    std::vector<PartId> parts;
};

Cut anyCut(std::mt19937& random, bool alike) {
    Cut cut{songOf(randomFile(random)), {}};
    for (int tries = 0; tries < 20 && cut.parts.size() < 2; ++tries) {
        const PartId id = cut.song.parts[random() % cut.song.parts.size()].id;
        if (cut.song.part(id)->source.drums) continue;
        // A part that goes by the program of its channel's other tracks loses it when it leaves the channel.
        if (!firstProgram(cut.song, cut.song.part(id)->source))
            cut.song = edits::giveProgram(cut.song, id, Program{7});
        const Song split = edits::split(cut.song, id, splitByPitch(cut.song, *cut.song.part(id), Key{64}));
        cut.parts.clear();
        for (const Part& p : split.parts)
            if (p.id == id || !cut.song.part(p.id)) cut.parts.push_back(p.id);
        if (cut.parts.size() >= 2) cut.song = split;
    }
    for (int i = 0; i < 3; ++i) cut.song = anyPartEdit(cut.song, cut.parts, random);
    if (!alike && cut.parts.size() >= 2) cut.song = anyPartEdit(cut.song, {cut.parts.back()}, random);
    return cut;
}

} // namespace

void TestSplitJoin::joiningWithoutAClashSoundsTheSame() {
    const Catalogue fonts = testFont();
    std::mt19937 random(97);
    int joined = 0, clashed = 0;
    for (int round = 0; round < 400; ++round) {
        const Cut cut = anyCut(random, round % 2 == 0);
        if (cut.parts.size() < 2) continue;
        const JoinOptions keepAll{Unisons::KeepBoth, true, true};
        auto clashes = clashesOf(cut.song, cut.parts, keepAll);
        std::erase_if(clashes,
                      [](const Clash& c) { return c.kind == Clash::Kind::Channels; }); // of files alone
        if (!clashes.empty()) {
            ++clashed;
            continue;
        }
        ++joined;
        const Song whole = edits::join(cut.song, cut.parts, keepAll);
        QVERIFY(whole.parts.size() < cut.song.parts.size());
        // Other parts of a channel may go by its program, which is not joining's matter.
        const auto only = [](Song song, const std::vector<PartId>& ids) {
            std::erase_if(song.parts, [&](const Part& p) {
                return std::find(ids.begin(), ids.end(), p.id) == ids.end();
            });
            return song;
        };
        const auto before = whatSounds(only(cut.song, cut.parts), fonts),
                   after = whatSounds(only(whole, {cut.parts[0]}), fonts);
        std::vector<Sounding> lost;
        std::set_difference(before.begin(), before.end(), after.begin(), after.end(),
                            std::back_inserter(lost));
        const auto said = [](const Sounding& n) {
            return QStringLiteral("%1 key %2 velocity %3 %4 gain %5 pan %6 room %7")
                .arg(std::get<0>(n))
                .arg(std::get<1>(n))
                .arg(std::get<2>(n))
                .arg(QString::fromStdString(std::get<3>(n)))
                .arg(std::get<4>(n))
                .arg(std::get<5>(n))
                .arg(std::get<6>(n));
        };
        std::vector<Sounding> fresh;
        std::set_difference(after.begin(), after.end(), before.begin(), before.end(),
                            std::back_inserter(fresh));
        QVERIFY2(before == after, qPrintable(QStringLiteral("round %1: %2 notes; was %3, is %4")
                                                 .arg(round)
                                                 .arg(lost.size())
                                                 .arg(lost.empty() ? QString() : said(lost[0]),
                                                      fresh.empty() ? QString() : said(fresh[0]))));
    }
    QVERIFY2(joined > 60 && clashed > 60,
             qPrintable(QStringLiteral("%1 joined, %2 clashed").arg(joined).arg(clashed)));
}

void TestSplitJoin::whatAPartHasOfItsOwnClashes() {
    // A fold, a stretch, a layer, an effect, a mute of one part alone: joining says what becomes of each.
    const Song song = Builder(1, 2).note(0, 0, 1, 60).note(1, 0, 1, 36, 100, 1).song();
    const SoundRef violin{"house", 0, 40, "Violin"};
    const std::pair<Clash::Kind, Song> cases[] = {
        {Clash::Kind::Recipe, edits::foldInto(song, 1, KeyRange{60, 84})},
        {Clash::Kind::Program, edits::chooseForStretch(song, 1, 0, 400, violin)},
        {Clash::Kind::Layers, edits::addLayer(song, 2, violin)},
        {Clash::Kind::Effects, edits::setEffects(song, 2, {{"urn:x", "X", {}, true}})},
        {Clash::Kind::Room, edits::setRoomShare(song, 2, 0.5, false)},
        {Clash::Kind::Heard, edits::setMuted(song, 2, true)},
        {Clash::Kind::Heard, edits::setRole(song, 1, Role::Lead)}};
    for (const auto& [kind, changed] : cases) {
        const auto clashes = clashesOf(changed, {1, 2});
        const auto at =
            std::find_if(clashes.begin(), clashes.end(), [k = kind](const Clash& c) { return c.kind == k; });
        QVERIFY2(at != clashes.end(), std::to_string(static_cast<int>(kind)).c_str());
        QVERIFY(!at->what.empty() && !at->how.empty());
    }
    // The fold of the first does not move the bass of the second.
    const Song joined = edits::join(edits::foldInto(song, 1, KeyRange{60, 84}), {1, 2});
    QCOMPARE(notesHeard(joined), notesHeard(song));
}

void TestSplitJoin::drumsAndPitched() {
    const Song song = Builder().program(0, 0, 25).note(0, 0, 0.1, 36).note(3, 0, 0.1, 60).song();
    const Song drums = edits::makeDrums(song, 1);
    QVERIFY(drums.parts[0].source.drums && drums.parts[0].source.channel == drumChannel);
    QCOMPARE(asksOf(drums, drums.parts[0])[0].program, std::optional(Program{0})); // program 26 was no kit
    const Song back = edits::makePitched(drums, 1);
    QVERIFY(!back.parts[0].source.drums && back.parts[0].source.channel != drumChannel);
    QCOMPARE(asksOf(back, back.parts[0])[0].program, std::optional(Program{25}));
    QCOMPARE(songOf(toMidi(drums, Layout::TrackPerPart)).parts[0].source.drums, true);
    QVERIFY(edits::makePitched(song, 1) == song && edits::makeDrums(drums, 1) == drums);
    // RP-003, table of percussion keys.
    QCOMPARE(pieceOf(Key{36}), DrumPiece::Kick);
    QCOMPARE(pieceOf(Key{46}), DrumPiece::Hats);
    QCOMPARE(pieceOf(Key{51}), DrumPiece::Cymbals);
    QCOMPARE(pieceOf(Key{45}), DrumPiece::Toms);
    QCOMPARE(pieceOf(Key{54}), DrumPiece::Percussion);
    QCOMPARE(pieceOf(Key{34}), DrumPiece::Other);
}

QTEST_APPLESS_MAIN(TestSplitJoin)
#include "tst_splitjoin.moc"
