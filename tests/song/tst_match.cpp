#include "support/support.h"

#include "song/edits.h"
#include "song/match.h"

using namespace support;

class TestMatch : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void findsTheSound_data();
    void findsTheSound();
    void byHandSurvivesTheData();
    void aFontThatIsGoneIsStoodInFor();
    void noFontAtAll();
    void everyProgramGetsASound();
    void theHouseFontServesWhatTheDefaultLacks();
};

void TestMatch::findsTheSound_data() {
    // The test font: bank 0 without program 9, bank 8 for programs 0–7, kits 0 and 40 (all 0-based).
    QTest::addColumn<int>("dialect");
    QTest::addColumn<int>("msb");
    QTest::addColumn<int>("lsb");
    QTest::addColumn<int>("program"); // 0-based, −1 for none
    QTest::addColumn<bool>("drums");
    QTest::addColumn<QString>("how");
    QTest::addColumn<int>("bank");
    QTest::addColumn<int>("gets");
    const auto row = [](const char* name, Dialect d, int msb, int lsb, int program, bool drums,
                        const char* how, int bank, int gets) {
        QTest::newRow(name) << static_cast<int>(d) << msb << lsb << program << drums << how << bank << gets;
    };
    row("plain program", Dialect::GM, -1, -1, 40, false, "same", 0, 40);
    row("GM has no banks (RP-003)", Dialect::GM, 8, 0, 3, false, "same", 0, 3);
    row("GS variation by MSB", Dialect::GS, 8, 0, 3, false, "same", 8, 3);
    row("GS variation that the font lacks falls to the capital tone", Dialect::GS, 16, 0, 3, false, "near", 0,
        3);
    row("GS variation that only some programs have", Dialect::GS, 8, 0, 40, false, "near", 0, 40);
    row("XG variation by LSB", Dialect::XG, 0, 8, 3, false, "same", 8, 3);
    row("XG MSB alone is no melodic bank", Dialect::XG, 0, 0, 3, false, "same", 0, 3);
    row("GM2 variation by LSB under MSB 121 (RP-024)", Dialect::GM2, 121, 8, 3, false, "same", 8, 3);
    row("no dialect: MSB counts", Dialect::None, 8, 0, 3, false, "same", 8, 3);
    row("missing program: nearest of its family", Dialect::GM, -1, -1, 9, false, "stand-in", 0, 8);
    row("no program", Dialect::GM, -1, -1, -1, false, "stand-in", 0, 0);
    row("kit", Dialect::GM, -1, -1, 0, true, "same", 128, 0);
    row("brush kit", Dialect::GS, 0, 0, 40, true, "same", 128, 40);
    row("kit that the font lacks", Dialect::GS, 0, 0, 44, true, "stand-in", 128, 40);
    row("drums without program", Dialect::GM, -1, -1, -1, true, "near", 128, 0);
}

void TestMatch::findsTheSound() {
    QFETCH(int, dialect);
    QFETCH(int, msb);
    QFETCH(int, lsb);
    QFETCH(int, program);
    QFETCH(bool, drums);
    QFETCH(QString, how);
    QFETCH(int, bank);
    QFETCH(int, gets);
    Ask ask;
    if (msb >= 0) ask.bankMsb = msb;
    if (lsb >= 0) ask.bankLsb = lsb;
    if (program >= 0) ask.program = Program{static_cast<std::uint8_t>(program)};
    ask.drums = drums;
    const Match match = matchAsk(ask, static_cast<Dialect>(dialect), testFont());
    QCOMPARE(QString::fromUtf8(howName(match.how).data()), how);
    QCOMPARE(match.sound->bank, bank);
    QCOMPARE(match.sound->program, gets);
    QVERIFY(!match.why.empty());
}

void TestMatch::byHandSurvivesTheData() {
    const Song song = edits::chooseSound(
        Builder().program(0, 0, 5).note(0, 0, 1, 60).program(0, 1, 80).note(0, 1, 1, 60).song(), 1,
        {"house", 0, 73, "Flute"});
    const PartMatch match = matchPart(song, song.parts[0], testFont());
    QCOMPARE(match.matches.size(), std::size_t{1});
    QCOMPARE(match.first().how, How::ByHand);
    QCOMPARE(match.first().sound->program, 73);
}

void TestMatch::aFontThatIsGoneIsStoodInFor() {
    const Song song = edits::chooseSound(Builder().program(0, 0, 5).note(0, 0, 1, 60).song(), 1,
                                         {"/gone.sf2", 0, 73, "Flute"});
    const Match match = matchPart(song, song.parts[0], testFont()).first();
    QCOMPARE(match.how, How::StandIn);
    QCOMPARE(match.sound->program, 73); // what was chosen tells more than the file, which it overruled
    QVERIFY(match.why.find("Flute") != std::string::npos);
}

void TestMatch::noFontAtAll() {
    const Match match = matchAsk({0, {}, {}, Program{4}, false}, Dialect::GM, Catalogue{});
    QCOMPARE(match.how, How::None);
    QVERIFY(!match.sound);
}

void TestMatch::everyProgramGetsASound() {
    const Catalogue catalogue = testFont();
    for (int program = 0; program < 128; ++program)
        for (const bool drums : {false, true})
            QVERIFY(matchAsk({0, {}, {}, Program{static_cast<std::uint8_t>(program)}, drums}, Dialect::None,
                             catalogue)
                        .sound);
}

void TestMatch::theHouseFontServesWhatTheDefaultLacks() {
    const Catalogue both = scanFonts({HOUSE_FONT, {}, {TEST_FONT}}, TEST_FONT);
    const Match match = matchAsk({0, {}, {}, Program{9}, false}, Dialect::GM, both);
    QCOMPARE(match.how, How::Same);
    QCOMPARE(match.sound->font, std::string(houseFontId));
}

QTEST_APPLESS_MAIN(TestMatch)
#include "tst_match.moc"
