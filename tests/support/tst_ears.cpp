/// Whether the tests can hear: each helper that measures is given what it must tell apart, and what is wrong
/// by one and a half times the tolerance that tests use must not pass for right.
#include "support/support.h"
#include "support/whatsounds.h"

#include "song/shape/edits.h"

using namespace support;

namespace {

/// A tone with overtones of these strengths, from the fundamental on, from `from` to `to` seconds of one.
std::vector<float> tone(double hz, std::vector<double> overtones, double seconds = 1,
                        double amplitude = 0.3) {
    std::vector<float> mono(static_cast<std::size_t>(seconds * rate));
    for (std::size_t i = 0; i < mono.size(); ++i) {
        double sum = 0;
        for (std::size_t n = 0; n < overtones.size(); ++n)
            sum += overtones[n] *
                   std::sin(2 * std::numbers::pi * hz * double(n + 1) * double(i) / rate + double(n));
        mono[i] = static_cast<float>(amplitude * sum);
    }
    return mono;
}

std::vector<float> stereo(const std::vector<float>& left, const std::vector<float>& right) {
    std::vector<float> both;
    for (std::size_t i = 0; i < left.size(); ++i) both.insert(both.end(), {left[i], right[i]});
    return both;
}

double shifted(double hz, double by) { return hz * std::pow(2.0, by / 1200); }

} // namespace

class TestEars : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void pitchIsHeardToACent_data();
    void pitchIsHeardToACent();
    void loudnessIsHeardToATenthOfADecibel();
    void sidesAndTimesAreNotMixedUp();
    void silenceIsToldFromTheLeastSound();
    void onsetsAreHeardToTheSample();
    void differencesAreHeardToTheEnd();
    void overtonesTellPrograms();
    void whatSoundsTellsEveryChange();
};

void TestEars::pitchIsHeardToACent_data() {
    QTest::addColumn<double>("hz");
    QTest::addColumn<double>("off");
    QTest::addColumn<double>("seconds");
    for (const int key : {33, 60, 69, 96})
        for (const double off : {-1200.0, -700.0, -100.0, -50.0, -24.6, -2.8, -1.5, 0.0, 1.5, 2.8, 5.8, 50.0,
                                 100.0, 700.0, 1200.0})
            for (const double seconds : {0.4, 2.4})
                QTest::addRow("key %d, %g cents, %g s", key, off, seconds) << keyHz(key) << off << seconds;
}

/// Pure and rich tones, one with an octave that is louder than the tone itself.
void TestEars::pitchIsHeardToACent() {
    QFETCH(const double, hz);
    QFETCH(const double, off);
    QFETCH(const double, seconds);
    for (const auto& overtones : {std::vector{1.0}, {1, 0.7, 0.5, 0.3, 0.2}, {0.5, 1, 0, 0.4}}) {
        const double heard = cents(frequencyOf(tone(shifted(hz, off), overtones, seconds), hz), hz);
        QVERIFY2(std::abs(heard - off) < 1, qPrintable(QString::number(heard)));
    }
}

void TestEars::loudnessIsHeardToATenthOfADecibel() {
    const double full = rms(tone(1000, {1}, 1, 1));
    QVERIFY(std::abs(db(full, 1) + 3.01) < 0.01); // of a sine: 1/√2
    for (const double off : {-20.0, -0.15, 0.15, 6.0}) {
        const double heard = db(rms(tone(1000, {1}, 1, std::pow(10, off / 20))), full);
        QVERIFY2(std::abs(heard - off) < 0.01, qPrintable(QString::number(heard)));
    }
    // The loudest fifth of a second of a tone that lasts half of it: its level, though most is silence.
    auto swell = tone(440, {1}, 2, 0.01);
    const auto loud = tone(440, {1}, 0.25, 0.5);
    std::copy(loud.begin(), loud.end(), swell.begin() + rate);
    QVERIFY(std::abs(db(loudest(swell), rms(loud))) < 0.1);
    QVERIFY(db(loudest(tone(440, {1}, 2, 0.01)), rms(loud)) < -30);
    // One frequency among others: 1 of amplitude is a quarter in a Hann window.
    const auto two = tone(440, {1, 0, 0.1}, 1, 1);
    QVERIFY(std::abs(db(strength(two, 440), 0.25)) < 0.1);
    QVERIFY(std::abs(db(strength(two, 1320), 0.025)) < 0.1);
    QVERIFY(db(strength(two, 880), 0.25) < -60);
}

void TestEars::sidesAndTimesAreNotMixedUp() {
    std::vector<float> left(rate, 0.0F), right(rate, 0.0F);
    for (std::size_t i = rate / 2; i < rate * 3 / 4; ++i) left[i] = 0.5F;
    for (std::size_t i = 0; i < rate / 4; ++i) right[i] = 0.25F;
    const auto both = stereo(left, right);
    QCOMPARE(level(both, 0.5, 0.75), 0.5);
    QCOMPARE(level(both, 0, 0.5), 0.0);
    QCOMPARE(level(both, 0, 0.25, 1), 0.25);
    QCOMPARE(level(both, 0.25, 1, 1), 0.0);
    QCOMPARE(cut(both, 0, 0.5, 0.75).size(), static_cast<std::size_t>(rate / 4));
    QCOMPARE(cut(both, 0, 0.5, 9).size(), static_cast<std::size_t>(rate / 2)); // no more than there is
}

void TestEars::silenceIsToldFromTheLeastSound() {
    std::vector<float> sound(2 * rate, 0.0F);
    QCOMPARE(peak(sound), 0.0F);
    QCOMPARE(firstLoud(sound, rate), -1.0);
    sound.back() = -1e-3F * 1.5F;
    QCOMPARE(peak(sound), 1e-3F * 1.5F); // negative, in the last sample of one side
    QCOMPARE(firstLoud(sound, rate), 1 - 1.0 / rate);
    QCOMPARE(firstLoud(sound, rate, 0.002F), -1.0);
    sound[960] = 0.1F;
    QCOMPARE(firstLoud(sound, rate), 480.0 / rate);
    QCOMPARE(firstLoud(sound, rate / 2), 960.0 / rate); // at another rate
}

void TestEars::onsetsAreHeardToTheSample() {
    std::vector<float> clicks(rate, 0.0F);
    for (const std::size_t at : {100, 24000, 47999})
        for (std::size_t i = at; i < std::min<std::size_t>(at + 2000, clicks.size()); ++i)
            clicks[i] = i % 2 ? 0.5F : -0.5F;
    QCOMPARE(onsetsOf(clicks), (std::vector{100.0 / rate, 24000.0 / rate, 47999.0 / rate}));
    clicks[24000] = 0; // a sample late
    QCOMPARE(onsetsOf(clicks)[1], 24001.0 / rate);
    QVERIFY(onsetsOf(std::vector<float>(rate, 0.0F)).empty());
}

void TestEars::differencesAreHeardToTheEnd() {
    const auto a = tone(440, {1, 0.5}, 0.5), b = tone(660, {1}, 0.7);
    const auto sum = rest({a, b}, {});
    QVERIFY(nullOf({a, b}, sum) < -140);
    QVERIFY(greatestDifference(a, a) == 0 && difference(a, a) == 0);
    auto wrong = sum;
    wrong[17] += 1.5e-4F;
    QVERIFY(std::abs(nullOf({a, b}, wrong) - db(1.5e-4, 1)) < 0.1);
    QVERIFY(std::abs(greatestDifference(sum, wrong) - 1.5e-4F) < 1e-6F);
    // What only one of two has at its end counts.
    auto longer = a;
    longer.push_back(0.25F);
    QCOMPARE(greatestDifference(longer, a), 0.25F);
    QCOMPARE(greatestDifference(a, longer), 0.25F);
    QVERIFY(std::abs(nullOf({a}, longer) - db(0.25, 1)) < 0.1);
    // The share that differs: half as loud differs by half, silence by all, another tone by more.
    auto half = a;
    for (float& v : half) v /= 2;
    QVERIFY(std::abs(difference(a, half) - 0.5) < 1e-6);
    QVERIFY(std::abs(difference(a, {}) - 1) < 1e-6);
    QVERIFY(difference(a, tone(450, {1, 0.5}, 0.5)) > 1.2);
}

void TestEars::overtonesTellPrograms() {
    for (const int program : {0, 1, 64, 85, 127}) {
        std::vector<double> overtones = {1};
        for (int bit = 0; bit < 7; ++bit) overtones.push_back(program & (1 << bit) ? 0.3 : 0);
        QCOMPARE(programHeard(tone(keyHz(48), overtones, 1, 0.2), 48), program);
    }
    QCOMPARE(programHeard(tone(keyHz(48), {1, 0.1}, 1, 0.2), 48), 0); // two thirds of what counts
}

/// Two songs that differ in one thing alone never sound the same.
void TestEars::whatSoundsTellsEveryChange() {
    const Catalogue fonts = testFont();
    const Song song = Builder().program(0, 0, 4).note(0, 0.5, 0.5, 60, 100).note(0, 1, 0.5, 64, 100).song();
    const auto told = whatSounds(song, fonts);
    QCOMPARE(told.size(), std::size_t{2});
    QVERIFY(whatSounds(song, fonts) == told);
    const auto differs = [&](const Song& other) { return whatSounds(other, fonts) != told; };
    QVERIFY(differs(
        Builder().program(0, 0, 5).note(0, 0.5, 0.5, 60, 100).note(0, 1, 0.5, 64, 100).song())); // sound
    QVERIFY(differs(
        Builder().program(0, 0, 4).note(0, 0.5, 0.5, 60, 101).note(0, 1, 0.5, 64, 100).song())); // velocity
    QVERIFY(differs(
        Builder().program(0, 0, 4).note(0, 0.5, 0.5, 60, 100).note(0, 1, 0.5, 65, 100).song())); // key
    QVERIFY(differs(
        Builder().program(0, 0, 4).note(0, 0.502, 0.5, 60, 100).note(0, 1, 0.5, 64, 100).song())); // time
    QVERIFY(differs(Builder()
                        .program(0, 0, 4)
                        .cc(0, 0, 7, 99)
                        .note(0, 0.5, 0.5, 60, 100)
                        .note(0, 1, 0.5, 64, 100)
                        .song()));
    QVERIFY(differs(Builder()
                        .program(0, 0, 4)
                        .cc(0, 0.7, 10, 65)
                        .note(0, 0.5, 0.5, 60, 100)
                        .note(0, 1, 0.5, 64, 100)
                        .song()));
    QVERIFY(differs(edits::setLevel(song, 1, 0.015)));
    QVERIFY(differs(edits::setPan(song, 1, 0.015)));
    QVERIFY(differs(edits::setRoomShare(song, 1, 0.5, false)));
    QVERIFY(differs(edits::setMuted(song, 1, true)));
    QVERIFY(differs(edits::chooseSound(song, 1, {houseFontId, 0, 5, "Other"})));
}

QTEST_GUILESS_MAIN(TestEars)
#include "tst_ears.moc"
