/// Controllers, velocities, events, tempo, sections, keys, words.
#include "support/randomsong.h"
#include "support/whatsounds.h"

#include "midi/text.h"
#include "song/drums/drumedits.h"
#include "song/heard/controllers.h"
#include "song/heard/lyrics.h"
#include "song/heard/overview.h"
#include "song/heard/realise.h"
#include "song/match/drumlikeness.h"
#include "song/match/names.h"
#include "song/match/songkeys.h"
#include "song/model/asks.h"
#include "song/model/levels.h"
#include "song/out/tomidi.h"
#include "song/shape/edits.h"
#include "song/shape/eventlist.h"
#include "song/shape/timeedits.h"

using namespace support;

namespace {

int valueAt(const std::vector<ControlPoint>& points, Tick tick) {
    int value = -1;
    for (const ControlPoint& point : points)
        if (point.tick <= tick) value = point.value;
    return value;
}

/// The fewest points that can stand for others within a tolerance, by trying every choice of where a point
/// begins.
std::size_t fewestByTrying(const std::vector<ControlPoint>& points, int tolerance) {
    std::size_t best = points.size();
    for (unsigned choice = 0; choice < (1U << (points.size() - 1)); ++choice) {
        std::size_t count = 1;
        int low = points[0].value, high = low;
        bool fits = true;
        for (std::size_t i = 1; i < points.size() && fits; ++i) {
            if (choice & (1U << (i - 1))) {
                ++count;
                low = high = points[i].value;
            } else {
                low = std::min(low, points[i].value);
                high = std::max(high, points[i].value);
            }
            fits = high - low <= 2 * tolerance; // a value between the two is within the tolerance of both
        }
        if (fits) best = std::min(best, count);
    }
    return best;
}

Song scaleSong(int shiftOfThird, const char* thirdName) {
    // Three voices of one tune in C major; the third perhaps moved.
    static constexpr int tune[] = {0, 2, 4, 5, 7, 9,  7, 5, 4, 2, 0, 4, 7, 12, 11,
                                   9, 7, 5, 4, 2, 11, 0, 7, 4, 5, 9, 2, 7, 0,  0};
    Builder b(1, 3);
    for (std::size_t voice = 0; voice < 3; ++voice) {
        b.file.addText(voice, 0, meta::trackName, voice == 0 ? "Flute" : voice == 1 ? "Organ" : thirdName);
        for (std::size_t i = 0; i < std::size(tune); ++i)
            b.note(static_cast<int>(voice), static_cast<double>(i) * 0.5, 0.4,
                   48 + 12 * static_cast<int>(voice % 2) + tune[(i + voice * 5) % std::size(tune)] +
                       (voice == 2 ? shiftOfThird : 0),
                   90, voice);
    }
    return b.song();
}

} // namespace

class TestShaping : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void stretchesMoveWithTheStart();
    void thinningStaysWithinTheTolerance();
    void thinningNeedsNoMoreThanTheFewest();
    void controllersAreCountedKeptDroppedThinned();
    void fixedControllersBecomeTheMix();
    void velocities();
    void fixedProgramsAreOverruledByNothing();
    void eventsAreFiltered();
    void eventsAreChangedDeletedMoved();
    void flatTempoMovesNothingFurtherThanSaid_data();
    void flatTempoMovesNothingFurtherThanSaid();
    void tempoEdits();
    void metreAndPickUp();
    void leadingSilenceGoes();
    void sectionsAreEdited();
    void tempoAndSectionsAreWritten();
    void keysOfKnownPieces();
    void lyrics_data();
    void lyrics();
    void encodings_data();
    void encodings();
    void changingTheEncodingChangesWhatIsTheFiles();
    void namesTellInstruments_data();
    void namesTellInstruments();
    void drumsAreRecognised();
    void originalDataIsWrittenWhenAsked();
    void overviewsCoverEveryNote();
    void tracksOfOneChannelShareItsProgram();
};

void TestShaping::thinningStaysWithinTheTolerance() {
    std::mt19937 random(51);
    for (int round = 0; round < 300; ++round) {
        std::vector<ControlPoint> points;
        int value = 64;
        for (int i = 0; i < 80; ++i) {
            value = std::clamp(value + static_cast<int>(random() % 7) - 3, 0, 127);
            points.push_back({static_cast<Tick>(i / 2 * 10 + static_cast<int>(random() % 2)), value});
        }
        std::stable_sort(points.begin(), points.end(), [](auto& a, auto& b) { return a.tick < b.tick; });
        const int tolerance = static_cast<int>(random() % 6);
        const auto kept = thinned(points, tolerance);
        for (Tick tick = points.front().tick; tick < 420; ++tick)
            QVERIFY(std::abs(valueAt(points, tick) - valueAt(kept, tick)) <= tolerance);
        QVERIFY(kept.size() <= points.size());
    }
}

void TestShaping::thinningNeedsNoMoreThanTheFewest() {
    std::mt19937 random(52);
    for (int round = 0; round < 300; ++round) {
        std::vector<ControlPoint> points;
        for (int i = 0; i < 9; ++i) points.push_back({i * 10, static_cast<int>(random() % 20)});
        const int tolerance = static_cast<int>(random() % 7);
        QCOMPARE(thinned(points, tolerance).size(), fewestByTrying(points, tolerance));
    }
}

void TestShaping::controllersAreCountedKeptDroppedThinned() {
    Builder b;
    b.cc(0, 0, 10, 30);
    for (int i = 0; i < 100; ++i) b.cc(0, 0.1 + i * 0.02, 11, 60 + i / 3);
    Song song = b.cc(0, 0, 64, 127).note(0, 0, 3, 60).bend(0, 1, 9000).song();
    auto uses = controllersOf(song, song.parts[0].source, song.parts[0].recipe);
    QCOMPARE(uses.size(), std::size_t{4});
    QCOMPARE(uses[1], (ControllerUse{11, 100, 100, 60, 93, true}));
    QVERIFY(!uses[0].moves && uses[3].controller == pitchBendId);
    song = edits::thinController(song, 1, 11, 2);
    uses = controllersOf(song, song.parts[0].source, song.parts[0].recipe);
    QVERIFY(uses[1].kept < 10 && uses[1].events == 100);
    const auto count = [&](int number) {
        const auto controls = realise(song, song.parts[0]).controls;
        return static_cast<int>(std::count_if(controls.begin(), controls.end(), [&](const Event& e) {
            return e.isController(static_cast<std::uint8_t>(number));
        }));
    };
    QCOMPARE(count(11), uses[1].kept);
    song = edits::dropController(song, 1, 11);
    QCOMPARE(count(11), 0);
    song = edits::keepController(song, 1, 11);
    QCOMPARE(count(11), 100);
    QVERIFY(edits::thinController(song, 1, cc::sustain, 3) == song); // a switch is not thinned
    QCOMPARE(controllerName(7), std::string("volume (7)"));
    QCOMPARE(controllerName(23), std::string("controller 23"));
}

void TestShaping::fixedControllersBecomeTheMix() {
    const Song song = Builder().cc(0, 0, 11, 64).cc(0, 0, 10, 127).note(0, 0.1, 1, 60).song();
    const Song level = edits::controllerIntoMix(song, 1, cc::expression);
    QVERIFY(std::abs(level.parts[0].mix.levelDb - volumeDb(64)) < 1e-9 &&
            level.parts[0].recipe.drops(cc::expression));
    const Song pan = edits::controllerIntoMix(song, 1, cc::pan);
    QCOMPARE(pan.parts[0].mix.pan, 1.0);
    QVERIFY(edits::controllerIntoMix(song, 1, cc::modulation) == song);
}

void TestShaping::velocities() {
    const Song song = Builder().note(0, 0, 1, 60, 40).note(0, 1, 1, 62, 80).note(0, 2, 1, 60, 120).song();
    const auto of = [](const Song& s) {
        std::vector<int> v;
        for (const Note& n : realise(s, s.parts[0]).notes) v.push_back(n.velocity.value);
        return v;
    };
    QCOMPARE(of(edits::setVelocity(song, 1, {0.5, 0, 0})), (std::vector<int>{20, 40, 60}));
    QCOMPARE(of(edits::setVelocity(song, 1, {1, 20, 0})), (std::vector<int>{60, 100, 127}));
    QCOMPARE(of(edits::setVelocity(song, 1, {1, 0, 1})), (std::vector<int>{80, 80, 80}));
    QCOMPARE(of(edits::setVelocity(song, 1, {1, 0, 0.5})), (std::vector<int>{60, 80, 100}));
    QCOMPARE(of(edits::setVelocity(song, 1, {1, -126, 0})), (std::vector<int>{1, 1, 1})); // never an end
    QCOMPARE(of(edits::setDrumTrim(song, 1, {Key{60}}, {1, 5, 0})), (std::vector<int>{45, 80, 125}));
    QVERIFY(edits::setDrumTrim(edits::setDrumTrim(song, 1, {Key{60}}, {1, 5, 0}), 1, {Key{60}}, {}) == song);
}

void TestShaping::fixedProgramsAreOverruledByNothing() {
    const Song song = Builder()
                          .cc(0, 0, 0, 8)
                          .program(0, 0, 4)
                          .note(0, 0.1, 1, 60)
                          .program(0, 2, 5)
                          .note(0, 3, 1, 60)
                          .song();
    const Song fixed = edits::fixProgram(song, 1);
    auto asks = asksOf(fixed, fixed.parts[0]);
    QCOMPARE(asks.size(), std::size_t{1});
    QVERIFY(asks[0].program == Program{4} && asks[0].bankMsb == 8);
    const Song other = edits::fixProgram(song, 1, Program{40});
    QCOMPARE(asksOf(other, other.parts[0])[0].program, std::optional(Program{40}));
    // What is written asks for the same.
    const Song again = songOf(toMidi(fixed, Layout::TrackPerPart));
    QCOMPARE(asksOf(again, again.parts[0]).size(), std::size_t{1});
    QCOMPARE(asksOf(again, again.parts[0])[0].bankMsb, std::optional(8));
    QVERIFY(edits::followPrograms(fixed, 1) == song);
}

void TestShaping::eventsAreFiltered() {
    const Song song = Builder()
                          .cc(0, 0, 7, 90)
                          .program(0, 0, 3)
                          .note(0, 1, 1, 60, 50)
                          .note(0, 2, 1, 72, 100)
                          .bend(0, 2, 8292)
                          .song();
    const Part& part = song.parts[0];
    const auto count = [&](const EventFilter& filter) { return filterEvents(song, part, filter).size(); };
    QCOMPARE(count({}), part.source.events->size());
    QCOMPARE(count({.kind = EventKind::Note}), std::size_t{2});
    QCOMPARE(count({.controller = 7}), std::size_t{1});
    QCOMPARE(count({.lowestKey = 70}), std::size_t{2});
    QCOMPARE(count({.from = Builder::at(1), .to = Builder::at(2)}), std::size_t{1});
    QCOMPARE(count({.kind = EventKind::Note, .lowestValue = 60}), std::size_t{1});
    QCOMPARE(count({.kind = EventKind::Bend, .lowestValue = 100, .highestValue = 100}), std::size_t{1});
    QCOMPARE(eventText(song, (*part.source.events)[0], false), std::string("volume (7)"));
}

void TestShaping::eventsAreChangedDeletedMoved() {
    const Song song = Builder().cc(0, 0, 7, 90).note(0, 1, 1, 60, 50).note(0, 2, 1, 72, 100).song();
    const auto& events = *song.parts[0].source.events;
    const EventRef volume = events[0], first = events[1], firstEnd = events[2];
    const Song louder = edits::setEventValue(song, 1, first, 500);
    QCOMPARE(int(realise(louder, louder.parts[0]).notes[0].velocity.value), 127);
    QVERIFY(edits::setEventValue(song, 1, {0, 999}, 5) == song);
    QVERIFY(edits::setEventValue(song, 9, first, 5) == song);
    // Deleting an end deletes its note.
    const Song shorter = edits::deleteEvents(song, 1, {firstEnd, volume});
    QCOMPARE(shorter.parts[0].source.events->size(), std::size_t{2});
    QCOMPARE(int(realise(shorter, shorter.parts[0]).notes[0].key.value), 72);
    const Song moved = edits::moveEvents(song, 1, {first}, "Solo");
    QCOMPARE(moved.parts.size(), std::size_t{2});
    QCOMPARE(moved.parts[1].name, std::string("Solo"));
    QCOMPARE(moved.parts[1].source.events->size(), std::size_t{3}); // the volume is copied along
    QCOMPARE(moved.parts[0].source.events->size(), std::size_t{3});
    QVERIFY(edits::moveEvents(song, 1, events, "All") == song);
    // To a part that is there, and back: the same sounds.
    const PartId solo = moved.parts[1].id;
    const Song back = edits::moveEventsTo(moved, solo, {first}, 1);
    QVERIFY(realise(back, *back.part(1)).notes == realise(song, *song.part(1)).notes);
    QVERIFY(back.part(solo)->aside);
    QVERIFY(edits::moveEventsTo(song, 1, {first}, 1) == song);
    QVERIFY(edits::moveEventsTo(song, 1, {first}, 99) == song);
    const Song controllersOnly = edits::moveEvents(song, 1, {volume}, "Volume");
    QCOMPARE(controllersOnly.parts[1].source.events->size(), std::size_t{1});
    QVERIFY(controllersOnly.parts[1].aside);
    // Changed events are changed again, and survive being split off.
    const Song twice = edits::setEventValue(louder, 1, (*louder.parts[0].source.events)[1], 3);
    QCOMPARE(int(realise(twice, twice.parts[0]).notes[0].velocity.value), 3);
    QCOMPARE(int(realise(twice, twice.parts[0]).notes[0].end), int(Builder::at(2)));
}

void TestShaping::flatTempoMovesNothingFurtherThanSaid_data() {
    QTest::addColumn<double>("tolerance");
    QTest::newRow("5 ms") << 0.005;
    QTest::newRow("20 ms") << 0.02;
    QTest::newRow("a quarter second") << 0.25;
}

void TestShaping::flatTempoMovesNothingFurtherThanSaid() {
    QFETCH(double, tolerance);
    std::mt19937 random(53);
    for (int round = 0; round < 20; ++round) {
        Builder b;
        b.file.tracks[0].events.clear();
        double bpm = 100;
        for (int i = 0; i < 400; ++i) {
            bpm += static_cast<double>(random() % 100) / 100 - 0.5 + (i > 300 ? -0.1 : 0);
            b.file.addTempo(0, i * 120, static_cast<int>(60e6 / bpm));
        }
        for (int i = 0; i < 60; ++i) b.note(0, i * 0.4, 0.3, 60);
        const Song song = b.song();
        const auto flat = flattened(song, tolerance);
        QVERIFY(flat.mostMoved <= tolerance + 1e-9);
        QVERIFY2(flat.tempos.size() < 100, qPrintable(QString::number(flat.tempos.size())));
        const Song after = edits::flattenTempo(song, tolerance);
        for (const Note& note : realise(after, after.parts[0]).notes)
            QVERIFY(std::abs(after.tempo->seconds(note.start) - song.tempo->seconds(note.start)) <=
                    tolerance + 1e-9);
    }
}

void TestShaping::tempoEdits() {
    Builder b;
    b.file.addTempo(0, 960, 1000000);
    const Song song = b.note(0, 0, 4, 60).song();
    QCOMPARE(edits::scaleTempo(song, 2).tempo->bpm(0), 240.0);
    QCOMPARE(edits::scaleTempo(song, 2).tempo->bpm(960), 120.0);
    QCOMPARE(edits::setTempo(song, 960, 90).tempo->tempos()[1].microsecondsPerQuarter, 666667);
    QCOMPARE(edits::removeTempo(song, 960).tempo->tempos().size(), std::size_t{1});
    QVERIFY(edits::removeTempo(song, 0) == song);
    const Song steady = edits::steadyTempo(song, steadyBpm(song));
    QCOMPARE(steady.tempo->tempos().size(), std::size_t{1});
    QVERIFY(std::abs(steady.seconds() - song.seconds()) < 0.001);
    QVERIFY(edits::steadyTempo(song, 1e9).tempo->bpm(0) <= 1000.1);
}

void TestShaping::metreAndPickUp() {
    const Song song = Builder().note(0, 0, 8, 60).song(); // 480 ticks a quarter
    const Song waltz = edits::setMetre(song, 2500, 3, 4); // within bar 2
    QCOMPARE(waltz.tempo->position(1920 + 3 * 480).bar, 3);
    QVERIFY(edits::setMetre(song, 0, 3, 5) == song && edits::setMetre(song, 0, 0, 4) == song);
    const Song pickUp = edits::setPickUp(song, 480);
    QCOMPARE(pickUp.tempo->position(479).bar, 1);
    QCOMPARE(pickUp.tempo->position(480).bar, 2);
    QCOMPARE(pickUp.tempo->position(480 + 1920).bar, 3);
    QCOMPARE(edits::setPickUp(pickUp, 960).tempo->position(480).bar, 1);
    QVERIFY(*edits::setPickUp(pickUp, 0).tempo == *song.tempo);
    QVERIFY(edits::setPickUp(song, 1920) == song);
}

void TestShaping::leadingSilenceGoes() {
    Builder b;
    b.file.addTempo(0, 1920, 400000);
    b.file.addText(0, 3840, meta::marker, "Verse");
    const Song song = b.cc(0, 0, 7, 90).note(0, 4, 1, 60).song(); // at tick 3840
    QCOMPARE(leadingSilence(song), Tick{3840});
    const Song cut = edits::removeLeadingSilence(song, 3840);
    QCOMPARE(realise(cut, cut.parts[0]).notes[0].start, Tick{0});
    QCOMPARE(realisedEvents(cut, cut.parts[0])[0].tick, Tick{0}); // the volume stays at the start
    QCOMPARE(cut.tempo->bpm(0), 150.0);
    QCOMPARE(cut.sections[0].start, Tick{0});
    QCOMPARE(cut.end, song.end - 3840);
    QVERIFY(edits::removeLeadingSilence(song, 100000) == cut); // no further than the first note
    const Song again = songOf(toMidi(cut, Layout::SingleTrack));
    QCOMPARE(realise(again, again.parts[0]).notes, realise(cut, cut.parts[0]).notes);
    QCOMPARE(again.tempo->bpm(0), 150.0);
}

void TestShaping::sectionsAreEdited() {
    const Song song = demoSong("lantern_quay.mid");
    const Tick second = song.sections[1].start, third = song.sections[2].start;
    const Song added = edits::addSection(song, second + 1920, "Turn");
    QCOMPARE(added.sections.size(), song.sections.size() + 1);
    QCOMPARE(added.sections[1].end, second + 1920);
    QCOMPARE(edits::renameSection(song, second, "Evening").sections[1].name, std::string("Evening"));
    QCOMPARE(edits::moveSection(song, second, third + 99999).sections[1].start,
             third - 1); // not past the next
    QCOMPARE(edits::moveSection(song, second, second + 960).sections[0].end, second + 960);
    const Song removed = edits::removeSection(song, second);
    QCOMPARE(removed.sections[0].end, third);
    QVERIFY(edits::removeSection(song, 77) == song);
}

void TestShaping::tempoAndSectionsAreWritten() {
    Song song = edits::addSection(edits::steadyTempo(demoSong("lantern_quay.mid"), 99), 4800, "Rope walk");
    song = edits::setMetre(song, 0, 2, 4);
    for (const Layout layout : {Layout::TrackPerPart, Layout::SingleTrack}) {
        const Song again = songOf(toMidi(song, layout));
        QVERIFY(*again.tempo == *song.tempo);
        QVERIFY(again.sections == song.sections);
    }
}

void TestShaping::keysOfKnownPieces() {
    // The scale of each key with its tonic triad weighed, as a piece in it has (harmony handbooks): the
    // profiles of Krumhansl and Kessler name it.
    static constexpr int majorSteps[] = {0, 2, 4, 5, 7, 9, 11}, minorSteps[] = {0, 2, 3, 5, 7, 8, 11};
    for (int tonic = 0; tonic < 12; ++tonic) {
        PitchClasses major{}, minor{};
        for (int i = 0; i < 7; ++i) {
            const double weight = i == 0 ? 3 : i == 2 || i == 4 ? 2 : 1;
            major[static_cast<std::size_t>((tonic + majorSteps[i]) % 12)] = weight;
            minor[static_cast<std::size_t>((tonic + minorSteps[i]) % 12)] = weight;
        }
        QCOMPARE(keyOf(major).tonic, tonic);
        QVERIFY(!keyOf(major).minor);
        QCOMPARE(keyOf(minor).tonic, tonic);
        QVERIFY(keyOf(minor).minor);
    }
    QCOMPARE(keyText({10, false, 1}), std::string("B♭ major"));
    const Song song = scaleSong(0, "Horn");
    QCOMPARE(keyText(keyOf(pitchClassesOf(song, song.parts[0], realise(song, song.parts[0])))),
             std::string("C major"));
    const Song together = demoSong("lantern_quay.mid");
    QCOMPARE(keyOfSong(edits::setKeyShift(together, 2)).tonic, (keyOfSong(together).tonic + 2) % 12);
    QCOMPARE(keyOfSong(edits::setKeyShift(together, 2)).minor, keyOfSong(together).minor);
}

void TestShaping::lyrics_data() {
    QTest::addColumn<bool>("karaoke");
    QTest::addColumn<QStringList>("texts");
    QTest::addColumn<QStringList>("lines"); // "¶" before a paragraph
    // RP-017: carriage return ends a line, line feed a paragraph.
    QTest::newRow("lines and paragraphs")
        << false << QStringList{"Lan", "terns ", "lit\r", "on the ", "quay\n", "Home"}
        << QStringList{"¶Lanterns lit", "on the quay", "¶Home"};
    QTest::newRow("line ends as events") << false << QStringList{"Tide", "\r", "turns", "\n", "Sleep"}
                                         << QStringList{"¶Tide", "turns", "¶Sleep"};
    QTest::newRow("karaoke")
        << true
        << QStringList{"@KMIDI KARAOKE FILE", "@TPilot", "\\Row ", "the ", "boat", "/to ", "shore", "\\Sing"}
        << QStringList{"¶Row the boat", "to shore", "¶Sing"};
}

void TestShaping::lyrics() {
    QFETCH(bool, karaoke);
    QFETCH(QStringList, texts);
    QFETCH(QStringList, lines);
    Builder b;
    for (int i = 0; i < texts.size(); ++i)
        b.file.addText(0, i * 100, karaoke ? meta::text : meta::lyric, texts[i].toStdString());
    const Song song = b.note(0, 0, 1, 60).song();
    QStringList said;
    for (const LyricLine& line : lyricLines(song))
        said << (line.newParagraph ? QStringLiteral("¶") : QString()) + QString::fromStdString(line.text);
    QCOMPARE(said, lines);
}

void TestShaping::encodings_data() {
    QTest::addColumn<QString>("encoding");
    QTest::addColumn<QString>("text");
    QTest::newRow("UTF-8") << "UTF-8"
                           << "Flöte Übermut Häfen";
    QTest::newRow("Western") << "WINDOWS-1252"
                             << "Flöte, Bässe und Hörner";
    QTest::newRow("Western, one accent") << "WINDOWS-1252"
                                         << "Flûte";
    QTest::newRow("Central European") << "WINDOWS-1250"
                                      << "Pístní klapka žluťoučký kůň příliš úpěl ďábelské ódy tichý přístav";
    QTest::newRow("Cyrillic") << "WINDOWS-1251"
                              << "Скрипка и виолончель играют вечером у старой гавани";
    QTest::newRow("KOI8") << "KOI8-R"
                          << "Скрипка и виолончель играют вечером у старой гавани";
    QTest::newRow("Japanese") << "SHIFT_JIS"
                              << "港の灯りとバイオリンの音色が夜に響く";
    QTest::newRow("Japanese EUC") << "EUC-JP"
                                  << "港の灯りとバイオリンの音色が夜に響く";
    QTest::newRow("UTF-16") << "UTF-16LE"
                            << "Harbour strings at night";
}

void TestShaping::encodings() {
    QFETCH(QString, encoding);
    QFETCH(QString, text);
    // The bytes are made by the C library's converter, an independent one.
    const std::string utf8 = text.toStdString();
    std::string bytes(utf8.size() * 4, '\0');
    QProcess iconv;
    iconv.start(QStringLiteral("iconv"),
                {QStringLiteral("-f"), QStringLiteral("UTF-8"), QStringLiteral("-t"), encoding});
    iconv.write(utf8.data(), static_cast<qint64>(utf8.size()));
    iconv.closeWriteChannel();
    QVERIFY(iconv.waitForFinished());
    bytes = iconv.readAllStandardOutput().toStdString();
    QVERIFY(!bytes.empty());
    Builder b;
    b.file.addText(0, 0, meta::marker, bytes);
    const Song song = b.note(0, 1, 1, 60).song();
    QCOMPARE(QString::fromStdString(toUtf8(bytes, song.encoding)), text);
}

void TestShaping::changingTheEncodingChangesWhatIsTheFiles() {
    Builder b(1, 2);
    b.file.addText(0, 0, meta::trackName, "\xCF\xEE\xF0\xF2");     // "Порт" in Windows-1251
    b.file.addText(1, 0, meta::trackName, "\xD1\xEA\xF0\xE8\xEF"); // "Скрип"
    const Song song = b.note(0, 0, 1, 60).note(1, 0, 1, 64, 90, 1).song();
    const Song cyrillic = edits::setEncoding(edits::rename(song, 1, "Mine"), "WINDOWS-1251");
    QCOMPARE(cyrillic.parts[0].name, std::string("Mine")); // a person's name stays
    QCOMPARE(cyrillic.parts[1].name, std::string("Скрип"));
    QCOMPARE(cyrillic.encoding, std::string("WINDOWS-1251"));
}

void TestShaping::namesTellInstruments_data() {
    // Common practice, no source.
    QTest::addColumn<QString>("name");
    QTest::addColumn<int>("program"); // 1-based; 0 for none, −1 for drums
    const std::pair<const char*, int> rows[] = {{"Vln. II", 41},       {"Geige 1", 41},
                                                {"Viola", 42},         {"Bratsche", 42},
                                                {"Violoncello", 43},   {"Kb.", 44},
                                                {"Contrabass", 44},    {"Tpt in Bb", 57},
                                                {"Trompete 2", 57},    {"Corno III", 61},
                                                {"Horn in F", 61},     {"Flûte", 74},
                                                {"Flöte", 74},         {"Fl. 1", 74},
                                                {"Piccolo", 73},       {"Bassgitarre", 34},
                                                {"Bass", 34},          {"Posaune", 58},
                                                {"Tbn", 58},           {"Klarinette", 72},
                                                {"Bass Clarinet", 72}, {"Fagott", 71},
                                                {"Oboe d'amore", 69},  {"Klavier", 1},
                                                {"Pno.", 1},           {"Kirchenorgel", 20},
                                                {"Orgel", 17},         {"Pauken", 48},
                                                {"Timp.", 48},         {"Harp", 47},
                                                {"Akkordeon", 22},     {"Tenor Sax", 67},
                                                {"Schlagzeug", -1},    {"Kick", -1},
                                                {"Perc. 1", -1},       {"Steel drums", 115},
                                                {"Track 7", 0},        {"", 0}};
    for (const auto& [name, program] : rows) QTest::newRow(name) << QString::fromUtf8(name) << program;
}

void TestShaping::namesTellInstruments() {
    QFETCH(QString, name);
    QFETCH(int, program);
    QCOMPARE(namesDrums(name.toStdString()), program < 0);
    const auto found = programFromName(name.toStdString());
    QCOMPARE(found ? found->value + 1 : 0, std::max(0, program));
}

void TestShaping::drumsAreRecognised() {
    Builder b(1, 3);
    for (int i = 0; i < 32; ++i) {
        b.note(0, i * 0.5, 0.1, i % 2 ? 38 : 36, 90, 0)
            .note(0, i * 0.5, 0.1, 42, 70, 0);       // a beat on channel 1
        b.note(1, i * 0.5, 0.4, 28 + i % 12, 90, 1); // a bass
    }
    b.file.addText(2, 0, meta::trackName, "Shaker");
    for (int i = 0; i < 32; ++i) b.note(2, i * 0.25, 0.1, 70, 60, 2);
    const Song song = b.song();
    QVERIFY(whyDrums(song, song.parts[0]) && !whyDrums(song, song.parts[1]) && whyDrums(song, song.parts[2]));
    Builder pitched(1, 1);
    pitched.file.addText(0, 0, meta::trackName, "Cello");
    const Song single = pitched.note(9, 0, 1, 50).song();
    QVERIFY(!whyPitched(single, single.parts[0])); // a name alone never says so
    for (int i = 0; i < 16; ++i) pitched.note(9, i * 0.5, 0.5, 43 + i);
    const Song cello = pitched.song();
    QVERIFY(whyPitched(cello, cello.parts[0]));
    // Names that kits have on channel 10 (common practice, no source).
    for (const char* name : {"vibraphone", "Timpani", "Pauke", "Pauken", "Bass", "Steel Drums", "Glock",
                             "Orch Hit", "Vox FX", "Tr.", "Cl. Hat"}) {
        Builder kit(1, 1);
        kit.file.addText(0, 0, meta::trackName, name);
        for (int i = 0; i < 32; ++i)
            kit.note(9, i * 0.5, 0.1, i % 8 == 7 ? 49 : (i % 2 ? 38 : 36))
                .note(9, i * 0.5, 0.1, i % 4 ? 42 : 46);
        const Song drums = kit.song();
        QVERIFY2(!whyPitched(drums, drums.parts[0]), name);
    }
    for (const char* name : {"lantern_quay.mid", "TIDEMILL.MID"})
        for (const Song demo = demoSong(name); const Part& part : demo.parts)
            QVERIFY2(!whyDrums(demo, part) && !whyPitched(demo, part), part.name.c_str());
}

void TestShaping::originalDataIsWrittenWhenAsked() {
    Song song = demoSong("lantern_quay.mid");
    const auto before = contentOf(toMidi(song, Layout::SingleTrack));
    song = edits::setSemitones(edits::setLevel(song, 1, -6), 1, 3);
    song = edits::steadyTempo(edits::dropController(song, 2, 7), 77);
    QVERIFY(contentOf(toMidi(song, Layout::SingleTrack)) != before);
    MidiShape shape;
    shape.writtenIn = false;
    song = edits::setMidiShape(song, shape);
    QCOMPARE(contentOf(toMidi(song, Layout::SingleTrack)), before);
}

void TestShaping::overviewsCoverEveryNote() {
    std::mt19937 random(57);
    Builder b;
    for (int i = 0; i < 3000; ++i)
        b.note(0, static_cast<double>(random() % 100000) / 1000, static_cast<double>(random() % 900) / 1000,
               40 + static_cast<int>(random() % 30), 1 + static_cast<int>(random() % 127));
    const Song song = b.song();
    const HeardPart line = realise(song, song.parts[0]);
    const Overview overview(std::make_shared<const HeardPart>(line));
    QCOMPARE(overview.between(0, song.end + 1, 0).size(), line.notes.size());
    std::size_t before = line.notes.size() + 1;
    for (const Tick grain : {Tick{0}, Tick{8}, Tick{120}, Tick{2000}, Tick{30000}}) {
        const Tick from = static_cast<Tick>(random() % 40000), to = from + 30000;
        const auto shown = overview.between(from, to, grain);
        for (const Note& note : line.notes) {
            if (note.end <= from || note.start >= to) continue;
            QVERIFY(std::any_of(shown.begin(), shown.end(), [&](const DrawnNote& s) {
                return s.key == note.key && s.start <= note.start && s.end >= note.end &&
                       s.velocity >= note.velocity;
            }));
        }
        const std::size_t all = overview.between(0, song.end + 1, grain).size();
        QVERIFY(all <= before);
        before = all;
    }
    QVERIFY(before <= 600); // coarse: as many as there are keys, and a little more
    QVERIFY(Overview().isEmpty() && Overview(std::make_shared<const HeardPart>()).isEmpty() &&
            Overview().between(0, 9, 1).empty());
}

void TestShaping::tracksOfOneChannelShareItsProgram() {
    Builder b(1, 2);
    const Song song = b.program(4, 0, 73).note(4, 0, 1, 72).note(4, 2, 1, 76, 90, 1).song();
    QCOMPARE(song.parts.size(), std::size_t{2});
    QCOMPARE(asksOf(song, song.parts[1])[0].program, std::optional(Program{73}));
    QCOMPARE(asksOf(song, song.parts[1]).size(), std::size_t{1});
}

void TestShaping::stretchesMoveWithTheStart() {
    Song song = Builder().note(0, 4, 1, 60).note(0, 8, 1, 62).song();
    song = edits::chooseForStretch(song, 1, Builder::at(7.5), Builder::at(9.5), {TEST_FONT, 0, 3, "Any"});
    const auto sounds = [](const Song& s) {
        std::vector<std::string> names;
        for (const Sounding& note : whatSounds(s, testFont())) names.push_back(std::get<3>(note));
        return names;
    };
    const auto before = sounds(song);
    QVERIFY(before[0] != before[1]);
    const Song earlier = edits::removeLeadingSilence(song, Builder::at(4));
    QCOMPARE(sounds(earlier), before);
    QCOMPARE(earlier.parts[0].sound.stretches[0].start, Builder::at(3.5));
}

QTEST_GUILESS_MAIN(TestShaping)
#include "tst_shaping.moc"
