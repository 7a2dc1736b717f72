#include "support/support.h"

#include <fluidsynth.h>
#include <random>

using namespace support;

namespace {

using Numbers = std::set<std::tuple<int, int, std::string>>;

/// The presets that libfluidsynth lists.
Numbers listedByTheSynth(const char* path) {
    fluid_settings_t* settings = new_fluid_settings();
    fluid_settings_setint(settings, "synth.dynamic-sample-loading", 1);
    fluid_synth_t* synth = new_fluid_synth(settings);
    const int id = fluid_synth_sfload(synth, path, 0);
    Numbers found;
    fluid_sfont_t* font = fluid_synth_get_sfont_by_id(synth, id);
    if (font) fluid_sfont_iteration_start(font);
    while (fluid_preset_t* preset = font ? fluid_sfont_iteration_next(font) : nullptr)
        found.insert(
            {fluid_preset_get_banknum(preset), fluid_preset_get_num(preset), fluid_preset_get_name(preset)});
    delete_fluid_synth(synth);
    delete_fluid_settings(settings);
    return found;
}

} // namespace

class TestSoundFont : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void listsWhatTheSynthLists_data();
    void listsWhatTheSynthLists();
    void givesKeyRanges();
    void houseFontIsWholeAndSmall();
    void damagedFontsNeverCrash();
    void refusesOtherFiles();
    void catalogueTakesEachFontOnce();
};

void TestSoundFont::listsWhatTheSynthLists_data() {
    QTest::addColumn<QString>("path");
    QTest::newRow("test font") << QStringLiteral(TEST_FONT);
    QTest::newRow("house font") << QStringLiteral(HOUSE_FONT);
    QTest::newRow("a large real one (Debian fluid-soundfont-gm)")
        << QStringLiteral("/usr/share/sounds/sf2/FluidR3_GM.sf2");
}

void TestSoundFont::listsWhatTheSynthLists() {
    QFETCH(QString, path);
    QVERIFY2(QFile::exists(path), "install the package that run-tests names");
    const auto font = readSoundFont(path.toStdString());
    QVERIFY(font.ok());
    Numbers ours;
    for (const Preset& preset : font.value().presets) ours.insert({preset.bank, preset.program, preset.name});
    QCOMPARE(ours, listedByTheSynth(qPrintable(path)));
    QVERIFY(ours.size() >= 130);
}

void TestSoundFont::givesKeyRanges() {
    const auto font = readSoundFont(TEST_FONT).value();
    QCOMPARE(font.find(0, 0)->ranges, (std::vector<KeyRange>{{0, 127}}));
    QCOMPARE(font.find(0, 56)->ranges, (std::vector<KeyRange>{{52, 84}})); // two zones that touch
    QCOMPARE(font.find(128, 0)->ranges, (std::vector<KeyRange>{{35, 81}}));
    QVERIFY(font.find(0, 9) == nullptr);
    QVERIFY(!font.find(0, 56)->plays(Key{51}));
    QVERIFY(font.find(0, 56)->plays(Key{84}));
    QCOMPARE(font.name, std::string("Test font"));
}

void TestSoundFont::houseFontIsWholeAndSmall() {
    const auto font = readSoundFont(HOUSE_FONT).value();
    QVERIFY(font.size < 8000000);
    for (int program = 0; program < 128; ++program)
        QVERIFY(font.find(0, program) && !font.find(0, program)->ranges.empty());
    for (const int kit : {0, 40}) // RP-003: percussion keys 35–81
        QCOMPARE(font.find(128, kit)->ranges, (std::vector<KeyRange>{{35, 81}}));
}

void TestSoundFont::damagedFontsNeverCrash() {
    const Bytes whole = fileBytes(QStringLiteral(TEST_FONT));
    QTemporaryDir folder;
    std::mt19937 random(5);
    for (int round = 0; round < 150; ++round) {
        Bytes bytes = whole;
        // The lists stand at the end: damage is aimed there.
        const std::size_t lists = bytes.size() - 40000;
        for (int i = 0; i < 30; ++i) bytes[lists + random() % 40000] = static_cast<std::uint8_t>(random());
        if (round % 3 == 0) bytes.resize(lists + random() % 40000);
        const QString path = folder.filePath(QStringLiteral("damaged.sf2"));
        QFile file(path);
        QVERIFY(file.open(QIODevice::WriteOnly | QIODevice::Truncate));
        file.write(reinterpret_cast<const char*>(bytes.data()), static_cast<qint64>(bytes.size()));
        file.close();
        const auto font = readSoundFont(path.toStdString());
        if (!font) continue;
        for (const Preset& preset : font.value().presets)
            for (const KeyRange& range : preset.ranges)
                QVERIFY(range.lowest >= 0 && range.lowest <= range.highest && range.highest <= 127);
    }
}

void TestSoundFont::refusesOtherFiles() {
    const auto midi = readSoundFont(DEMO_FOLDER "/lantern_quay.mid");
    QVERIFY(!midi.ok());
    QVERIFY(!midi.error().whatNow.empty());
    QVERIFY(!readSoundFont("/nowhere/at/all.sf2").ok());
    QVERIFY(!readSoundFont("/tmp").ok());
}

void TestSoundFont::catalogueTakesEachFontOnce() {
    QTemporaryDir folder;
    QFile::link(QStringLiteral(TEST_FONT), folder.filePath(QStringLiteral("one.sf2")));
    QFile::link(QStringLiteral(TEST_FONT), folder.filePath(QStringLiteral("two.SF2")));
    QFile broken(folder.filePath(QStringLiteral("broken.sf2")));
    QVERIFY(broken.open(QIODevice::WriteOnly));
    broken.write("not a font");
    broken.close();
    std::vector<FontProblem> problems;
    const Catalogue catalogue =
        scanFonts({HOUSE_FONT, {folder.path().toStdString(), "/nowhere"}, {}}, TEST_FONT, &problems);
    QCOMPARE(catalogue.fonts().size(), std::size_t{2});
    QCOMPARE(problems.size(), std::size_t{1});
    QCOMPARE(catalogue.defaultFont()->name, std::string("Test font"));
    QCOMPARE(catalogue.order().size(), std::size_t{2}); // then the house font
    QCOMPARE(catalogue.withDefault(houseFontId).defaultFont()->id, std::string(houseFontId));
}

QTEST_APPLESS_MAIN(TestSoundFont)
#include "tst_soundfont.moc"
