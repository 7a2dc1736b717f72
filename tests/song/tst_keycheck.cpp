/// Parts that lost their transposition, found by their names and by what plays beside them. Intervals of
/// transposing instruments: common practice, no source.
#include "support/support.h"

#include "song/match/keycheck.h"
#include "song/match/names.h"
#include "song/match/rangefit.h"
#include "song/match/transposing.h"
#include "song/shape/edits.h"

#include <random>

using namespace support;

namespace {

constexpr int scale[] = {0, 2, 4, 5, 7, 9, 11};

int degree(int step) { return scale[((step % 7) + 7) % 7] + 12 * (step >= 0 ? step / 7 : (step - 6) / 7); }

/// A song of 32 bars of 4/4: chords, a bass, a second voice, and a part in question, which `play` writes.
struct Piece {
    explicit Piece(unsigned seed, const char* name, int modulation = 0, int modulatesAt = 99)
        : random(seed), modulate(modulation), from(modulatesAt), b(1, 4) {
        b.file.addText(0, 0, meta::trackName, "Organ");
        b.file.addText(1, 0, meta::trackName, "Low");
        b.file.addText(2, 0, meta::trackName, "Second");
        b.file.addText(3, 0, meta::trackName, name);
        tonic = static_cast<int>(random() % 12);
        static constexpr int progressions[][4] = {{0, 3, 4, 0}, {0, 5, 3, 4}, {0, 4, 5, 3}, {0, 1, 4, 0}};
        const auto& roots = progressions[random() % 4];
        for (int bar = 0; bar < bars; ++bar) {
            root[bar] = roots[bar % 4];
            const int key = keyAt(bar);
            for (int note = 0; note < 3; ++note)
                b.note(0, (bar * 4) * 0.5, 1.9, 48 + key + degree(root[bar] + 2 * note), 70, 0);
            for (int beat = 0; beat < 4; beat += 2)
                b.note(1, (bar * 4 + beat) * 0.5, 0.9, 36 + key + degree(root[bar] + (beat ? 4 : 0)), 80, 1);
            for (int beat = 0; beat < 4; ++beat)
                b.note(2, (bar * 4 + beat) * 0.5, 0.45,
                       60 + key + degree(root[bar] + 2 * static_cast<int>(random() % 3)), 70, 2);
        }
    }
    [[nodiscard]] int keyAt(int bar) const { return tonic + (bar >= from ? modulate : 0); }

    /// A tune of the scale, mostly of the chord's notes, moved by so many semitones.
    Song tune(int moved, int firstBar = 0, int lastBar = bars) {
        int step = 0;
        for (int bar = firstBar; bar < lastBar; ++bar)
            for (int beat = 0; beat < 4; ++beat) {
                step = beat == 0 ? root[bar] + 2 * static_cast<int>(random() % 3)
                                 : step + static_cast<int>(random() % 3) - 1;
                note(bar, beat, 60 + keyAt(bar) + degree(step) + moved);
            }
        return b.song();
    }
    /// Notes chosen from so many semitones above the tonic.
    Song notes(const std::vector<int>& steps, bool overRoot = false) {
        for (int bar = 0; bar < bars; ++bar)
            for (int beat = 0; beat < 4; ++beat)
                note(bar, beat,
                     60 + keyAt(bar) + (overRoot ? degree(root[bar]) : 0) + steps[random() % steps.size()]);
        return b.song();
    }
    void note(int bar, int beat, int key) { b.note(3, (bar * 4 + beat) * 0.5, 0.45, key, 90, 3); }

    static constexpr int bars = 32;
    std::mt19937 random;
    int tonic = 0, modulate = 0, from = 99;
    int root[bars] = {};
    Builder b;
};

std::optional<int> told(const Song& song) { return suggestedTransposition(song, song.parts[3]); }

} // namespace

class TestKeyCheck : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void namesTellWrittenPitch_data();
    void namesTellWrittenPitch();
    void lostTranspositionsAreFound_data();
    void lostTranspositionsAreFound();
    void soundMusicIsLeftAlone_data();
    void soundMusicIsLeftAlone();
    void octavesOfNamedInstruments();
};

void TestKeyCheck::namesTellWrittenPitch_data() {
    QTest::addColumn<int>("semitones"); // 0: sounds as written
    const std::pair<const char*, int> names[] = {{"Alto Sax", -9},        {"Altsaxophon 1", -9},
                                                 {"A. Sax", -9},          {"Saxophone alto", -9},
                                                 {"Tenor Sax", -14},      {"T. Sax 2", -14},
                                                 {"Bari Sax", -21},       {"Baritonsaxophon", -21},
                                                 {"Soprano Sax", -2},     {"Horn", -7},
                                                 {"French Horn", -7},     {"F Horn 1", -7},
                                                 {"Corno in Fa", -7},     {"Horn in F", -7},
                                                 {"Horn in Es", -9},      {"Cor en fa", -7},
                                                 {"Corni in Mi♭", -9},    {"Tpt in B♭", -2},
                                                 {"Trumpet in Bb", -2},   {"Trompete in B", -2},
                                                 {"Trompette en ut", 0},  {"Trumpet in C", 0},
                                                 {"Trumpet in D", 2},     {"Cornet", -2},
                                                 {"Flugelhorn", -2},      {"Fluegelhorn 1", -2},
                                                 {"Clarinet", -2},        {"Clarinet in A", -3},
                                                 {"Klarinette in A", -3}, {"Clarinetto in La", -3},
                                                 {"Bb Clarinet 2", -2},   {"Es-Klarinette", 3},
                                                 {"Eb Clarinet", 3},      {"Bass Clarinet", -14},
                                                 {"Bassklarinette", -14}, {"B. Cl.", -14},
                                                 {"English Horn", -7},    {"Cor anglais", -7},
                                                 {"Alto Flute", -5},      {"Piccolo", 12},
                                                 {"Ottavino", 12},        {"Xylophone", 12},
                                                 {"Glockenspiel", 24},    {"Double Bass", -12},
                                                 {"Kontrabass", -12},     {"Bass", -12},
                                                 {"Guitar", -12},         {"E-Gitarre", -12},
                                                 {"Contrabassoon", -12},  {"Kontrafagott", -12},
                                                 {"Tenor Horn", -9},      {"Waltornia", -7},
                                                 {"Altsaxofon", -9},      {"アルトサックス", -9},
                                                 {"Кларнет", -2},         {"Flute", 0},
                                                 {"Violin", 0},           {"Oboe", 0},
                                                 {"Bassoon", 0},          {"Piano", 0},
                                                 {"Trombone", 0},         {"Soprano", 0},
                                                 {"Strings", 0},          {"Melody", 0}};
    for (const auto& [name, semitones] : names) QTest::newRow(name) << semitones;
}

void TestKeyCheck::namesTellWrittenPitch() {
    QFETCH(int, semitones);
    const auto instrument = transposingInstrument(QTest::currentDataTag());
    QCOMPARE(instrument ? instrument->semitones : 0, semitones);
}

void TestKeyCheck::lostTranspositionsAreFound_data() {
    QTest::addColumn<int>("moved");
    QTest::addColumn<int>("told"); // 0 for none
    const std::tuple<const char*, int, int> rows[] = {
        {"Trumpet in Bb", 2, -2}, {"B♭ trumpet", 2, -2},     {"Clarinet in A", 3, -3}, {"Clarinet", 2, -2},
        {"Horn in F", 7, -7},     {"Horn", 7, -7},           {"French Horn", 7, -7},   {"F Horn 1", 7, -7},
        {"Corno in Fa", 7, -7},   {"Alto saxophone", 9, -9}, {"Alto Sax", 9, -9},      {"Tenor Sax", 14, -14},
        {"Bari Sax", 21, -21},    {"English Horn", 7, -7},   {"Trompete in B", 2, -2}, {"Melody", 2, -2},
        {"Tune", -3, 3},          {"Trumpet", 0, 0},         {"Horn in F", 0, 0},      {"Alto Sax", 0, 0},
        {"Piccolo", 12, 0}};
    for (const auto& [name, moved, semitones] : rows)
        QTest::addRow("%s by %d", name, moved) << moved << semitones;
}

void TestKeyCheck::lostTranspositionsAreFound() {
    QFETCH(int, moved);
    QFETCH(int, told);
    const std::string name =
        QString::fromUtf8(QTest::currentDataTag()).section(QStringLiteral(" by "), 0, 0).toStdString();
    int right = 0;
    for (unsigned seed = 1; seed <= 12; ++seed) {
        const Song song = Piece(seed, name.c_str()).tune(moved);
        const auto suggested = ::told(song);
        right += suggested.value_or(0) == told;
        QVERIFY2(!suggested || *suggested == told, qPrintable(QString::number(*suggested)));
        for (std::size_t part = 0; part < 3; ++part) QVERIFY(!suggestedTransposition(song, song.parts[part]));
        if (suggested) QVERIFY(!::told(edits::setSemitones(song, song.parts[3].id, *suggested)));
    }
    // A name that says nothing leaves the music alone to tell, which is silent rather than wrong.
    QVERIFY2(right >= (programFromName(name) ? 11 : 6), qPrintable(QString::number(right)));
}

void TestKeyCheck::soundMusicIsLeftAlone_data() {
    QTest::addColumn<int>("kind");
    for (const char* name : {"only in the last chorus, a tone higher", "from the middle, a minor third lower",
                             "minor pentatonic over major", "blues scale over major", "upper extensions",
                             "five fixed odd pitches", "twelve-tone", "whole tones",
                             "harmonic minor over major", "drone on the dominant", "Dorian", "Lydian"})
        QTest::newRow(name) << 0;
}

void TestKeyCheck::soundMusicIsLeftAlone() {
    const std::string kind = QTest::currentDataTag();
    const auto songOf = [&](unsigned seed) {
        if (kind.starts_with("only")) return Piece(seed, "Tune", 2, 24).tune(0, 24);
        if (kind.starts_with("from")) return Piece(seed, "Tune", -3, 16).tune(0, 16);
        Piece piece(seed, "Tune");
        if (kind.starts_with("minor")) return piece.notes({0, 3, 5, 7, 10, 12});
        if (kind.starts_with("blues")) return piece.notes({0, 3, 5, 6, 7, 10, 12});
        if (kind.starts_with("upper")) return piece.notes({10, 11, 14, 18, 21}, true);
        if (kind.starts_with("five")) return piece.notes({1, 6, 8, 10, 15});
        if (kind.starts_with("twelve")) return piece.notes({0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11});
        if (kind.starts_with("whole")) return piece.notes({0, 2, 4, 6, 8, 10});
        if (kind.starts_with("harmonic")) return piece.notes({0, 2, 3, 5, 7, 8, 11});
        if (kind.starts_with("drone")) return piece.notes({7, 7, 7, 7, 9, 2, 0, 4, 5});
        if (kind.starts_with("Dorian")) return piece.notes({0, 2, 3, 5, 7, 9, 10});
        return piece.notes({0, 2, 4, 6, 7, 9, 11});
    };
    int alarms = 0;
    for (unsigned seed = 1; seed <= 12; ++seed)
        if (const auto suggested = told(songOf(seed))) {
            ++alarms;
            qInfo("seed %u: %d", seed, *suggested);
        }
    QCOMPARE(alarms, 0);
}

void TestKeyCheck::octavesOfNamedInstruments() {
    const auto octaves = [](const char* name, int low, int high) {
        KeyWeights weights{};
        for (int key = low; key <= high; ++key) weights[static_cast<std::size_t>(key)] = 1;
        return octavesByName(name, weights);
    };
    QCOMPARE(octaves("Piccolo", 62, 88), 1);  // as written
    QCOMPARE(octaves("Piccolo", 76, 100), 0); // as it sounds
    QCOMPARE(octaves("Xylophone", 53, 84), 1);
    QCOMPARE(octaves("Double Bass", 48, 67), -1);
    QCOMPARE(octaves("Cello", 84, 96), -2);
    QCOMPARE(octaves("Cello", 40, 70), 0);
    QCOMPARE(octaves("Melody", 20, 30), 0);
}

QTEST_APPLESS_MAIN(TestKeyCheck)
#include "tst_keycheck.moc"
