/// What a song is in a few facts, finding songs by words, and telling apart parts that are alike.
#include "support/support.h"

#include "song/heard/distinctnames.h"
#include "song/match/songsummary.h"
#include "song/out/tomidi.h"
#include "song/shape/edits.h"

using namespace support;

namespace {

SongSummary of(const Song& song) {
    return summaryOf(
        song, [&](const Part& part) { return std::make_shared<const HeardPart>(realise(song, part)); });
}

/// A scale and a closing chord, so that the key is plain; the harbour choir sings it.
Song choirSong(int transpose = 0) {
    Builder b(1, 3);
    b.file.addText(0, 0, meta::trackName, "Evening at the weir");
    b.file.addText(1, 0, meta::trackName, "Soprano");
    b.file.addText(2, 0, meta::trackName, "Ténor");
    for (std::size_t track : {1, 2}) {
        const int channel = static_cast<int>(track);
        b.program(channel, 0, 52, track);
        double at = 0;
        for (const int step : {0, 2, 4, 5, 7, 9, 11, 12, 7, 4, 0})
            b.note(channel, (at += 0.5), 0.5, 60 + step + transpose - (track == 2 ? 12 : 0), 90, track);
    }
    b.file.addText(1, 0, meta::lyric, "Low ");
    b.file.addText(1, 480, meta::lyric, "water");
    return b.song();
}

std::vector<std::string> distinct(const Song& song) {
    std::vector<std::string> names;
    for (const Message& name :
         distinctNames(song, [&](const Part& part) { return factsOf(song, part.source); }))
        names.push_back(inWords(name));
    return names;
}

} // namespace

class TestSummary : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void facts();
    void search_data();
    void search();
    void theSameMusicIsTheSame();
    void alikePartsAreToldApart();
};

void TestSummary::facts() {
    const SongSummary summary = of(choirSong());
    QCOMPARE(summary.key, std::string("C major"));
    QCOMPARE(summary.bpm, 120.0);
    QVERIFY(std::abs(summary.seconds - 6) < 0.6);
    QCOMPARE(of(choirSong(2)).key, std::string("D major"));
    Song higher = choirSong();
    higher.keyShift = 2;
    QCOMPARE(of(higher).key, std::string("D major")); // as it is heard
    QVERIFY(of(Builder().note(9, 0, 1, 38).song()).key.empty());
}

void TestSummary::search_data() {
    QTest::addColumn<QString>("text");
    QTest::addColumn<bool>("found");
    const auto row = [](const char* text, bool found) {
        QTest::newRow(text) << QString::fromUtf8(text) << found;
    };
    for (const char* text : {"",
                             "  ",
                             "evening",
                             "EVEN weir",
                             "water",
                             "low",
                             "tenor",
                             "Ténor",
                             "has a tenor",
                             "has soprano",
                             "has an choir",
                             "choir",
                             "key c",
                             "key C major",
                             "tempo 120",
                             "tempo 110-130",
                             "bpm 120",
                             "faster than 100",
                             "slower than 121",
                             "shorter than 0:10",
                             "longer than 3",
                             "length 0:05-0:08",
                             "major",
                             "has a tenor key c faster than 100",
                             "made.mid",
                             "key"})
        row(text, true);
    for (const char* text : {"morning", "evening morning", "bass", "has a weir", "has a trumpet", "key d",
                             "key c minor", "key cb", "tempo 90-110", "faster than 121", "slower than 90",
                             "longer than 1:00", "length 1:00-2:00", "minor"})
        row(text, false);
    row("faster than", false); // no number: words, which are not there
}

void TestSummary::search() {
    QFETCH(QString, text);
    SongSummary song = of(choirSong());
    song.words += " made mid key ";
    QTEST(SongSearch(text.toStdString()).matches(song), "found");
}

void TestSummary::theSameMusicIsTheSame() {
    const Song song = choirSong();
    const std::uint64_t music = of(song).music;
    QVERIFY(music != 0);
    QCOMPARE(of(Builder().song()).music, std::uint64_t{0});
    // Not other: sounds, levels, names, tracks and channels, loudness; where it begins.
    Song other = edits::rename(edits::setLevel(song, 1, -6), 1, "Treble");
    QCOMPARE(of(other).music, music);
    const MidiFile oneTrack = toMidi(song, Layout::SingleTrack);
    QCOMPARE(of(makeSong(std::make_shared<const SourceFile>(readMidi(writeMidi(oneTrack), "y.mid").value())))
                 .music,
             music);
    // Another: one note more, one key, one place.
    QVERIFY(of(choirSong(1)).music != music);
    QVERIFY(of(edits::setOctaves(song, 1, 1)).music != music);
}

void TestSummary::alikePartsAreToldApart() {
    Builder b;
    for (const int channel : {2, 5}) b.program(channel, 0, 65).note(channel, 0, 1, 60);
    b.program(7, 0, 56).note(7, 0, 1, 60);
    QCOMPARE(distinct(b.song()),
             (std::vector<std::string>{"Alto sax (channel 3)", "Alto sax (channel 6)", "Trumpet"}));
    // Not from one that is set aside, since it is not listed beside it.
    Song one = b.song();
    one.parts[1].aside = true;
    QCOMPARE(distinct(one)[0], std::string("Alto sax"));
    // One channel: by side.
    Builder sides(1, 3);
    for (std::size_t track : {1, 2})
        sides.program(0, 0, 65, track)
            .cc(0, 0, 10, track == 1 ? 20 : 100, track)
            .note(0, 0.1, 1, 60, 90, track);
    QCOMPARE(distinct(sides.song()), (std::vector<std::string>{"Alto sax (left)", "Alto sax (right)"}));
    // One side: by range.
    Builder ranges(1, 3);
    for (std::size_t track : {1, 2})
        ranges.program(0, 0, 65, track).note(0, 0.1, 1, track == 1 ? 72 : 60, 90, track);
    QCOMPARE(distinct(ranges.song()),
             (std::vector<std::string>{"Alto sax (C5 to C5)", "Alto sax (C4 to C4)"}));
    // Numbers that the file gives stay.
    Builder given(1, 3);
    given.file.addText(1, 0, meta::trackName, "Cornet");
    given.file.addText(2, 0, meta::trackName, "Cornet 2");
    for (std::size_t track : {1, 2}) given.program(0, 0, 56, track).note(0, 0.1, 1, 60, 90, track);
    QCOMPARE(distinct(given.song()), (std::vector<std::string>{"Cornet", "Cornet 2"}));
}

QTEST_APPLESS_MAIN(TestSummary)
#include "tst_summary.moc"
