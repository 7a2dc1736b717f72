/// Names of parts as people and programs write them, against the instruments they mean. Common practice, no
/// source.
#include "instrumentnames.h"
#include "support/support.h"

#include "midi/gm.h"
#include "song/match/names.h"
#include "song/match/shelf.h"

using namespace support;

class TestInstrumentNames : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void namesOfSixteenLanguages();
    void generalMidiNamesAlwaysFit();
    void drumsAreDrums();
    void otherNamesTellNothing();
    void theShelfIsSearchedInAnyLanguage();
};

void TestInstrumentNames::namesOfSixteenLanguages() {
    struct Rate {
        int all = 0, hit = 0, wrong = 0;
    };
    std::map<std::string, Rate> rates;
    Rate total;
    for (const InstrumentNames& line : instrumentNames)
        for (const QString& name : QString::fromUtf8(line.names).split(u';')) {
            const NameReading told = readName(name.toStdString());
            const int program = told.drums ? -1 : (told.program ? told.program->value : -2);
            const bool hit = program == line.program;
            for (Rate* rate : {&rates[line.language], &total}) {
                ++rate->all;
                rate->hit += hit;
                rate->wrong += !hit && program != -2;
            }
            if (!hit)
                qInfo("%s: %s → %d, not %d", line.language, qUtf8Printable(name), program, line.program);
        }
    for (const auto& [language, rate] : rates)
        qInfo("%-24s %3d of %3d names understood, %d wrong", language.c_str(), rate.hit, rate.all,
              rate.wrong);
    qInfo("all: %d of %d, %d wrong", total.hit, total.all, total.wrong);
    QCOMPARE(rates.size(), std::size_t{17});
    QVERIFY(total.hit * 100 >= total.all * 98);
    QVERIFY(total.wrong * 100 <= total.all);
    for (const auto& [language, rate] : rates) QVERIFY2(rate.hit * 100 >= rate.all * 94, language.c_str());
}

// RP-003: the names of General MIDI's programs, as they are and as people write them in a file's track names.
void TestInstrumentNames::generalMidiNamesAlwaysFit() {
    for (int number = 0; number < 128; ++number) {
        const std::string name(programName(Program{static_cast<std::uint8_t>(number)}));
        const auto told = programFromName(name);
        QVERIFY2(told && told->value == number, name.c_str());
        QVERIFY2(programFromName(QString::fromStdString(name).toUpper().toStdString()) == told, name.c_str());
    }
}

void TestInstrumentNames::drumsAreDrums() {
    for (const char* name :
         {"Schlagzeug", "Drums", "Kick", "Perc. 2", "Batterie", "Hi-Hat", "Bass Drum", "Slagwerk"}) {
        QVERIFY2(namesDrums(name), name);
        QVERIFY2(!programFromName(name), name);
    }
    QVERIFY(!namesDrums("Steel Drums"));
}

void TestInstrumentNames::otherNamesTellNothing() {
    for (const char* name : {"",
                             "Track 1",
                             "MIDI out",
                             "Part 3",
                             "untitled",
                             "1234",
                             "Refrain",
                             "Copyright",
                             "Anna Harper",
                             "by Carlos Violante",
                             "Chantal",
                             "Organizer",
                             "Drumheller march",
                             "Melody",
                             "Chords",
                             "Harmony",
                             "Rhythm",
                             "Backing",
                             "Accompaniment",
                             "Begleitung",
                             "Luther",
                             "Hornby",
                             "Bassett",
                             "Leghorn",
                             "Anchor",
                             "Cawthorn",
                             "Fluteman & Sons Ltd., all rights reserved by them",
                             "Spring",
                             "Intro",
                             "Verse",
                             "Left hand",
                             "Right hand",
                             "Merged Track",
                             "MIDI Ch. 2",
                             "Staff-1"})
        QVERIFY2(!programFromName(name), name);
}

void TestInstrumentNames::theShelfIsSearchedInAnyLanguage() {
    const auto shelf = shelfOf(fontsAt(HOUSE_FONT));
    const auto found = [&](const char* search) {
        std::set<int> programs;
        for (const ShelfSound& sound : shelf)
            if (ShelfSearch(search).fit(sound) != Fit::No && sound.family != kitFamily)
                programs.insert(sound.sound.program);
        return programs;
    };
    QVERIFY(found("Flöte").contains(73));
    QVERIFY(found("flote").contains(73));
    QVERIFY(found("Posaune").contains(57));
    QCOMPARE(found("Orgel"), (std::set<int>{16, 17, 18, 19, 20, 21, 22, 23})); // the whole family
    QCOMPARE(found("Kirchenorgel"), std::set<int>{19});
    // Words that a name has go before what they mean.
    const ShelfSound plugin{{"urn:x", 0, 0, "MDA Piano", SoundKind::Plugin, 0}, "MDA", pluginFamily};
    const ShelfSound grand{{"font", 0, 0, "Grand", SoundKind::Preset, 0}, "Font", 0};
    QVERIFY(ShelfSearch("piano mda").fit(plugin) == Fit::Literal);
    QVERIFY(ShelfSearch("piano mda").fit(grand) == Fit::Meant);
    QVERIFY(ShelfSearch("Posaune").fit(plugin) == Fit::No);
    QVERIFY(found("strings").contains(48));
    QVERIFY(found("0:42").contains(42));
    QVERIFY(found("house viol").contains(40)); // words of font and name
    QVERIFY(found("no such sound").empty());
    QCOMPARE(found("").size(), std::size_t{128});
    const auto kits = std::count_if(shelf.begin(), shelf.end(), [](const ShelfSound& s) {
        return s.family == kitFamily && ShelfSearch("Schlagzeug").fit(s) == Fit::Meant;
    });
    QVERIFY(kits > 0);
}

QTEST_APPLESS_MAIN(TestInstrumentNames)
#include "tst_instrumentnames.moc"
