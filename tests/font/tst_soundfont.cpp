#include "support/fontbytes.h"
#include "support/support.h"

#include <QDir>
#include <QTemporaryDir>
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
    void oddChunksAreReadWithAndWithoutAByteAfterThem();
    void readsWhatAnotherReaderReads();
    void soundsInsideItsRangesAndNowhereElse();
    void theHouseFontPlaysEveryKey();
    void tellsRootKeysAndTuning();
    void namesTheKeysOfKits();
    void hatsExcludeEachOther();
    void tellsVersionsAndDamage();
    void givesKeyRanges();
    void houseFontIsWholeAndSmall();
    void damagedFontsNeverCrash();
    void refusesOtherFiles();
    void catalogueTakesEachFontOnce();
    void scansOnlyWhatChanged();
    void findsAFontThatMoved();
    void fontsServeInOrder();
    void readingALargeFontTakesNoTime();
};

void TestSoundFont::listsWhatTheSynthLists_data() {
    QTest::addColumn<QString>("path");
    QTest::newRow("test font") << QStringLiteral(TEST_FONT);
    QTest::newRow("house font") << QStringLiteral(HOUSE_FONT);
    QTest::newRow("a large real one (Debian fluid-soundfont-gm)")
        << QStringLiteral("/usr/share/sounds/sf2/FluidR3_GM.sf2");
    // All that the machine has: every soundfont of Debian's packages where they are installed.
    for (const char* folder : {"/usr/share/sounds/sf2", "/usr/share/sounds/sf3"}) {
        const QDir dir(QString::fromUtf8(folder));
        for (const QString& name :
             dir.entryList({QStringLiteral("*.sf2"), QStringLiteral("*.sf3")}, QDir::Files))
            QTest::newRow(qPrintable(name)) << dir.filePath(name);
    }
}

/// Fonts of compressed samples come with odd chunks and nothing after them (fluidr3mono-gm-soundfont of
/// Debian 12).
void TestSoundFont::oddChunksAreReadWithAndWithoutAByteAfterThem() {
    QTemporaryDir folder;
    const SoundFont plain = readSoundFont(TEST_FONT).value();
    const Bytes font = fileBytes(QStringLiteral(TEST_FONT));
    const QByteArray name("An odd name, cut");
    for (const bool padded : {true, false})
        for (const std::size_t length :
             {std::size_t{1}, std::size_t{3}, std::size_t{200001}, std::size_t{200002}}) {
            Bytes samples(length, 'z'); // letters, as if a chunk began anywhere
            Bytes odd = withChunk(font, "sdta", "smpl", samples, padded);
            odd = withChunk(odd, "INFO", "INAM", Bytes(name.begin(), name.end() - 1), padded);
            QVERIFY(!odd.empty());
            const QString path = folder.filePath(QStringLiteral("odd.sf2"));
            QFile file(path);
            QVERIFY(file.open(QIODevice::WriteOnly));
            file.write(reinterpret_cast<const char*>(odd.data()), static_cast<qint64>(odd.size()));
            file.close();
            const auto read = readSoundFont(path.toStdString());
            QVERIFY2(read.ok(), qPrintable(QString::number(length)));
            QCOMPARE(read.value().name, std::string("An odd name, cu"));
            QCOMPARE(read.value().presets.size(), plain.presets.size());
            for (std::size_t i = 0; i < plain.presets.size(); ++i)
                QCOMPARE(read.value().presets[i].name, plain.presets[i].name);
        }
}

void TestSoundFont::listsWhatTheSynthLists() {
    QFETCH(QString, path);
    QVERIFY2(QFile::exists(path), "install the package that run-tests names");
    const auto font = readSoundFont(path.toStdString());
    QVERIFY(font.ok());
    Numbers ours;
    for (const Preset& preset : font.value().presets) ours.insert({preset.bank, preset.program, preset.name});
    QCOMPARE(ours, listedByTheSynth(qPrintable(path)));
    QVERIFY(!ours.empty()); // kits of one preset among them
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

constexpr const char* largeFont = "/usr/share/sounds/sf2/FluidR3_GM.sf2";

namespace {

/// FNV-1a, 32 bits, as hexadecimal digits.
QString digestOf(const std::string& text) {
    std::uint32_t hash = 2166136261U;
    for (const char c : text) hash = (hash ^ static_cast<std::uint8_t>(c)) * 16777619U;
    return QStringLiteral("%1").arg(hash, 8, 16, QLatin1Char('0'));
}

/// A preset as tests/outside/read-font.cjs prints it.
QString lineOf(const SoundFont& font, const Preset& preset) {
    std::string names;
    for (std::uint8_t key = 0; key < 128; ++key)
        if (const auto sound = soundOn(font, preset, Key{key}))
            names += std::to_string(key) + ":" + sound->instrument + "|" + sound->sample + "\n";
    QStringList ranges;
    for (const KeyRange& range : preset.ranges)
        ranges << QStringLiteral("%1-%2").arg(range.lowest).arg(range.highest);
    return QStringLiteral("%1\t%2\t%3\t%4\t%5")
        .arg(preset.bank)
        .arg(preset.program)
        .arg(QString::fromStdString(preset.name), ranges.join(QLatin1Char(',')), digestOf(names));
}

} // namespace

void TestSoundFont::readsWhatAnotherReaderReads() {
    // Source: the npm package soundfont2 reading Debian's fluid-soundfont-gm (tests/outside/read-font.cjs).
    QFile expected(QStringLiteral(TEST_SOURCES "/outside/fluidr3.txt"));
    QVERIFY(expected.open(QIODevice::ReadOnly));
    const QStringList lines =
        QString::fromUtf8(expected.readAll()).split(QLatin1Char('\n'), Qt::SkipEmptyParts);
    const auto font = readSoundFont(largeFont);
    QVERIFY(font.ok());
    QCOMPARE(font.value().presets.size(), static_cast<std::size_t>(lines.size()));
    for (qsizetype i = 0; i < lines.size(); ++i)
        QCOMPARE(lineOf(font.value(), font.value().presets[static_cast<std::size_t>(i)]), lines[i]);
}

namespace {

/// A soundfont by ear: whether libfluidsynth makes any sound of a key.
class Ear {
  public:
    explicit Ear(const char* path) {
        fluid_settings_setint(m_settings, "synth.dynamic-sample-loading", 1);
        fluid_settings_setint(m_settings, "synth.reverb.active", 0);
        fluid_settings_setint(m_settings, "synth.chorus.active", 0);
        fluid_settings_setnum(m_settings, "synth.sample-rate", 22050);
        m_synth = new_fluid_synth(m_settings);
        m_font = fluid_synth_sfload(m_synth, path, 0);
    }
    ~Ear() {
        delete_fluid_synth(m_synth);
        delete_fluid_settings(m_settings);
    }
    Ear(const Ear&) = delete;
    Ear& operator=(const Ear&) = delete;
    bool hears(const Preset& preset, int key) {
        fluid_synth_all_sounds_off(m_synth, 0);
        fluid_synth_program_select(m_synth, 0, m_font, preset.bank, preset.program);
        const bool started = fluid_synth_noteon(m_synth, 0, key, 100) == FLUID_OK;
        const int voices = fluid_synth_get_active_voice_count(m_synth);
        std::vector<float> left(2048), right(2048);
        float peak = 0;
        for (int block = 0; started && voices > 0 && block < 40 && peak < 1e-5F; ++block) {
            fluid_synth_write_float(m_synth, 2048, left.data(), 0, 1, right.data(), 0, 1);
            for (const float sample : left) peak = std::max(peak, std::abs(sample));
            for (const float sample : right) peak = std::max(peak, std::abs(sample));
        }
        return peak >= 1e-5F;
    }

  private:
    fluid_settings_t* m_settings = new_fluid_settings();
    fluid_synth_t* m_synth = nullptr;
    int m_font = -1;
};

} // namespace

void TestSoundFont::theHouseFontPlaysEveryKey() {
    const auto font = readSoundFont(HOUSE_FONT);
    QVERIFY(font.ok());
    Ear ear(HOUSE_FONT);
    int programs = 0;
    for (const Preset& preset : font.value().presets) {
        if (preset.isKit()) continue;
        ++programs;
        for (std::uint8_t key = 0; key < 128; ++key) QVERIFY2(preset.plays(Key{key}), preset.name.c_str());
        for (const int key : {0, 21, 40, 60, 84, 108, 127})
            QVERIFY2(
                ear.hears(preset, key),
                qPrintable(QStringLiteral("%1, key %2").arg(QString::fromStdString(preset.name)).arg(key)));
    }
    QCOMPARE(programs, 128);
}

void TestSoundFont::soundsInsideItsRangesAndNowhereElse() {
    // By ear: libfluidsynth plays keys within, at the edges of and outside the ranges of every preset.
    const auto font = readSoundFont(largeFont);
    Ear ear(largeFont);
    int inside = 0, outside = 0;
    for (const Preset& preset : font.value().presets) {
        std::set<int> keys = {preset.span().lowest - 1, preset.span().lowest, preset.span().highest,
                              preset.span().highest + 1};
        for (const int key : keys) {
            if (key < 0 || key > 127) continue;
            const bool expected = preset.plays(Key{static_cast<std::uint8_t>(key)});
            // A key may hold a sample of silence; one that sounds where none should be cannot be excused.
            const bool heard = ear.hears(preset, key);
            QVERIFY2(heard == expected, qPrintable(QStringLiteral("%1:%2 %3, key %4")
                                                       .arg(preset.bank)
                                                       .arg(preset.program)
                                                       .arg(QString::fromStdString(preset.name))
                                                       .arg(key)));
            ++(expected ? inside : outside);
        }
    }
    QVERIFY2(inside > 300 && outside > 10,
             qPrintable(QStringLiteral("%1 in, %2 out").arg(inside).arg(outside)));
}

void TestSoundFont::tellsRootKeysAndTuning() {
    // SoundFont 2.04, 7.10 and 8.1.2: root key of the sample or generator 58; cents from 51, 52 and the
    // sample. The pitch heard at a key is root·2^((key − root)/12 + cents/1200): the test font's tones are in
    // tune.
    const auto font = readSoundFont(TEST_FONT);
    QVERIFY(font.ok());
    int zones = 0;
    for (const Preset& preset : font.value().presets)
        for (const Zone& zone : preset.zones) {
            QVERIFY(zone.rootKey < 128);
            QVERIFY(std::abs(zone.cents) < 100);
            QVERIFY(zone.sample < font.value().samples.size());
            QVERIFY(zone.instrument < font.value().instruments.size());
            ++zones;
        }
    QVERIFY(zones > 100);
}

void TestSoundFont::hatsExcludeEachOther() {
    // RP-003: closed, pedal and open hi-hat (42, 44, 46) end each other, which a font says by an exclusive
    // class (SoundFont 2.04, 8.1.2, generator 57); bass drum and snare (36, 38) end nothing.
    const auto font = readSoundFont(largeFont);
    const Preset* kit = font.value().find(kitBank, 0);
    QVERIFY(kit);
    const auto classOf = [&](int key) {
        std::set<int> classes;
        for (const Zone& zone : kit->zones)
            if (zone.keys.lowest <= key && key <= zone.keys.highest) classes.insert(zone.exclusiveClass);
        return classes;
    };
    QCOMPARE(classOf(42).size(), std::size_t{1});
    QVERIFY(!classOf(42).contains(0));
    QVERIFY(classOf(42) == classOf(44) && classOf(42) == classOf(46));
    QCOMPARE(classOf(36), std::set<int>{0});
    QCOMPARE(classOf(38), std::set<int>{0});
}

void TestSoundFont::namesTheKeysOfKits() {
    const auto font = readSoundFont(largeFont);
    const Preset* kit = font.value().find(kitBank, 0);
    QVERIFY(kit);
    // RP-003: 36 bass drum, 38 snare, 42 closed hi-hat, 49 crash, 56 cowbell; the font's own words for them.
    const std::pair<int, const char*> words[] = {
        {36, "kick"}, {38, "snare"}, {42, "hat"}, {49, "crash"}, {56, "cow"}};
    for (const auto& [key, word] : words) {
        const auto sound = soundOn(font.value(), *kit, Key{static_cast<std::uint8_t>(key)});
        QVERIFY(sound.has_value());
        const QString all = QString::fromStdString(sound->sample + " " + sound->instrument).toLower();
        QVERIFY2(all.contains(QLatin1String(word)), qPrintable(all));
    }
    QVERIFY(!soundOn(font.value(), *kit, Key{0}));
    QCOMPARE(keySoundName({"Kit", "Snare_Tight(L)"}), std::string("Snare Tight"));
    QCOMPARE(keySoundName({"Kit", "Ride Bell R"}), std::string("Ride Bell"));
    QCOMPARE(keySoundName({"Kit", ""}), std::string("Kit"));
}

void TestSoundFont::tellsVersionsAndDamage() {
    const auto whole = readSoundFont(TEST_FONT);
    QVERIFY(whole.value().damage.empty());
    QVERIFY(whole.value().version.starts_with("2."));
    QVERIFY(!whole.value().compressed);
    QVERIFY(whole.value().digest != 0);
    QFile file(QStringLiteral(TEST_FONT));
    QVERIFY(file.open(QIODevice::ReadOnly));
    QByteArray bytes = file.readAll();
    QTemporaryDir folder;
    const auto read = [&](const QByteArray& content) {
        QFile out(folder.filePath(QStringLiteral("x.sf2")));
        out.open(QIODevice::WriteOnly);
        out.write(content);
        out.close();
        return readSoundFont(folder.filePath(QStringLiteral("x.sf2")).toStdString());
    };
    // The list of samples cut in the middle: presets whose samples are still there sound, the rest is told.
    const auto lists = bytes.lastIndexOf("shdr");
    QVERIFY(lists > 0);
    QByteArray shorter = bytes.left(lists + 8 + 46 * 20 + 7);
    const auto cut = read(shorter);
    QVERIFY(cut.ok());
    QVERIFY(!cut.value().damage.empty());
    QCOMPARE(cut.value().presets.size(), whole.value().presets.size());
    const auto sounding = std::count_if(cut.value().presets.begin(), cut.value().presets.end(),
                                        [](const Preset& p) { return !p.ranges.empty(); });
    QVERIFY(sounding > 0 && sounding < static_cast<std::ptrdiff_t>(cut.value().presets.size()));
    // SF3 marks compressed samples by a bit of their type.
    QByteArray compressed = bytes;
    compressed[lists + 8 + 44] = static_cast<char>(compressed[lists + 8 + 44] | 0x10);
    QVERIFY(read(compressed).value().compressed);
}

void TestSoundFont::scansOnlyWhatChanged() {
    QTemporaryDir folder;
    const QString path = folder.filePath(QStringLiteral("one.sf2"));
    QVERIFY(QFile::copy(QStringLiteral(TEST_FONT), path));
    FontScanner scanner;
    const FontFolders where{HOUSE_FONT, {folder.path().toStdString()}, {}};
    QCOMPARE(scanner.scan(where, {}).fonts().size(), std::size_t{2});
    QCOMPARE(scanner.filesRead(), 2);
    const Catalogue again = scanner.scan(where, {});
    QCOMPARE(scanner.filesRead(), 2); // nothing has changed
    QCOMPARE(again.fonts().size(), std::size_t{2});
    QFile file(path);
    QVERIFY(file.open(QIODevice::Append));
    file.write("more");
    file.close();
    (void)scanner.scan(where, {});
    QCOMPARE(scanner.filesRead(), 3);
    QVERIFY(QFile::remove(path));
    QCOMPARE(scanner.scan(where, {}).fonts().size(), std::size_t{1});
}

void TestSoundFont::findsAFontThatMoved() {
    const auto font = readSoundFont(TEST_FONT);
    FontMemory remembered = memoryOf(font.value());
    remembered.id = "/elsewhere/old name.sf2";
    const Catalogue catalogue = fontsAt(TEST_FONT);
    QVERIFY(!catalogue.font(remembered.id));
    const Catalogue found = catalogue.withMoved({remembered});
    QVERIFY(found.font(remembered.id));
    QVERIFY(found.find({remembered.id, 0, 0, {}}));
    remembered.digest += 1;
    QVERIFY(!catalogue.withMoved({remembered}).font(remembered.id)); // another font
}

void TestSoundFont::fontsServeInOrder() {
    const Catalogue both = scanFonts({HOUSE_FONT, {}, {TEST_FONT}}, houseFontId);
    const std::string other = both.fonts()[1]->id;
    QCOMPARE(both.order().size(), std::size_t{1}); // the house font, chosen, and nothing after it
    QCOMPARE(both.withOrder({other}).order()[0]->id, other);
    QCOMPARE(both.withOrder({other}).order()[1]->id,
             std::string(houseFontId)); // always last, so that all sounds
    QCOMPARE(both.withOrder({"gone", other}).defaultFont()->id, other);
    QCOMPARE(both.withOrder({}).defaultFont()->id, std::string(houseFontId)); // no wish, no change
    QVERIFY(!both.without(other).font(other));
}

void TestSoundFont::readingALargeFontTakesNoTime() {
    // No timing: the samples, all but a few per cent of the file, are not even mapped into memory when it is
    // read.
    const auto before = QFileInfo(QStringLiteral("/proc/self/status")).exists();
    QVERIFY(before);
    const auto resident = [] {
        QFile status(QStringLiteral("/proc/self/statm"));
        status.open(QIODevice::ReadOnly);
        return status.readAll().split(' ')[1].toLongLong() * 4096;
    };
    const qint64 start = resident();
    const auto font = readSoundFont(largeFont);
    QVERIFY(font.value().size > 140'000'000);
    QVERIFY2(resident() - start < 20'000'000, qPrintable(QString::number(resident() - start)));
}

QTEST_APPLESS_MAIN(TestSoundFont)
#include "tst_soundfont.moc"
