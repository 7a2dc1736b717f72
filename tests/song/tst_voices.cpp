/// Lines out of chords, written and played: chorales are made here, with the truth known. Common practice, no
/// source: the ranges of soprano, alto, tenor and bass, and voices that mostly move by step.
#include "support/support.h"

#include "song/shape/splits.h"

#include <random>

using namespace cobbleway;
using namespace support;

namespace {

struct Sung {
    Tick start, end;
    int key, voice;
};

/// How a chorale is written or played.
struct Manner {
    int resting = 0;   ///< of 100 notes, how many are rests
    int passing = 0;   ///< of 100, how many are two notes instead of one
    int early = 0;     ///< starts and ends are off by up to so many ticks of 480
    int rolled = 0;    ///< each voice begins so many ticks after the one below it
    int crossings = 0; ///< of 100 chords, in how many alto and tenor are crossed
};

std::vector<Sung> chorale(std::mt19937& random, const Manner& manner) {
    struct Range {
        int low, high;
    };
    const Range ranges[] = {{60, 79}, {55, 72}, {48, 67}, {40, 60}};
    int keys[] = {70, 64, 57, 48};
    std::vector<Sung> sung;
    const auto chance = [&](int percent) { return static_cast<int>(random() % 100) < percent; };
    for (int beat = 0; beat < 64; ++beat) {
        for (int voice = 0; voice < 4; ++voice) {
            const int steps[] = {-2, -1, -1, 0, 0, 1, 1, 2, -4, 4};
            int key = keys[voice] + steps[random() % 10];
            // Voices keep their order, and their ranges.
            if (voice > 0) key = std::min(key, keys[voice - 1] - 1);
            key = std::clamp(key, ranges[voice].low, ranges[voice].high);
            keys[voice] = voice > 0 ? std::min(key, keys[voice - 1] - 1) : key;
        }
        int now[] = {keys[0], keys[1], keys[2], keys[3]};
        if (chance(manner.crossings)) std::swap(now[1], now[2]);
        for (int voice = 0; voice < 4; ++voice) {
            if (chance(manner.resting)) continue;
            const auto off = [&] {
                return manner.early ? static_cast<int>(random() % (2 * manner.early + 1)) - manner.early : 0;
            };
            const Tick start = std::max(0, 480 * (beat + 1) + off() + manner.rolled * (3 - voice));
            const Tick end = 480 * (beat + 2) + off();
            if (chance(manner.passing)) {
                const Tick middle = 480 * (beat + 1) + 240 + off();
                sung.push_back({start, middle, now[voice], voice});
                sung.push_back({middle, end, now[voice] + (random() % 2 ? 1 : -1), voice});
            } else {
                sung.push_back({start, end, now[voice], voice});
            }
        }
    }
    return sung;
}

/// The share of notes in the right voice, in percent, over several chorales.
double rightOf(const Manner& manner) {
    int right = 0, all = 0;
    for (unsigned seed = 1; seed <= 12; ++seed) {
        std::mt19937 random(seed);
        auto sung = chorale(random, manner);
        std::stable_sort(sung.begin(), sung.end(),
                         [](const Sung& a, const Sung& b) { return a.start < b.start; });
        MidiFile file;
        file.type = 0;
        file.division.ticksPerQuarter = 480;
        file.tracks.resize(1);
        file.addTempo(0, 0, 600000); // 100 quarters a minute
        for (const Sung& note : sung) {
            file.addChannel(0, note.start, 0x90, static_cast<std::uint8_t>(note.key), 80);
            file.addChannel(0, note.end, 0x80, static_cast<std::uint8_t>(note.key), 0);
        }
        file.sortTracks();
        const Song song = songOf(file);
        const auto of = splitIntoLines(song, song.parts[0], 4).groupOf;
        if (of.size() != sung.size()) return 0;
        for (std::size_t i = 0; i < sung.size(); ++i) right += of[i] == sung[i].voice;
        all += static_cast<int>(sung.size());
    }
    return 100.0 * right / all;
}

} // namespace

class TestVoices : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void chorales_data();
    void chorales();
    void melodyMiddleAndBass();
    void fastNotesAreNoChord();
    void namesKeepTheParts();
};

void TestVoices::chorales_data() {
    QTest::addColumn<int>("resting");
    QTest::addColumn<int>("passing");
    QTest::addColumn<int>("early");
    QTest::addColumn<int>("rolled");
    QTest::addColumn<int>("crossings");
    QTest::addColumn<double>("aim");
    QTest::newRow("written") << 0 << 0 << 0 << 0 << 0 << 95.0;
    QTest::newRow("with passing notes") << 0 << 20 << 0 << 0 << 0 << 95.0;
    QTest::newRow("played, off by 1 tick") << 0 << 0 << 1 << 0 << 0 << 93.0;
    QTest::newRow("played, off by 12 ticks") << 0 << 0 << 12 << 0 << 0 << 93.0;
    QTest::newRow("played, with passing notes") << 0 << 20 << 12 << 0 << 0 << 93.0;
    QTest::newRow("rolled by 1 tick") << 0 << 0 << 0 << 1 << 0 << 93.0;
    QTest::newRow("rolled by 8 ticks") << 0 << 0 << 0 << 8 << 0 << 93.0;
    QTest::newRow("voices resting") << 15 << 0 << 0 << 0 << 0 << 92.0;
    QTest::newRow("voices resting, played") << 15 << 0 << 12 << 0 << 0 << 90.0;
    QTest::newRow("alto and tenor cross") << 0 << 0 << 0 << 0 << 10 << 90.0;
}

void TestVoices::chorales() {
    QFETCH(int, resting);
    QFETCH(int, passing);
    QFETCH(int, early);
    QFETCH(int, rolled);
    QFETCH(int, crossings);
    QFETCH(double, aim);
    const double right = rightOf({resting, passing, early, rolled, crossings});
    qInfo("%s: %.1f %% of the notes in the right voice (aim %.0f)", QTest::currentDataTag(), right, aim);
    QVERIFY(right >= aim);
}

void TestVoices::melodyMiddleAndBass() {
    Builder b;
    for (int i = 0; i < 8; ++i)
        for (const int key : {36 + i, 55, 59, 62, 76 + i}) b.note(0, 0.5 * i, 0.45, key);
    const Song song = b.song();
    const Split split = splitIntoMelodyAndBass(song, song.parts[0]);
    const auto notes = notesOf(song, song.parts[0].source);
    for (std::size_t i = 0; i < notes.size(); ++i)
        QCOMPARE(split.groupOf[i], notes[i].key.value >= 76 ? 0 : notes[i].key.value < 50 ? 2 : 1);
}

void TestVoices::fastNotesAreNoChord() {
    // 30 ms a note, one after another: a run, not a chord.
    Builder b;
    for (int i = 0; i < 4; ++i) b.note(0, 0.5 * i, 0.5, 36 + i).note(0, 0.5 * i, 0.5, 64);
    for (int i = 0; i < 20; ++i) b.note(0, 2 + 0.03 * i, 0.03, 60 + i % 5);
    const Song song = b.song();
    const auto of = splitIntoLines(song, song.parts[0], 2).groupOf;
    QVERIFY(std::all_of(of.begin() + 8, of.end(), [](int line) { return line == 0; }));
}

void TestVoices::namesKeepTheParts() {
    const auto named = [](const char* name, int lines) {
        Builder b(1, 1);
        b.file.addText(0, 0, meta::trackName, name);
        b.program(0, 0, 40)
            .note(0, 0.1, 0.5, 60)
            .note(0, 0.1, 0.5, 64)
            .program(0, 1, 45)
            .note(0, 1.1, 0.5, 67);
        const Song song = b.song();
        return std::pair(splitIntoLines(song, song.parts[0], lines).names,
                         splitByProgram(song, song.parts[0]).names);
    };
    QCOMPARE(named("Horns 1.2", 2).first, (std::vector<std::string>{"Horn 1", "Horn 2"}));
    QCOMPARE(named("Trumpets 2+3", 2).first, (std::vector<std::string>{"Trumpet 2", "Trumpet 3"}));
    QCOMPARE(named("Brass 1/2", 2).first, (std::vector<std::string>{"Brass 1", "Brass 2"}));
    QCOMPARE(named("Horns 1.2", 3).first[0], std::string("Horns 1.2 top"));
    QCOMPARE(named("Violin I", 2).second, (std::vector<std::string>{"Violin I", "Violin I, pizzicato"}));
}

QTEST_APPLESS_MAIN(TestVoices)
#include "tst_voices.moc"
