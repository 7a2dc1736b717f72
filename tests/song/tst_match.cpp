#include "support/support.h"

#include "song/match/evidence.h"
#include "song/match/match.h"
#include "song/match/rangefit.h"
#include "song/shape/edits.h"
#include "song/snags/snags.h"

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
    void kitsFallToTheirPublishedParent_data();
    void kitsFallToTheirPublishedParent();
    void drumsByBank();
    void standInsAreNear_data();
    void standInsAreNear();
    void standInsPlayThePartsNotes();
    void evidenceDecidesWhatTheFileLeavesOpen_data();
    void evidenceDecidesWhatTheFileLeavesOpen();
    void whatTheFileSaysIsNotOverruled();
    void rankedSoundsTellReasons();
    void aSongHasItsOwnOrderOfFonts();
    void chosenPluginsAndPortsAreLookedFor();
    void goneFontsAreASnagWithReplacements();
    void goneEffectsAreASnag();
    void notesAreFoldedIntoRange();
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
    row("drums without program", Dialect::GM, -1, -1, -1, true, "same", 128, 0);
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
    QVERIFY(inWords(match.why).find("Flute") != std::string::npos);
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

void TestMatch::kitsFallToTheirPublishedParent_data() {
    // GS and GM2 (RP-024) group kits by eights: variations of a kit follow it; the brush kit comes from the
    // jazz kit; where there is nothing else the standard kit plays. From memory.
    QTest::addColumn<QList<int>>("there"); // kits of the font, 0-based
    QTest::addColumn<int>("asked");
    QTest::addColumn<int>("gets");
    QTest::newRow("room kit") << QList<int>{0, 8} << 8 << 8;
    QTest::newRow("TR-808 kit, of the electronic group") << QList<int>{0, 24} << 25 << 24;
    QTest::newRow("brush, without it jazz") << QList<int>{0, 32} << 40 << 32;
    QTest::newRow("brush, without jazz standard") << QList<int>{0, 48} << 40 << 0;
    QTest::newRow("orchestra, without it standard") << QList<int>{0, 40} << 48 << 0;
    QTest::newRow("standard 2") << QList<int>{0, 8} << 1 << 0;
    QTest::newRow("no standard kit: what there is") << QList<int>{16} << 40 << 16;
}

namespace {

/// A font made of presets without samples; none is ever played.
FontPtr fontOf(const std::string& id, const std::vector<Preset>& presets) {
    SoundFont font;
    font.id = font.name = id;
    font.presets = presets;
    return std::make_shared<const SoundFont>(std::move(font));
}
Preset presetOf(int bank, int program, KeyRange keys = {0, 127}) {
    return {bank, program, std::to_string(bank) + ":" + std::to_string(program), {}, {keys}};
}

} // namespace

void TestMatch::kitsFallToTheirPublishedParent() {
    QFETCH(QList<int>, there);
    QFETCH(int, asked);
    QFETCH(int, gets);
    std::vector<Preset> kits;
    for (const int program : there) kits.push_back(presetOf(kitBank, program));
    const Match match = matchAsk({0, {}, {}, Program{static_cast<std::uint8_t>(asked)}, true}, Dialect::GS,
                                 Catalogue({fontOf("f", kits)}, "f"));
    QVERIFY(match.sound.has_value());
    QCOMPARE(match.sound->program, gets);
    QCOMPARE(match.how, there.contains(asked) ? How::Same : How::StandIn);
}

void TestMatch::drumsByBank() {
    // XG: MSB 126 and 127 are kits on any channel; GM2: MSB 120 (RP-024).
    const Ask xg{0, 127, 0, Program{0}, false}, gm2{0, 120, 0, Program{40}, false};
    QCOMPARE(wishOf(xg, Dialect::XG).bank, kitBank);
    QCOMPARE(wishOf(gm2, Dialect::GM2).bank, kitBank);
    QCOMPARE(matchAsk(xg, Dialect::XG, testFont()).sound->bank, kitBank);
    QCOMPARE(matchAsk(gm2, Dialect::GM2, testFont()).sound->program, 40);
    QCOMPARE(wishOf({0, 64, 0, Program{3}, false}, Dialect::XG).bank, 64); // effects
    QCOMPARE(wishOf({0, 0, 96, Program{3}, false}, Dialect::XG).bank, 96);
    QCOMPARE(fallbacksOf({{}, 96, 3, {}}, Dialect::XG).front().bank, 0);
    // XG: MSB 126 has kits of effects; MSB 0 plays melody, on channel 10 too.
    QCOMPARE(wishOf({0, 126, 0, Program{0}, true}, Dialect::XG).program, 56);
    const char* xgReset = "43 10 4C 00 00 7E 00 F7";
    const auto isDrums = [&](int msb) {
        return Builder()
            .sysex(xgReset)
            .cc(9, 0.1, 0, msb)
            .program(9, 0.1, 0)
            .note(9, 0.2, 1, 60)
            .song()
            .parts[0]
            .source.drums;
    };
    QVERIFY(isDrums(127) && isDrums(126) && !isDrums(0));
    QVERIFY(Builder().sysex(xgReset).note(9, 0.2, 1, 60).song().parts[0].source.drums);
    // GS: a variation that is missing falls back to the sub-capital tone, then to the capital tone.
    const auto gs = fallbacksOf({{}, 11, 3, {}}, Dialect::GS);
    QCOMPARE(gs.size(), std::size_t{2});
    QCOMPARE(gs[0].bank, 8);
    QCOMPARE(gs[1].bank, 0);
}

void TestMatch::standInsAreNear_data() {
    // Common practice, no source: what a player would take where the instrument is missing.
    QTest::addColumn<int>("asked"); // 1-based, as people count
    QTest::addColumn<QList<int>>("accepted");
    QTest::newRow("glockenspiel") << 10 << QList<int>{9, 11, 15};
    QTest::newRow("church organ") << 20 << QList<int>{17, 18, 19, 21};
    QTest::newRow("steel guitar") << 26 << QList<int>{25, 27};
    QTest::newRow("acoustic bass") << 33 << QList<int>{34, 35, 36};
    QTest::newRow("viola") << 42 << QList<int>{41, 43};
    QTest::newRow("tremolo strings") << 45 << QList<int>{49, 51, 50};
    QTest::newRow("string ensemble 2") << 50 << QList<int>{49, 51, 52};
    QTest::newRow("muted trumpet") << 60 << QList<int>{57};
    QTest::newRow("french horn") << 61 << QList<int>{58, 62, 57};
    QTest::newRow("tuba") << 59 << QList<int>{58};
    QTest::newRow("alto sax") << 66 << QList<int>{65, 67};
    QTest::newRow("bassoon") << 71 << QList<int>{69, 70, 72};
    QTest::newRow("piccolo") << 73 << QList<int>{74, 75};
    QTest::newRow("fiddle") << 111 << QList<int>{41};
    QTest::newRow("banjo") << 106 << QList<int>{25, 26, 27, 107, 108, 105};
    QTest::newRow("music box") << 11 << QList<int>{9, 10, 15, 47};
}

void TestMatch::standInsAreNear() {
    QFETCH(int, asked);
    QFETCH(QList<int>, accepted);
    const Program program{static_cast<std::uint8_t>(asked - 1)};
    int nearest = -1;
    for (int other = 0; other < 128; ++other) {
        if (other == program.value) continue;
        const Program candidate{static_cast<std::uint8_t>(other)};
        if (nearest < 0 ||
            farness(program, candidate) < farness(program, Program{static_cast<std::uint8_t>(nearest)}))
            nearest = other;
    }
    QVERIFY2(accepted.contains(nearest + 1), qPrintable(QString::number(nearest + 1)));
    for (int other = 0; other < 128; ++other) // never a sound effect for an instrument
        if (other >= 119) QVERIFY(farness(program, Program{static_cast<std::uint8_t>(other)}) > 20);
}

void TestMatch::standInsPlayThePartsNotes() {
    // A cello is missing; the viola is nearer by kind to its high notes, the bass to its low ones.
    const Catalogue catalogue({fontOf("f", {presetOf(0, 41, {48, 91}), presetOf(0, 43, {24, 55})})}, "f");
    const Ask cello{0, {}, {}, Program{42}, false};
    KeyWeights low{}, high{};
    low[36] = low[38] = low[41] = 10;
    high[62] = high[69] = high[72] = 10;
    QCOMPARE(matchAsk(cello, Dialect::GM, catalogue, &low).sound->program, 43);
    QCOMPARE(matchAsk(cello, Dialect::GM, catalogue, &high).sound->program, 41);
}

void TestMatch::evidenceDecidesWhatTheFileLeavesOpen_data() {
    QTest::addColumn<QString>("name");
    QTest::addColumn<int>("gets"); // 0-based
    QTest::newRow("a name") << QStringLiteral("Timp.") << 47;
    QTest::newRow("a name in German") << QStringLiteral("Klarinette in B") << 71;
    QTest::newRow("a bass by name") << QStringLiteral("Kb.") << 43;
    QTest::newRow("a name that tells nothing: program 1, as the standard has it")
        << QStringLiteral("Part 3") << 0;
}

void TestMatch::evidenceDecidesWhatTheFileLeavesOpen() {
    QFETCH(QString, name);
    QFETCH(int, gets);
    Builder builder(1, 2);
    builder.file.addText(1, 0, meta::trackName, name.toStdString());
    for (int i = 0; i < 8; ++i) builder.note(0, i, 1, 50 + i % 4, 90, 1);
    const Song song = builder.song();
    const PartMatch match = matchPart(song, song.parts[0], fontsAt(HOUSE_FONT));
    QCOMPARE(match.first().sound->program, gets);
    QCOMPARE(match.first().how, How::StandIn);
    QVERIFY2(inWords(match.first().why).find("no program") != std::string::npos,
             inWords(match.first().why).c_str());
}

void TestMatch::whatTheFileSaysIsNotOverruled() {
    Builder builder(1, 2);
    builder.file.addText(1, 0, meta::trackName, "Violin I");
    const Song song = builder.program(0, 0, 73, 1).note(0, 0, 2, 72, 90, 1).song();
    QCOMPARE(matchPart(song, song.parts[0], fontsAt(HOUSE_FONT)).first().sound->program, 73);
    // …but the contradiction is offered to be repaired.
    const auto ranked = rankedSounds(song, song.parts[0], fontsAt(HOUSE_FONT));
    QVERIFY(std::any_of(ranked.begin(), ranked.end(),
                        [](const RankedSound& r) { return r.sound.program == 40; }));
}

void TestMatch::rankedSoundsTellReasons() {
    Builder builder(1, 2);
    builder.file.addText(1, 0, meta::trackName, "Flûte");
    for (int i = 0; i < 12; ++i) builder.note(0, i, 1, 72 + i % 5, 90, 1);
    const Song song = builder.song();
    const auto ranked = rankedSounds(song, song.parts[0], fontsAt(HOUSE_FONT), 5);
    QCOMPARE(ranked.size(), std::size_t{5});
    QCOMPARE(ranked[0].sound.program, 73);
    QVERIFY2(inWords(ranked[0].why).find("name says Flute") != std::string::npos,
             inWords(ranked[0].why).c_str());
    QVERIFY2(inWords(ranked[0].why).find("range") != std::string::npos, inWords(ranked[0].why).c_str());
    for (std::size_t i = 1; i < ranked.size(); ++i) {
        QVERIFY(ranked[i - 1].points >= ranked[i].points);
        QVERIFY(!ranked[i].why.empty());
        QVERIFY(ranked[i].sound != ranked[i - 1].sound);
    }
    QCOMPARE(rankedSounds(song, song.parts[0], fontsAt(HOUSE_FONT), 5), ranked); // the same each time
    // Chords speak against an instrument that plays one note at a time.
    Builder chords(0);
    for (int i = 0; i < 8; ++i)
        for (const int key : {60, 64, 67}) chords.note(0, i, 1, key);
    const Song chordSong = chords.song();
    const auto guesses =
        guessesOf(chordSong, chordSong.parts[0], asksOf(chordSong, chordSong.parts[0]).front(),
                  traitsOf(chordSong, realise(chordSong, chordSong.parts[0])), 128);
    const auto points = [&](int program) {
        return std::find_if(guesses.begin(), guesses.end(),
                            [&](const Guess& g) { return g.program.value == program; })
            ->points;
    };
    QVERIFY(points(0) > points(73));
}

void TestMatch::aSongHasItsOwnOrderOfFonts() {
    const Catalogue both = scanFonts({HOUSE_FONT, {}, {TEST_FONT}}, houseFontId);
    const std::string other = both.fonts()[1]->id;
    Song song = Builder().program(0, 0, 40).note(0, 0, 1, 60).song();
    QCOMPARE(matchSong(song, both)[0].first().sound->font, std::string(houseFontId));
    song = edits::setFontOrder(song, {other});
    QCOMPARE(matchSong(song, both)[0].first().sound->font, other);
    song = edits::chooseSound(song, 1, {houseFontId, 0, 41, "Viola"});
    QCOMPARE(matchSong(song, both)[0].first().sound->font, std::string(houseFontId)); // by hand stays
}

void TestMatch::chosenPluginsAndPortsAreLookedFor() {
    const Song song = Builder().program(0, 0, 40).note(0, 0, 1, 60).song();
    const SoundRef plugin{"urn:x", 0, 0, "X", SoundKind::Plugin, 0}, port{"p", 0, 3, "P", SoundKind::Port, 2};
    const Catalogue without = testFont();
    const Catalogue with =
        without.withPlugins({{"urn:x", "Ex", "", true}}, {}).withPorts({{"p", "Port", false}});
    for (const SoundRef& chosen : {plugin, port}) {
        const Song by = edits::chooseSound(song, 1, chosen);
        QCOMPARE(matchSong(by, with)[0].first().how, How::ByHand);
        QVERIFY(*matchSong(by, with)[0].first().sound == chosen);
        QCOMPARE(matchSong(by, without)[0].first().how, How::StandIn);
        QCOMPARE(matchSong(by, without)[0].first().sound->program, 40); // as the file asks
    }
    // An outside instrument is told before anything is written.
    const Song by = edits::chooseSound(song, 1, port);
    const auto snags = findSnags(by, with);
    QVERIFY(std::any_of(snags.begin(), snags.end(), [](const Snag& s) { return s.kind == "not-rendered"; }));
}

void TestMatch::goneFontsAreASnagWithReplacements() {
    Song song = Builder().program(0, 0, 40).note(0, 0, 1, 60).song();
    song = edits::chooseSound(song, 1, {"/gone.sf2", 0, 73, "Flute"});
    song = edits::addLayer(song, 1, {"/gone.sf2", 0, 40, "Violin"});
    const Catalogue catalogue = testFont();
    const auto snags = findSnags(song, catalogue);
    const auto gone =
        std::find_if(snags.begin(), snags.end(), [](const Snag& s) { return s.kind == "font-gone"; });
    QVERIFY(gone != snags.end());
    QCOMPARE(gone->fixes.size(), std::size_t{2}); // the house font, or leave it
    const Song repaired = gone->fixes[0].apply(song);
    QCOMPARE(repaired.parts[0].sound.chosen->font, std::string(houseFontId));
    QCOMPARE(repaired.parts[0].sound.layers[0].sound.font, std::string(houseFontId));
    QCOMPARE(matchSong(repaired, catalogue)[0].first().how, How::ByHand);
}

void TestMatch::goneEffectsAreASnag() {
    Song song = Builder().program(0, 0, 40).note(0, 0, 1, 60).song();
    song = edits::setEffects(song, 1, {{"urn:gone", "Echo", {}, true}, {"urn:there", "Tone", {}, true}});
    song = edits::setEffects(song, 0, {{"urn:gone", "Echo", {}, true}});
    const auto told = [&](const Song& of, const Catalogue& catalogue) {
        const auto snags = findSnags(of, catalogue);
        return std::count_if(snags.begin(), snags.end(),
                             [](const Snag& s) { return s.kind == "effect-gone"; });
    };
    QCOMPARE(told(song, testFont()), 0); // plug-ins were not looked for yet
    const Catalogue catalogue = testFont().withPlugins({{"urn:there", "Tone", "", false}}, {});
    QCOMPARE(told(song, catalogue), 2);
    for (const Snag& snag : findSnags(song, catalogue))
        if (snag.kind == "effect-gone") song = snag.fixes[0].apply(song);
    QCOMPARE(told(song, catalogue), 0);
    QCOMPARE(song.parts[0].mix.effects.size(), std::size_t{1});
    QVERIFY(song.effects.empty());
}

void TestMatch::notesAreFoldedIntoRange() {
    QCOMPARE(foldedKey(Key{40}, {52, 84}), Key{52});
    QCOMPARE(foldedKey(Key{96}, {52, 84}), Key{84});
    QCOMPARE(foldedKey(Key{60}, {52, 84}), Key{60});
    QCOMPARE(foldedKey(Key{55}, {48, 50}), Key{55}); // no octave of it lies there: it stays
    Song song = Builder().program(0, 0, 56).note(0, 0, 1, 40).note(0, 1, 1, 60).note(0, 2, 1, 100).song();
    song = edits::foldInto(song, 1, KeyRange{52, 84});
    const HeardPart line = realise(song, song.parts[0]);
    QCOMPARE(int(line.notes[0].key.value), 52);
    QCOMPARE(int(line.notes[1].key.value), 60);
    QCOMPARE(int(line.notes[2].key.value), 76);
    QCOMPARE(realise(edits::foldInto(song, 1, std::nullopt), song.parts[0]).notes.size(), std::size_t{3});
    // The snag of notes out of range offers both: all by octaves, or these notes alone.
    const Preset trumpet = presetOf(0, 56, {52, 84});
    const Catalogue catalogue({fontOf("f", {trumpet})}, "f");
    const Song open = edits::foldInto(song, 1, std::nullopt);
    const auto snags = findSnags(open, catalogue);
    const auto snag =
        std::find_if(snags.begin(), snags.end(), [](const Snag& s) { return s.kind == "out-of-range"; });
    QVERIFY(snag != snags.end());
    bool folds = false;
    for (const Fix& fix : snag->fixes)
        folds = folds || fix.apply(open).parts[0].recipe.folded == KeyRange{52, 84};
    QVERIFY(folds);
}

QTEST_APPLESS_MAIN(TestMatch)
#include "tst_match.moc"
