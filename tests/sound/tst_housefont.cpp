/// The house font by ear: in tune, even in loudness, every key of the kits there.
#include "sound/render.h"
#include "support/support.h"

#include "midi/gm.h"

#include <algorithm>

using namespace support;

namespace {

const Catalogue& house() {
    static const Catalogue fonts = fontsAt(HOUSE_FONT);
    return fonts;
}

std::vector<float> playedBy(int program, int key, double seconds) {
    Song song = Builder().program(0, 0, program).note(0, 0, seconds, key, 100).song();
    song.room = 0;
    return renderToMemory(song, house(), rate);
}

/// A key in the middle of a program's range.
int middleKey(int program) {
    const KeyRange span = house().defaultFont()->find(0, program)->span();
    return std::clamp(60, span.lowest + 2, span.highest - 2);
}

} // namespace

class TestHouseFont : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void isInTune_data();
    void isInTune();
    void isEvenInLoudness();
    void everyKeyOfTheKitsSounds_data();
    void everyKeyOfTheKitsSounds();
    void sustainedSoundsHoldAndStruckOnesDie();
    void hatsSilenceEachOther();
    void namesAreWhole();
};

void TestHouseFont::isInTune_data() {
    QTest::addColumn<int>("program");
    QTest::addColumn<int>("key");
    for (int program = 0; program < 116; ++program) // those after it are drums and noises
        for (const int shift : {-12, 0, 7}) {
            const KeyRange span = house().defaultFont()->find(0, program)->span();
            const int key = std::clamp(middleKey(program) + shift, span.lowest, span.highest);
            QTest::newRow(qPrintable(QStringLiteral("%1 %2").arg(program + 1).arg(key))) << program << key;
        }
}

void TestHouseFont::isInTune() {
    QFETCH(int, program);
    QFETCH(int, key);
    // Before vibrato sets in, and long enough to tell; where two copies beat against each other, their middle
    // counts.
    const auto tone = cut(playedBy(program, key, 0.5), 0, 0.04, 0.34);
    // Organs sound with a rank of pipes an octave lower, as one pad does.
    const bool lower = (program >= 16 && program <= 19) || program == 87;
    const double hz = keyHz(key) / (lower ? 2 : 1);
    const double off = cents(frequencyOf(tone, hz), hz);
    QVERIFY2(std::abs(off) < 8, qPrintable(QStringLiteral("%1 cents").arg(off)));
}

void TestHouseFont::isEvenInLoudness() {
    std::vector<double> levels;
    for (int program = 0; program < 112; ++program)
        levels.push_back(20 *
                         std::log10(loudest(cut(playedBy(program, middleKey(program), 0.6), 0, 0, 0.8))));
    std::sort(levels.begin(), levels.end());
    const double middle = levels[levels.size() / 2];
    int far = 0;
    for (const double level : levels) far += std::abs(level - middle) > 9 ? 1 : 0;
    QVERIFY2(far <= 10,
             qPrintable(QString::number(far))); // short, dry sounds cannot be as loud as a held chord
    QVERIFY(levels.back() - middle < 10);
}

void TestHouseFont::everyKeyOfTheKitsSounds_data() {
    QTest::addColumn<int>("kit");
    QTest::newRow("standard") << 0;
    QTest::newRow("brushes") << 40;
}

void TestHouseFont::everyKeyOfTheKitsSounds() {
    // General MIDI percussion (RP-003): keys 35–81.
    QFETCH(int, kit);
    Builder b;
    b.program(9, 0, kit);
    for (int key = 35; key <= 81; ++key) b.note(9, (key - 35) * 3.0, 0.2, key, 110);
    Song song = b.song();
    song.room = 0;
    const auto sound = renderToMemory(song, house(), rate);
    std::vector<double> spectra;
    for (int key = 35; key <= 81; ++key) {
        const auto hit = cut(sound, 0, (key - 35) * 3.0, (key - 35) * 3.0 + 0.3);
        QVERIFY2(peak(hit) > 0.004F, qPrintable(QStringLiteral("%1 %2").arg(key).arg(QString::fromUtf8(
                                         drumName(Key{static_cast<std::uint8_t>(key)}).data()))));
        spectra.push_back(rms(hit));
    }
    std::sort(spectra.begin(), spectra.end());
    QVERIFY(std::unique(spectra.begin(), spectra.end()) - spectra.begin() > 38); // sounds of their own
}

void TestHouseFont::sustainedSoundsHoldAndStruckOnesDie() {
    for (const int program :
         {19, 21, 48, 56, 71, 73}) { // organ, accordion, strings, trumpet, clarinet, flute
        const auto tone = cut(playedBy(program, middleKey(program) + 4, 4), 0, 0, 4);
        const std::vector<float> early(tone.begin() + 24000, tone.begin() + 48000),
            late(tone.end() - 24000, tone.end());
        QVERIFY2(std::abs(db(rms(late), rms(early))) < 3, qPrintable(QString::number(program)));
    }
    for (const int program : {0, 9, 12, 24, 32, 105}) { // piano, glockenspiel, marimba, guitar, bass, banjo
        const auto tone = cut(playedBy(program, 55, 4), 0, 0, 4);
        const std::vector<float> early(tone.begin() + 2400, tone.begin() + 14400),
            late(tone.end() - 24000, tone.end());
        QVERIFY2(db(rms(late), rms(early)) < -10, qPrintable(QString::number(program)));
    }
}

void TestHouseFont::hatsSilenceEachOther() {
    const auto ring = [](bool closed) {
        Builder b;
        b.program(9, 0, 0).note(9, 0, 0.1, 46);
        if (closed) b.note(9, 0.1, 0.1, 44);
        Song song = b.song();
        song.room = 0;
        return rms(cut(renderToMemory(song, house(), rate), 0, 0.35, 0.5));
    };
    QVERIFY(ring(true) < ring(false) * 0.3);
}

void TestHouseFont::namesAreWhole() {
    std::set<std::string> names;
    for (const Preset& preset : house().defaultFont()->presets) {
        QVERIFY(!preset.name.empty() && preset.name.size() <= 19);
        QVERIFY2(names.insert(preset.name).second, preset.name.c_str());
    }
}

QTEST_APPLESS_MAIN(TestHouseFont)
#include "tst_housefont.moc"
