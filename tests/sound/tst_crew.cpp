/// Work shared over processors: every piece once, whatever the helpers do; 64 parts live sound as rendered.
#include "sound/render.h"
#include "support/support.h"

#include "sound/crew.h"
#include "sound/player.h"

#include <random>

using namespace support;

class TestCrew : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void everyPieceIsDoneOnce();
    void helpersSleepAndWake();
    void crewsEndAtAnyTime();
    void manyPartsSoundLiveAsRendered();
};

namespace {

/// Counts how often each piece was done.
struct Counts {
    std::array<std::atomic<int>, 255> done{};
    int round = 0;
    std::atomic<int> wrongRounds{0};
    int seenRound = 0;
};

void count(void* self, int piece) {
    auto& counts = *static_cast<Counts*>(self);
    ++counts.done[static_cast<std::size_t>(piece)];
    if (counts.round != counts.seenRound) ++counts.wrongRounds;
}

} // namespace

void TestCrew::everyPieceIsDoneOnce() {
    Crew crew;
    Counts counts;
    std::mt19937 random(6);
    std::array<int, 255> expected{};
    for (int round = 0; round < 20000; ++round) {
        const int pieces = round % 500 == 0 ? 255 : static_cast<int>(random() % 9);
        counts.round = counts.seenRound = round; // plain: what the caller writes before, all helpers see
        crew.run(pieces, &count, &counts);
        for (int i = 0; i < pieces; ++i) ++expected[static_cast<std::size_t>(i)];
    }
    for (std::size_t i = 0; i < expected.size(); ++i) QCOMPARE(counts.done[i].load(), expected[i]);
    QCOMPARE(counts.wrongRounds.load(), 0);
}

void TestCrew::helpersSleepAndWake() {
    Crew crew;
    Counts counts;
    for (int round = 0; round < 50; ++round) {
        std::this_thread::sleep_for(std::chrono::milliseconds(round % 5)); // long enough to fall asleep
        crew.run(8, &count, &counts);
    }
    for (std::size_t i = 0; i < 8; ++i) QCOMPARE(counts.done[i].load(), 50);
}

void TestCrew::crewsEndAtAnyTime() {
    Counts counts;
    for (int i = 0; i < 200; ++i) {
        Crew crew;
        if (i % 3 > 0) crew.run(4, &count, &counts);
        if (i % 3 == 2) std::this_thread::sleep_for(std::chrono::microseconds(700));
    }
    QCOMPARE(counts.done[0].load(), 133);
    Crew alone(0);
    QVERIFY(alone.alone());
    alone.run(4, &count, &counts);
    QCOMPARE(counts.done[3].load(), 134);
}

void TestCrew::manyPartsSoundLiveAsRendered() {
    // 64 parts that hold chords: more voices than it takes for the crew to be woken, in four synthesisers.
    Builder b(1, 64);
    for (int part = 0; part < 64; ++part) {
        const int channel = part % 9;
        const auto track = static_cast<std::size_t>(part);
        b.program(channel, 0, channel % 3, track);
        for (int note = 0; note < 3; ++note)
            b.note(channel, 0.25 * (part % 4), 2, 40 + (part * 5 + note * 4) % 40, 20, track);
    }
    Song song = b.song();
    QCOMPARE(song.parts.size(), std::size_t{64});
    const Catalogue& all = testFont();
    const auto rendered = renderToMemory(song, all, liveRate);
    InstrumentBank bank(liveRate, {.slotStep = 16, .live = true, .pluginBundle = {}});
    Player player;
    player.setPlan(makePlan(song, all, matchSong(song, all), bank));
    player.play();
    std::vector<float> block(2 * liveFrames), live;
    for (double t = 0; t < 2.5; t += double(liveFrames) / liveRate) {
        player.process(block.data(), liveFrames);
        live.insert(live.end(), block.begin(), block.end());
    }
    QVERIFY(peak(live) > 0.1F);
    float most = 0;
    constexpr std::size_t late = 2 * Limiter::latency;
    for (std::size_t i = late; i < std::min(live.size(), rendered.size()); ++i)
        most = std::max(most, std::abs(live[i] - rendered[i - late]));
    QVERIFY2(most < 1e-6F, qPrintable(QString::number(most)));
}

QTEST_GUILESS_MAIN(TestCrew)
#include "tst_crew.moc"
