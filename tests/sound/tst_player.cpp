#include "sound/render.h"
#include "support/support.h"

#include "song/shape/edits.h"
#include "sound/evenplace.h"
#include "sound/player.h"

#include <thread>

using namespace support;

namespace {

/// A player with no output: the test pulls the sound itself, block by block.
struct Pulled {
    Player player;
    Catalogue fonts = testFont();
    InstrumentBank bank{liveRate};
    std::shared_ptr<Plan> plan;
    std::vector<float> sound;

    void show(const Song& song) {
        plan = makePlan(song, fonts, matchSong(song, fonts), bank, plan.get());
        player.setPlan(plan);
    }
    /// Pulls some seconds; gives the left channel of them.
    std::vector<float> pull(double seconds) {
        std::vector<float> block(2 * 256);
        std::vector<float> stereo;
        for (double t = 0; t < seconds; t += 256.0 / liveRate) {
            player.process(block.data(), 256);
            stereo.insert(stereo.end(), block.begin(), block.end());
        }
        return cut(stereo, 0, 0, seconds);
    }
};

Song twoNotes() {
    Song song = Builder()
                    .program(0, 0, 0)
                    .note(0, 0, 4, 60)
                    .program(1, 0, 0)
                    .note(1, 0, 4, 69)
                    .note(1, 4, 4, 76)
                    .song();
    song.room = 0;
    return song;
}

} // namespace

class TestPlayer : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void playsFromAPlaceWithItsStateChased();
    void seekingWhileStoppedIsSilent();
    void loopsBetweenTwoPlaces();
    void paceChangesSpeedNotPitch();
    void stopsAtTheEnd();
    void theLastHitIsHeard();
    void itRestsWhenNothingIsToBeHeard();
    void clicksSoundOnTheBeats();
    void barsAreCountedBeforeTheSong();
    void nothingGoesPastFullScale();
    void aGainIsReachedSoftly();
    void aNewSoundIsHeardSoonAndOthersGoOn();
    void levelsGlideAtOnce();
    void auditionsANote();
    void silentOutputRunsInRealTime();
    void manyActionsWhilePlaying();
    void theEvenPlaceNeverGoesBack();
    void theEvenPlaceFollowsJumps();
    void aNamedDeviceThatIsNotThereIsAnError();
};

void TestPlayer::playsFromAPlaceWithItsStateChased() {
    Song song =
        Builder().program(0, 0, 1).cc(0, 0.1, 7, 30).bend(0, 0.2, 8192 + 4096).note(0, 0.5, 5, 69).song();
    song.room = 0;
    Pulled p;
    p.show(song);
    p.player.seek(3);
    p.player.play();
    const auto chased = p.pull(1);
    Pulled q; // the same place reached by playing
    q.show(song);
    q.player.play();
    q.pull(3);
    const auto played = q.pull(1);
    const std::vector<float> late(chased.begin() + 9600, chased.end()),
        lateToo(played.begin() + 9600, played.end());
    QVERIFY(std::abs(db(rms(late), rms(lateToo))) < 0.1);
    QVERIFY(std::abs(cents(frequencyOf(late, keyHz(70)), keyHz(70))) < 3);
    QVERIFY(strength(late, keyHz(70) * 2) > 0.3 * strength(late, keyHz(70))); // program 1: second harmonic
}

void TestPlayer::seekingWhileStoppedIsSilent() {
    Pulled p;
    p.show(twoNotes());
    p.player.seek(1);
    QVERIFY(peak(p.pull(0.3)) < 1e-6F);
    p.show(edits::chooseSound(twoNotes(), 1, {houseFontId, 0, 5, "x"}));
    QVERIFY(peak(p.pull(0.3)) < 1e-6F);
    QVERIFY(std::abs(p.player.seconds() - 1) < 0.01);
}

void TestPlayer::loopsBetweenTwoPlaces() {
    Pulled p;
    p.show(twoNotes());
    p.player.setLoop(3.5, 4.5);
    p.player.seek(3.5);
    p.player.play();
    p.pull(2.2);
    QCOMPARE(p.player.loopRounds(), 2);
    QVERIFY(p.player.seconds() >= 3.5 && p.player.seconds() < 4.5);
    QVERIFY(p.player.isPlaying());
    const auto tone = p.pull(0.25); // in the first half of the round: key 69 is held again
    QVERIFY(strength(tone, keyHz(69)) > 5 * strength(tone, keyHz(76)));
}

void TestPlayer::paceChangesSpeedNotPitch() {
    Pulled p;
    p.show(twoNotes());
    p.player.setPace(50);
    p.player.play();
    const auto tone = p.pull(2);
    QVERIFY(std::abs(p.player.seconds() - 1) < 0.02);
    QVERIFY(std::abs(cents(frequencyOf(tone, keyHz(60)), keyHz(60))) < 1);
    QVERIFY(strength(tone, keyHz(69)) > 10 * strength(tone, keyHz(69) * 1.03));
    QVERIFY(strength(tone, keyHz(69)) > 10 * strength(tone, keyHz(69) / 2)); // not an octave lower
}

/// 120 beats a minute, 3/4, nothing that sounds but for a note at 8 s.
Song silentWaltz(int pickUp = 0) {
    Builder b;
    if (pickUp > 0) {
        b.file.addTimeSignature(0, 0, pickUp, 4);
        b.file.addTimeSignature(0, 480 * pickUp, 3, 4);
    } else {
        b.file.addTimeSignature(0, 0, 3, 4);
    }
    Song song = b.program(0, 0, 0).note(0, 8, 1, 60).song();
    song.room = 0;
    return song;
}

void TestPlayer::theLastHitIsHeard() {
    Pulled p;
    Song song = Builder().note(9, 1, 0, 38, 110).song();
    song.room = 0;
    p.show(song);
    p.player.play();
    const auto sound = p.pull(1.3);
    QVERIFY(!p.player.isPlaying());
    QCOMPARE(p.player.seconds(), 1.0); // the song's end, not what it takes to hear it
    const std::vector<float> after(sound.begin() + rate, sound.end());
    QVERIFY(db(rms(after), 1) > -50);
}

/// Stopped and silent for two seconds it makes nothing, until it is told something; levels that were moved
/// meanwhile hold from the first sample on.
void TestPlayer::itRestsWhenNothingIsToBeHeard() {
    Pulled p;
    Song song = Builder().program(0, 0, 0).note(0, 0, 4, 69).song();
    song.room = 0;
    p.show(song);
    QVERIFY(!p.player.isResting());
    p.pull(2.5);
    QVERIFY(p.player.isResting());
    QVERIFY(peak(p.pull(0.5)) == 0);
    p.player.audition(1, Key{60}, Velocity{100});
    QVERIFY(peak(p.pull(0.5)) > 0.001F);
    QVERIFY(!p.player.isResting());
    p.player.audition(1, Key{60}, Velocity{0});
    p.player.play();
    const auto loud = p.pull(1);
    QVERIFY(!p.player.isResting());
    p.player.stop();
    p.pull(6);
    QVERIFY(p.player.isResting());
    p.player.seek(0);
    p.player.play();
    const auto again = p.pull(1);
    QVERIFY(std::abs(db(rms(again), rms(loud))) < 1);
    p.player.stop();
    p.pull(6);
    QVERIFY(p.player.isResting());
    p.player.setGain(0.25); // a gain that moves is made
    p.pull(0.1);
    QVERIFY(!p.player.isResting());
}

void TestPlayer::clicksSoundOnTheBeats() {
    Pulled p;
    p.show(silentWaltz());
    p.player.setClick(true, {});
    p.player.play();
    const auto sound = p.pull(3.4);
    const auto onsets = onsetsOf(sound);
    QCOMPARE(onsets.size(), std::size_t{7});
    for (std::size_t i = 0; i < onsets.size(); ++i)
        QVERIFY2(std::abs(onsets[i] - 0.5 * static_cast<double>(i)) < 0.003,
                 qPrintable(QString::number(onsets[i])));
    const auto loudest = [&](double at) {
        return peak({sound.begin() + std::lround(at * liveRate),
                     sound.begin() + std::lround((at + 0.06) * liveRate)});
    };
    QVERIFY(loudest(1.5) > loudest(0.5) * 1.1F && std::abs(loudest(0.5) - loudest(1.0)) < 0.01F);
    // Twice as slow at half the pace, three clicks a beat where that is wished, and softer.
    p.player.stop();
    p.player.seek(0);
    p.player.setPace(50);
    p.player.setClick(true, {ClickSound::Wood, -6, 3, false});
    p.pull(0.2);
    p.player.play();
    const auto slow = p.pull(1.9);
    const auto thirds = onsetsOf(slow);
    QCOMPARE(thirds.size(), std::size_t{6});
    for (std::size_t i = 0; i < thirds.size(); ++i)
        QVERIFY(std::abs(thirds[i] - static_cast<double>(i) / 3) < 0.004);
    QVERIFY(peak(slow) < clickPeak * 0.5F);
    p.player.setClick(false, {});
    p.pull(0.1);
    QVERIFY(peak(p.pull(2)) < 1e-4F);
}

void TestPlayer::barsAreCountedBeforeTheSong() {
    Song song = silentWaltz();
    Pulled p;
    p.show(song);
    p.player.setClick(true, {});
    const auto onsetsWith = [&](const Song& counts, Tick from, int bars, double seconds) {
        p.show(counts);
        p.player.stop();
        p.player.seek(counts.tempo->seconds(from));
        p.pull(0.2);
        p.player.play(countInBefore(*counts.tempo, from, bars, 1));
        return onsetsOf(p.pull(seconds));
    };
    // Two bars of three, and on without a gap: every half second.
    const auto two = onsetsWith(song, 0, 2, 4.4);
    QCOMPARE(two.size(), std::size_t{9});
    for (std::size_t i = 1; i < two.size(); ++i) QVERIFY(std::abs(two[i] - two[i - 1] - 0.5) < 0.003);
    QVERIFY(std::abs(p.player.seconds() - 1.4) < 0.03); // the song stood still for 3 s
    // Before a pick-up of one beat the two that it lacks are counted, too.
    const Song pickUp = silentWaltz(1);
    QCOMPARE(countInBefore(*pickUp.tempo, 0, 1, 1).clicks.size(), std::size_t{5});
    QCOMPARE(countInBefore(*pickUp.tempo, 0, 1, 1).clicks[3].beat, Beat::Bar);
    QVERIFY(std::abs(countInBefore(*pickUp.tempo, 0, 1, 1).seconds - 2.5) < 1e-6);
    QCOMPARE(clicksOf(*pickUp.tempo, 0, 480 * 5, 1)[0].beat, Beat::Inner);
    QCOMPARE(clicksOf(*pickUp.tempo, 0, 480 * 5, 1)[1].beat, Beat::Bar);
    QCOMPARE(onsetsWith(pickUp, 0, 1, 3.9).size(), std::size_t{8});
    // From the middle of a bar the beats before it are counted after the whole bars.
    QCOMPARE(countInBefore(*song.tempo, 960, 1, 1).clicks.size(), std::size_t{5});
    // Stopping ends it.
    p.show(song);
    p.player.stop();
    p.player.seek(0);
    p.player.play(countInBefore(*song.tempo, 0, 2, 1));
    p.pull(0.6);
    p.player.stop();
    p.pull(0.2);
    QVERIFY(peak(p.pull(3)) < 1e-4F);
    QCOMPARE(p.player.seconds(), 0.0);
}

void TestPlayer::nothingGoesPastFullScale() {
    Builder b;
    for (int channel = 0; channel < 8; ++channel)
        b.program(channel, 0, 0).cc(channel, 0, 7, 127).note(channel, 0, 3, 60 + channel);
    Song song = b.song();
    song.masterDb = 24;
    Pulled p;
    p.show(song);
    p.player.play();
    const auto sound = p.pull(2);
    QVERIFY(peak(sound) <= Limiter::ceiling + 1e-4F);
    QVERIFY(peak(sound) > 0.9F);
    // It is turned down, not cut: hardly a sample is as loud as its neighbours at the top.
    int flat = 0;
    for (std::size_t i = 2; i < sound.size(); ++i)
        flat += std::abs(sound[i]) > 0.96F && sound[i] == sound[i - 1] && sound[i] == sound[i - 2];
    QVERIFY2(flat < 10, qPrintable(QString::number(flat)));
}

void TestPlayer::aGainIsReachedSoftly() {
    Pulled p;
    p.show(twoNotes());
    p.player.play();
    const double before = rms(p.pull(1));
    p.player.setGain(0.25);
    const auto ramp = p.pull(0.5);
    for (std::size_t i = 1; i < ramp.size(); ++i) QVERIFY(std::abs(ramp[i] - ramp[i - 1]) < 0.1F);
    QVERIFY(std::abs(db(rms(p.pull(0.5)), before) + 12) < 3);
}

void TestPlayer::stopsAtTheEnd() {
    Pulled p;
    p.show(Builder().program(0, 0, 0).note(0, 0, 0.5, 60).song());
    p.player.play();
    p.pull(1);
    QVERIFY(!p.player.isPlaying());
    p.player.play(); // from the start again
    p.pull(0.1);
    QVERIFY(p.player.isPlaying() && p.player.seconds() < 0.2);
}

void TestPlayer::aNewSoundIsHeardSoonAndOthersGoOn() {
    Pulled p;
    const Song song = twoNotes();
    p.show(song);
    p.player.play();
    p.pull(1);
    const auto before = p.pull(0.2);
    p.show(edits::chooseSound(song, 1, {houseFontId, 0, 1, "x"})); // part 1: now with the second harmonic
    const auto after = p.pull(0.2);
    // Within 100 ms the new sound is there (the whole of it here), and the other part has no gap.
    const std::vector<float> soon(after.begin() + 2400, after.begin() + 4800);
    QVERIFY(strength(soon, keyHz(60) * 2) > 0.3 * strength(soon, keyHz(60)));
    for (std::size_t from = 0; from + 2400 <= after.size(); from += 600) {
        const std::vector<float> window(after.begin() + static_cast<std::ptrdiff_t>(from),
                                        after.begin() + static_cast<std::ptrdiff_t>(from) + 2400);
        const std::vector<float> reference(before.begin(), before.begin() + 2400);
        QVERIFY(std::abs(db(strength(window, keyHz(69)), strength(reference, keyHz(69)))) < 1);
    }
}

void TestPlayer::levelsGlideAtOnce() {
    Pulled p;
    Song song = twoNotes();
    p.show(song);
    p.player.play();
    const auto before = p.pull(1);
    applyMix(*p.plan, edits::allBut(song, 1));
    p.pull(0.02);
    const auto after = p.pull(0.5);
    QVERIFY(strength(after, keyHz(60)) < strength(before, keyHz(60)) * 0.01);
    float jump = 0;
    for (std::size_t i = 1; i < after.size(); ++i) jump = std::max(jump, std::abs(after[i] - after[i - 1]));
    QVERIFY(jump < 0.05F);
}

void TestPlayer::auditionsANote() {
    Pulled p;
    p.show(twoNotes());
    p.pull(0.05);
    p.player.audition(1, Key{81}, Velocity{100});
    QVERIFY(peak(p.pull(0.3)) > 0.01F);
    p.player.audition(1, Key{81}, Velocity{0});
    p.pull(0.3);
    QVERIFY(peak(p.pull(0.1)) < 1e-3F);
    QVERIFY(!p.player.isPlaying());
}

void TestPlayer::silentOutputRunsInRealTime() {
    Pulled p;
    QVERIFY(p.player.open("silent").ok());
    QVERIFY(p.player.isSilent());
    p.show(twoNotes());
    p.player.play();
    QTRY_VERIFY_WITH_TIMEOUT(p.player.seconds() > 0.3, scaled(5000));
    p.player.stop();
    QTRY_VERIFY(!p.player.isPlaying());
}

void TestPlayer::manyActionsWhilePlaying() {
    Pulled p;
    QVERIFY(p.player.open("silent").ok());
    Song song = demoSong("lantern_quay.mid");
    p.show(song);
    p.player.play();
    for (int i = 0; i < 400; ++i) {
        switch (i % 8) {
        case 0: p.player.seek(i % 100); break;
        case 1: p.player.setPace(25 + i % 175); break;
        case 2: p.player.setLoop(i % 50, i % 50 + 2); break;
        case 3:
            song = edits::chooseSound(song, 1 + i % 10, {houseFontId, 0, i % 128, "x"});
            p.show(song);
            break;
        case 4:
            song = edits::setLevel(song, 1 + i % 10, -(i % 30));
            applyMix(*p.plan, song);
            break;
        case 5:
            p.player.audition(1 + i % 10, Key{60}, Velocity{static_cast<std::uint8_t>(i % 2 ? 0 : 90)});
            break;
        case 6: i % 3 ? p.player.play() : p.player.stop(); break;
        default:
            QVERIFY(p.player.partPeak(1 + i % 10) >= 0 && p.player.outputPeak(i % 2) >= 0);
            p.player.collect();
        }
        if (i % 20 == 0) std::this_thread::sleep_for(std::chrono::milliseconds(5));
    }
    QVERIFY(p.player.seconds() >= 0);
}

/// Clocks read as on a machine that is slow now and then: the player goes on in bursts of 93 ms, and once
/// stops for a second.
void TestPlayer::theEvenPlaceNeverGoesBack() {
    std::mt19937 random(7);
    EvenPlace even;
    double last = 0, clock = 0, widest = 0, furthest = 0;
    for (int look = 0; look < 1000; ++look) {
        const double passed = std::uniform_real_distribution(0.01, 0.06)(random);
        clock += passed;
        const double sounded = clock < 10 ? clock : std::max(10.0, clock - 1);
        const double player = std::floor(sounded / 0.093) * 0.093;
        even.look(player, true, passed);
        QVERIFY(even.seconds() >= last);
        widest = std::max(widest, even.seconds() - last);
        furthest = std::max(furthest, std::abs(even.seconds() - player));
        last = even.seconds();
    }
    QVERIFY2(widest < 0.075, qPrintable(QString::number(widest))); // a burst is 0.093
    QVERIFY2(furthest < 0.25, qPrintable(QString::number(furthest)));
}

void TestPlayer::theEvenPlaceFollowsJumps() {
    EvenPlace even;
    even.look(5, false, 0.03); // gone to by hand while it stands
    QCOMPARE(even.seconds(), 5.0);
    for (int look = 0; look < 20; ++look) even.look(5, true, 0.03); // bars are counted
    QVERIFY2(even.seconds() < 5.06, qPrintable(QString::number(even.seconds())));
    even.look(9, true, 0.03); // forward
    QCOMPARE(even.seconds(), 9.0);
    even.look(8.9, true, 0.03); // a round of a loop
    QCOMPARE(even.seconds(), 8.9);
    even.look(8.93, true, 0.03);
    QVERIFY(std::abs(even.seconds() - 8.93) < 0.001);
}

void TestPlayer::aNamedDeviceThatIsNotThereIsAnError() {
    Player player;
    const auto opened = player.open("no such output");
    QVERIFY(!opened.ok());
    QVERIFY(!opened.error().whatNow.empty());
    QVERIFY(player.open("auto").ok()); // with no device: the silent output
    const auto outputs = audioOutputs();
    QCOMPARE(outputs.front().id, std::string("auto"));
    QCOMPARE(outputs.back().id, std::string("silent"));
}

QTEST_APPLESS_MAIN(TestPlayer)
#include "tst_player.moc"
