/// Random songs, written and read, split and joined: nothing is lost. And the demo songs as music.
#include "support/randomsong.h"

#include "song/match/rangefit.h"
#include "song/model/asks.h"
#include "song/model/levels.h"
#include "song/out/tomidi.h"

using namespace support;

namespace {

/// Every note as long as any other.
KeyWeights weightsOf(const std::array<int, 128>& notes) {
    KeyWeights weights{};
    std::copy(notes.begin(), notes.end(), weights.begin());
    return weights;
}

} // namespace

class TestRoundTrip : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void writtenAndReadIsEqual();
    void splitAndJoinHoldTheSame();
    void everyEventBelongsSomewhereOnce();
    void asksFollowTheBankRule();
    void rangeFitFindsTheBestOctave();
    void rangeFitAgreesWithTryingAll();
    void volumeLaw();
    void demoSongsAreMusic();
    void demoSongsShowWhatTheyAreFor();
};

void TestRoundTrip::writtenAndReadIsEqual() {
    std::mt19937 random(31);
    for (int round = 0; round < 150; ++round) {
        const MidiFile file = randomFile(random);
        const auto read = readMidi(writeMidi(file, {.runningStatus = round % 2 == 0}), "x.mid");
        QVERIFY2(read.value().damage.empty(),
                 read.value().damage.empty() ? "" : inWords(read.value().damage[0].what).c_str());
        QCOMPARE(contentOf(read.value().midi), contentOf(file));
        for (std::size_t t = 0; t < file.tracks.size(); ++t)
            QCOMPARE(read.value().midi.tracks[t].end, file.tracks[t].end);
    }
}

void TestRoundTrip::splitAndJoinHoldTheSame() {
    std::mt19937 random(32);
    for (int round = 0; round < 100; ++round) {
        const Song song = songOf(randomFile(random));
        const MidiFile split = toMidi(song, Layout::TrackPerPart), joined = toMidi(song, Layout::SingleTrack);
        QCOMPARE(contentOf(split), contentOf(song.source->midi));
        QCOMPARE(contentOf(joined), contentOf(song.source->midi));
        QCOMPARE(contentOf(toMidi(songOf(split), Layout::SingleTrack)), contentOf(song.source->midi));
        QCOMPARE(split.tracks.size(), song.parts.size() + 1);
    }
}

void TestRoundTrip::everyEventBelongsSomewhereOnce() {
    std::mt19937 random(33);
    for (int round = 0; round < 60; ++round) {
        const Song song = songOf(randomFile(random));
        std::vector<EventRef> all(song.conductor->begin(), song.conductor->end());
        for (const Part& part : song.parts) {
            for (const EventRef ref : *part.source.events) // what it follows of others is theirs
                if (ref.track == static_cast<std::uint32_t>(part.source.track)) all.push_back(ref);
            QVERIFY(std::is_sorted(part.source.events->begin(), part.source.events->end(),
                                   [&](EventRef a, EventRef b) { return song.tickOf(a) < song.tickOf(b); }));
        }
        std::sort(all.begin(), all.end());
        QVERIFY(std::adjacent_find(all.begin(), all.end()) == all.end());
        std::size_t events = 0;
        for (const Track& track : song.source->midi.tracks) events += track.events.size();
        QCOMPARE(all.size(), events);
    }
}

void TestRoundTrip::asksFollowTheBankRule() {
    // MIDI 1.0: a bank takes effect at the next program change.
    const Song song = Builder()
                          .cc(0, 0, 0, 8)
                          .program(0, 0.01, 5)
                          .note(0, 0.1, 0.1, 60)
                          .cc(0, 0.3, 0, 16)
                          .note(0, 0.4, 0.1, 60)
                          .program(0, 0.5, 6)
                          .note(0, 0.6, 0.1, 60)
                          .program(0, 0.8, 7)
                          .song();
    const auto asks = asksOf(song, song.parts[0]);
    QCOMPARE(asks.size(), std::size_t{2}); // program 7 plays no note
    QCOMPARE(asks[0].bankMsb, std::optional(8));
    QCOMPARE(asks[0].tick, Tick{0});
    QCOMPARE(asks[1].bankMsb, std::optional(16));
    QCOMPARE(asks[1].program, std::optional(Program{6}));
    QCOMPARE(askText(asks[0]), std::string("6 Electric Piano 2 (bank 8)"));
    QCOMPARE(askText({0, {}, {}, {}, false}), std::string("no program"));
    QCOMPARE(askText({0, {}, {}, Program{40}, true}), std::string("41 Brush kit"));
}

void TestRoundTrip::rangeFitFindsTheBestOctave() {
    const Preset trumpet{0, 56, "Trumpet", {}, {{54, 84}}};
    std::array<int, 128> notes{};
    notes[40] = 10;
    notes[48] = 5;
    QCOMPARE(notesOutside(notes, trumpet), 15);
    QCOMPARE(bestOctaves(weightsOf(notes), trumpet), 2); // one octave leaves the 40s at 52: still outside
    notes.fill(0);
    notes[60] = 3;
    QCOMPARE(bestOctaves(weightsOf(notes), trumpet), 0);
}

void TestRoundTrip::rangeFitAgreesWithTryingAll() {
    std::mt19937 random(34);
    for (int round = 0; round < 200; ++round) {
        std::array<int, 128> notes{};
        for (int i = 0; i < 20; ++i) ++notes[random() % 128];
        const int lowest = static_cast<int>(random() % 90);
        const Preset preset{0, 0, "x", {}, {{lowest, lowest + static_cast<int>(random() % 37)}}};
        const auto outside = [&](int octaves) {
            int count = 0;
            for (int key = 0; key < 128; ++key) {
                const int at = key + 12 * octaves;
                if (at < preset.ranges[0].lowest || at > preset.ranges[0].highest)
                    count += notes[static_cast<std::size_t>(key)];
            }
            return count;
        };
        int fewest = outside(0);
        for (int octaves = -4; octaves <= 4; ++octaves) fewest = std::min(fewest, outside(octaves));
        QCOMPARE(outside(bestOctaves(weightsOf(notes), preset)), fewest);
    }
}

void TestRoundTrip::volumeLaw() {
    // General MIDI developer guidelines: 40·log10(v/127).
    QCOMPARE(volumeDb(127), 0.0);
    QVERIFY(std::abs(volumeDb(64) + 11.9) < 0.05);
    QCOMPARE(volumeDb(0), lowestLevelDb);
    QVERIFY(std::abs(gainToDb(dbToGain(-7.5)) + 7.5) < 1e-9);
}

void TestRoundTrip::demoSongsAreMusic() {
    for (const char* name : {"lantern_quay.mid", "TIDEMILL.MID", "pilots-evening-song.kar", "SLACKW~1.MID"}) {
        const Song song = demoSong(name);
        QVERIFY(song.sections.size() >= 4); // a form
        int notes = 0, inScale = 0;
        std::array<int, 12> classes{};
        std::set<int> velocities;
        for (const Part& part : song.parts)
            for (const Note& note : realise(song, part).notes) {
                velocities.insert(note.velocity.value);
                if (part.source.drums) continue;
                QVERIFY2(note.key.value >= 24 && note.key.value <= 108,
                         qPrintable(QStringLiteral("%1 %2").arg(QLatin1String(name)).arg(note.key.value)));
                ++classes[note.key.value % 12];
                ++notes;
            }
        std::array<int, 12> sorted = classes;
        std::sort(sorted.rbegin(), sorted.rend());
        for (int i = 0; i < 7; ++i) inScale += sorted[static_cast<std::size_t>(i)];
        QVERIFY2(inScale > notes * 0.85, name); // it stays with a key, and leaves it now and then
        QVERIFY(velocities.size() > 20);        // dynamics
    }
}

void TestRoundTrip::demoSongsShowWhatTheyAreFor() {
    const Song reel = demoSong("TIDEMILL.MID");
    bool variation = false;
    std::set<int> tracks;
    for (const Part& part : reel.parts) {
        tracks.insert(part.source.track);
        variation = variation || asksOf(reel, part).front().bankMsb == std::optional(8);
    }
    QVERIFY(variation && tracks.size() < reel.parts.size()); // GS banks; several channels on a track
    const Song evening = demoSong("pilots-evening-song.kar");
    QVERIFY(evening.parts[0].source.track == evening.parts[1].source.track &&
            evening.parts[1].source.track == evening.parts[2].source.track);
    QVERIFY(evening.parts[3].source.track != evening.parts[0].source.track);
    int lyrics = 0;
    for (const EventRef ref : *evening.parts[0].source.events)
        lyrics += evening.event(ref).isMeta(meta::lyric);
    QVERIFY(lyrics > 100); // the words go with the first voice
    const Song march = demoSong("SLACKW~1.MID");
    QVERIFY(march.source->damage.size() >= 2);
    QCOMPARE(march.encoding, std::string("SHIFT_JIS"));
}

QTEST_APPLESS_MAIN(TestRoundTrip)
#include "tst_roundtrip.moc"
