#include "support/anyedit.h"

#include "song/shape/tidy.h"
#include "song/snags/cards.h"
#include "song/snags/snags.h"

using namespace support;

namespace {

std::vector<Snag> snagsIn(const Song& song, const Catalogue& catalogue = testFont()) {
    return findSnags(song, catalogue);
}

const Snag* ofKind(const std::vector<Snag>& snags, const char* kind) {
    for (const Snag& snag : snags)
        if (snag.kind == kind) return &snag;
    return nullptr;
}

} // namespace

class TestSnags : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void kinds_data();
    void kinds();
    void shapingKinds_data();
    void shapingKinds();
    void gameMusicAndDemoNeedNoNonsense();
    void whatNeedsNoDecisionIsNotAsked();
    void tidyingChangesNothingThatIsHeard();
    void aCleanSongHasNone();
    void everySnagSaysEnough();
    void leavingASnagSettlesIt();
    void fixesAllThatAreSafeAndNoOther();
    void cardsAreOneAKind();
    void bassOnAGuitarIsFoundInLanternQuay();
    void octaveFixBringsNotesIntoRange();
    void beyondAnInstrumentsCompassIsAdvice();
};

void TestSnags::kinds_data() {
    QTest::addColumn<QString>("kind");
    QTest::addColumn<int>("what");
    int number = 0;
    for (const char* kind :
         {"program-missing", "fixed-volume", "sound-missing", "out-of-range", "reading-damage"})
        QTest::newRow(kind) << kind << number++;
}

void TestSnags::kinds() {
    QFETCH(QString, kind);
    QFETCH(int, what);
    Song song;
    switch (what) {
    case 0: song = Builder().note(0, 0, 1, 60).song(); break;
    case 1: song = Builder().program(0, 0, 1).cc(0, 0, 7, 90).note(0, 0, 1, 60).song(); break;
    case 2: song = Builder().program(0, 0, 9).note(0, 0, 1, 60).song(); break;
    case 3: song = Builder().program(0, 0, 56).note(0, 0, 1, 40).note(0, 1, 1, 60).song(); break;
    default:
        song =
            songOf(joined({header(0, 1), track(hex("00 FF5103 07A120 00 C0 01 00 90 3C 40 60 80 3C 40"))}));
    }
    const auto snags = snagsIn(song);
    const Snag* snag = ofKind(snags, qPrintable(kind));
    QVERIFY(snag);
    QCOMPARE(snags.size(), std::size_t{1});
    // Each fix but the last changes the song so that the snag is gone.
    for (const Fix& fix : snag->fixes)
        QVERIFY2(!ofKind(snagsIn(fix.apply(song)), qPrintable(kind)), inWords(fix.label).c_str());
}

namespace {

/// A song for each kind of snag that concerns shaping, and one beside it that must not have it.
struct Case {
    const char* kind;
    std::function<Song()> has, hasNot;
};

Builder jitter(int changes, double by) {
    Builder b;
    for (int i = 0; i < changes; ++i)
        b.file.addTempo(0, i * 60, static_cast<int>(500000 + (i % 2 ? by : -by)));
    b.program(0, 0, 1).note(0, 0, 5, 60);
    return b;
}

Builder swell(int events, int step) {
    Builder b;
    b.program(0, 0, 1).note(0, 0, 9, 60);
    for (int i = 0; i < events; ++i) b.cc(0, 0.01 * i, 11, 40 + i / step % 80);
    return b;
}

std::vector<Case> shapingCases() {
    const auto plain = [] { return Builder().program(0, 0, 1).note(0, 0, 1, 60).song(); };
    return {
        {"several-pieces",
         [] {
             const Bytes one = track(hex("00 FF5103 07A120 00 C0 01 00 90 3C 40  60 80 3C 40  00 FF2F00"));
             return songOf(joined({header(2, 2), one, one}));
         },
         plain},
        {"garbled-names",
         [] {
             Builder b;
             b.file.addText(0, 0, meta::marker,
                            "H\xC3\x83\xC2\xA4"
                            "fen");
             return b.program(0, 0, 1).note(0, 0, 1, 60).song();
         },
         [] {
             Builder b;
             b.file.addText(0, 0, meta::marker, "Häfen");
             return b.program(0, 0, 1).note(0, 0, 1, 60).song();
         }},
        {"lyrics-without-words",
         [] {
             Builder b;
             for (int i = 0; i < 9; ++i) b.file.addText(0, i * 10, meta::lyric, i % 2 ? "-" : " ");
             return b.program(0, 0, 1).note(0, 0, 1, 60).song();
         },
         [] {
             Builder b;
             b.file.addText(0, 0, meta::lyric, "la");
             return b.program(0, 0, 1).note(0, 0, 1, 60).song();
         }},
        {"device-messages",
         [] { return Builder().sysex("47 00 01 F7").program(0, 0, 1).note(0, 0, 1, 60).song(); },
         [] { return Builder().sysex("7E7F0901F7").program(0, 0, 1).note(0, 0, 1, 60).song(); }},
        {"tempo-missing",
         [] {
             return songOf(joined({header(0, 1), track(hex("00 C001 00 903C40 60 803C40 00 FF2F00"))}));
         },
         plain},
        {"tempo-jitter", [] { return jitter(200, 900).song(); }, [] { return jitter(12, 900).song(); }},
        {"leading-silence", [] { return Builder().program(0, 0, 1).note(0, 5, 1, 60).song(); }, plain},
        {"drums-elsewhere",
         [] {
             Builder b;
             b.program(0, 0, 1);
             for (int i = 0; i < 20; ++i) b.note(0, i * 0.5, 0.1, i % 2 ? 36 : 38).note(0, i * 0.5, 0.1, 42);
             return b.song();
         },
         plain},
        {"pitched-on-drums",
         [] {
             Builder b(1);
             b.file.addText(0, 0, meta::trackName, "Cello");
             for (int i = 0; i < 12; ++i) b.note(9, i, 1, 43 + i);
             return b.program(9, 0, 0).song();
         },
         [] { return Builder().program(9, 0, 0).note(9, 0, 1, 38).song(); }},
        {"split-drums",
         [] {
             Builder b(1, 2);
             return b.program(9, 0, 0)
                 .note(9, 0, 0.1, 36)
                 .program(9, 0, 0, 1)
                 .note(9, 0.5, 0.1, 38, 90, 1)
                 .song();
         },
         [] { return Builder().program(9, 0, 0).note(9, 0, 0.1, 36).note(9, 1, 0.1, 38).song(); }},
        {"channel-shared",
         [] {
             Builder b(1, 2);
             return b.program(0, 0, 1).note(0, 0, 1, 60).program(0, 0, 56, 1).note(0, 2, 1, 60, 90, 1).song();
         },
         [] {
             Builder b(1, 2);
             return b.program(0, 0, 1).note(0, 0, 1, 60).program(1, 0, 56, 1).note(1, 2, 1, 60, 90, 1).song();
         }},
        {"silent-by-volume",
         [] { return Builder().program(0, 0, 1).cc(0, 0, 7, 0).note(0, 0, 1, 60).song(); }, plain},
        {"controller-flood", [] { return swell(800, 10).song(); }, [] { return swell(100, 10).song(); }},
        {"doubled-notes",
         [] { return Builder().program(0, 0, 1).note(0, 0, 1, 60).note(0, 0, 2, 60).song(); }, plain},
        {"overlapping-notes",
         [] {
             return edits::join(
                 Builder().program(0, 0, 1).program(1, 0, 1).note(0, 0, 2, 60).note(1, 1, 3, 60).song(),
                 {1, 2}, {Unisons::KeepBoth, true, true});
         },
         plain},
        {"name-disagrees",
         [] {
             Builder b(1);
             b.file.addText(0, 0, meta::trackName, "Flute 1");
             return b.program(0, 0, 0).note(0, 0, 1, 72).song();
         },
         [] {
             Builder b(1);
             b.file.addText(0, 0, meta::trackName, "Violin 1");
             return b.program(0, 0, 48).note(0, 0, 1, 72).song();
         }},
        {"too-many-channels",
         [] {
             Builder b;
             for (int c = 0; c < 16; ++c) b.program(c, 0, 1).note(c, 0, 1, 40).note(c, 1, 1, 80);
             const Song song = b.song();
             return edits::split(song, 1, splitByPitch(song, *song.part(1), Key{60}));
         },
         plain},
    };
}

} // namespace

void TestSnags::shapingKinds_data() {
    QTest::addColumn<int>("number");
    int number = 0;
    for (const Case& one : shapingCases()) QTest::newRow(one.kind) << number++;
}

void TestSnags::shapingKinds() {
    QFETCH(int, number);
    const Case one = shapingCases()[static_cast<std::size_t>(number)];
    QVERIFY(!ofKind(snagsIn(one.hasNot()), one.kind));
    const Song song = one.has();
    const auto snags = snagsIn(song);
    const Snag* snag = ofKind(snags, one.kind);
    QVERIFY(snag);
    QVERIFY(inWords(snag->what).ends_with('.') && inWords(snag->why).ends_with('.') && !snag->pill.empty());
    for (const Fix& fix : snag->fixes) {
        const Song repaired = fix.apply(song);
        QVERIFY2(!ofKind(snagsIn(repaired), one.kind), inWords(fix.label).c_str());
        if (fix.safe) QCOMPARE(notesHeard(repaired).size(), notesHeard(song).size());
    }
}

void TestSnags::gameMusicAndDemoNeedNoNonsense() {
    // The demo's songs are sound but for what they are made to show.
    std::map<std::string, int> kinds;
    for (const char* name : {"lantern_quay.mid", "TIDEMILL.MID", "pilots-evening-song.kar", "SLACKW~1.MID"})
        for (const Snag& snag : snagsIn(demoSong(name), fontsAt(HOUSE_FONT))) ++kinds[snag.kind];
    for (const char* never : {"drums-elsewhere", "pitched-on-drums", "lost-transposition", "silent-by-volume",
                              "several-pieces", "tempo-missing", "name-disagrees"})
        QVERIFY2(!kinds.contains(never), never);
}

void TestSnags::whatNeedsNoDecisionIsNotAsked() {
    // An empty track, drums without a program, a volume that never moves, a message that is not followed, a
    // few doubled hits.
    Builder b;
    b.program(0, 0, 1).cc(0, 0, 7, 90).note(0, 0, 1, 60).program(3, 0, 1).sysex("47 00 01 F7");
    for (int i = 0; i < 30; ++i) b.note(9, i * 0.1, 0.05, 38);
    b.note(9, 0, 0.05, 38);
    const auto snags = snagsIn(b.song());
    for (const Snag& snag : snags) QVERIFY2(!snag.asked, inWords(snag.what).c_str());
    QCOMPARE(askedCount(snags), std::size_t{0});
    // What is asked comes first.
    b.note(1, 0, 1, 60); // no program
    const auto more = snagsIn(b.song());
    QVERIFY(more.front().asked && !more.back().asked);
    QCOMPARE(askedCount(more), std::size_t{1});
}

void TestSnags::tidyingChangesNothingThatIsHeard() {
    Builder b;
    b.program(0, 0, 1).cc(0, 0, 7, 90).cc(0, 0, 11, 100).note(0, 0.1, 1, 60);
    b.program(1, 0, 2).cc(1, 0, 7, 20).cc(1, 0.5, 7, 90).note(1, 0.1, 1, 64); // moves
    b.program(2, 0, 3).cc(2, 0, 10, 20).note(2, 0.1, 1, 67);                  // a place stays with the file
    const Song song = b.song();
    const Song tidy = edits::tidy(song);
    QCOMPARE(tidy.tidied.size(), std::size_t{2});
    QVERIFY(edits::tidy(tidy) == tidy);
    QVERIFY(!ofKind(snagsIn(tidy), "fixed-volume"));
    // Put back one, then the other: as it was, and not done or asked again.
    const Song one = edits::putBack(tidy, 1);
    QCOMPARE(one.tidied.size(), std::size_t{1});
    Song all = edits::putAllBack(tidy);
    QVERIFY(edits::tidy(all) == all);
    QVERIFY(!ofKind(snagsIn(all), "fixed-volume"));
    all.settled.clear();
    QVERIFY(all == song);
    // A level that was moved since keeps its way.
    const Song moved = edits::putAllBack(edits::setLevel(tidy, 1, tidy.parts[0].mix.levelDb - 3));
    QVERIFY(std::abs(moved.parts[0].mix.levelDb + 3) < 1e-6);
    QVERIFY(inWords(tidyingText(tidy, tidy.tidied[0])).starts_with("The volume of "));
}

void TestSnags::aCleanSongHasNone() {
    QVERIFY(snagsIn(Builder().program(0, 0, 1).note(0, 0, 1, 60).song()).empty());
}

void TestSnags::everySnagSaysEnough() {
    for (const char* name : {"lantern_quay.mid", "TIDEMILL.MID", "SLACKW~1.MID"}) {
        std::set<std::string> keys;
        for (const Snag& snag : snagsIn(demoSong(name))) {
            QVERIFY(inWords(snag.what).ends_with('.') && inWords(snag.why).ends_with('.') &&
                    !snag.pill.empty() && !snag.fixes.empty());
            QVERIFY(keys.insert(snag.key).second);
        }
        QVERIFY(!keys.empty());
    }
}

void TestSnags::leavingASnagSettlesIt() {
    const Song song = Builder().note(0, 0, 1, 60).song();
    const auto snags = snagsIn(song);
    QCOMPARE(inWords(snags[0].fixes.back().label), std::string("Leave it as it is"));
    QVERIFY(snagsIn(snags[0].fixes.back().apply(song)).empty());
}

void TestSnags::cardsAreOneAKind() {
    Builder b(1, 4);
    for (std::uint8_t c = 0; c < 3; ++c) {
        b.program(c, 0, 0, c);
        for (int i = 0; i < 12; ++i) b.note(c, i, 0.5, 60, 90, c).note(c, i, 0.5, 60, 90, c);
    }
    b.program(3, 0, 0, 3).cc(3, 0, 7, 0, 3).note(3, 1, 1, 60, 90, 3); // silent
    const Song song = b.song();
    const auto cards = cardsOf(snagsIn(song));
    QCOMPARE(cards.size(), std::size_t{2});
    QCOMPARE(cards[0].first().kind, std::string("silent-by-volume")); // what is silent comes first
    QCOMPARE(cards[0].heading, cards[0].first().what);
    QVERIFY(cards[0].all.empty());
    QCOMPARE(cards[1].rows.size(), std::size_t{3});
    QCOMPARE(inWords(cards[1].heading),
             std::string("3 parts have notes that are struck twice at the same moment."));
    QCOMPARE(cards[1].all.size(), std::size_t{2});
    const Song once = cards[1].all[0].apply(song);
    for (std::size_t i = 0; i < 3; ++i) QCOMPARE(once.parts[i].recipe.unisons, Unisons::KeepOne);
    QCOMPARE(inWords(cards[1].all[1].label), std::string("Leave all as they are"));
    QCOMPARE(cardsOf(snagsIn(cards[1].all[1].apply(song))).size(), std::size_t{1});
    // Fixes that differ are offered for all in words that are true of all.
    QCOMPARE(inWords(Message("fix.shift-octaves.all")), std::string("Shift them by octaves"));
    QVERIFY(cardsOf({}).empty());
}

void TestSnags::fixesAllThatAreSafeAndNoOther() {
    const Song song = demoSong("lantern_quay.mid");
    const Song repaired = fixAllSafe(song, testFont());
    QVERIFY(!ofKind(snagsIn(repaired), "fixed-volume"));
    QVERIFY(ofKind(snagsIn(repaired), "bass-on-guitar")); // that one is the person's to decide
    QVERIFY(fixAllSafe(repaired, testFont()) == repaired);
}

void TestSnags::bassOnAGuitarIsFoundInLanternQuay() {
    const Song song = demoSong("lantern_quay.mid");
    const Catalogue house = fontsAt(HOUSE_FONT);
    const auto snags = snagsIn(song, house);
    const Snag* snag = ofKind(snags, "bass-on-guitar");
    QVERIFY(snag);
    QCOMPARE(song.part(snag->part)->name, std::string("Guitar"));
    const Song repaired = snag->fixes.front().apply(song);
    QCOMPARE(repaired.part(snag->part)->sound.chosen->program, 32); // Acoustic Bass, 0-based
    QVERIFY(!ofKind(snagsIn(repaired, house), "bass-on-guitar"));
}

void TestSnags::octaveFixBringsNotesIntoRange() {
    // The test font's program 56 plays keys 52–84.
    const Song song = Builder().program(0, 0, 56).note(0, 0, 1, 43).note(0, 1, 1, 45).song();
    const auto snags = snagsIn(song);
    const Snag* snag = ofKind(snags, "out-of-range");
    QVERIFY(snag && snag->serious);
    QCOMPARE(inWords(snag->fixes.front().label), std::string("Shift up an octave"));
    QCOMPARE(snag->fixes.front().apply(song).parts[0].recipe.octaves, 1);
}

void TestSnags::beyondAnInstrumentsCompassIsAdvice() {
    // A flute's lowest note is C4 (key 60): N. Rimsky-Korsakov, Principles of Orchestration, table A, from
    // memory.
    const Song song = Builder().program(0, 0, 73).note(0, 0, 1, 55).note(0, 1, 1, 72).song();
    const Catalogue house = fontsAt(HOUSE_FONT);
    const auto snags = snagsIn(song, house);
    QVERIFY(!ofKind(snags, "out-of-range")); // it is heard
    const Snag* snag = ofKind(snags, "beyond-compass");
    QVERIFY(snag && !snag->asked);
    QVERIFY2(inWords(snag->what).find("1 note of ") == 0 &&
                 inWords(snag->what).find("below the compass of Flute (C4 to ") != std::string::npos,
             inWords(snag->what).c_str());
    QCOMPARE(snag->fixes.front().apply(song).parts[0].recipe.octaves, 1);
    QVERIFY(!ofKind(snagsIn(snag->fixes.front().apply(song), house), "beyond-compass"));
    QVERIFY(!ofKind(snagsIn(snag->fixes[1].apply(song), house), "beyond-compass"));
    // Strings as a section and synthesisers have none.
    QVERIFY(!ofKind(snagsIn(Builder().program(0, 0, 48).note(0, 0, 1, 20).song(), house), "beyond-compass"));
}

QTEST_APPLESS_MAIN(TestSnags)
#include "tst_snags.moc"
