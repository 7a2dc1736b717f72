/// Names of parts as people and programs write them, against the instruments they mean. Common practice, no
/// source.
#include "support/support.h"

#include "midi/gm.h"
#include "song/match/names.h"
#include "song/match/shelf.h"

using namespace support;

class TestInstrumentNames : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void namesTellPrograms_data();
    void namesTellPrograms();
    void drumsAreDrums();
    void otherNamesTellNothing();
    void theShelfIsSearchedInAnyLanguage();
};

void TestInstrumentNames::namesTellPrograms_data() {
    QTest::addColumn<QString>("program");
    const std::pair<const char*, const char*> table[] = {
        // strings
        {"Violin I", "Violin"},
        {"Vln. II", "Violin"},
        {"VL 1", "Violin"},
        {"Geige", "Violin"},
        {"Violine 2", "Violin"},
        {"Violon", "Violin"},
        {"Violino primo", "Violin"},
        {"Viola", "Viola"},
        {"Vla.", "Viola"},
        {"Bratsche", "Viola"},
        {"Violoncello", "Cello"},
        {"Vc.", "Cello"},
        {"Violoncelle", "Cello"},
        {"Kb.", "Contrabass"},
        {"Kontrabass", "Contrabass"},
        {"Contrebasse", "Contrabass"},
        {"Double Bass", "Contrabass"},
        {"Contrabajo", "Contrabass"},
        {"Pizz. Strings", "Pizzicato Strings"},
        {"Harfe", "Orchestral Harp"},
        {"Harpe", "Orchestral Harp"},
        {"Arpa", "Orchestral Harp"},
        {"Timp.", "Timpani"},
        {"Pauken", "Timpani"},
        {"Streicher", "String Ensemble 1"},
        {"Archi", "String Ensemble 1"},
        {"Cordes", "String Ensemble 1"},
        // winds
        {"Flûte", "Flute"},
        {"Querflöte", "Flute"},
        {"Flauto 1", "Flute"},
        {"Fl. 2", "Flute"},
        {"Flauta", "Flute"},
        {"Piccolo", "Piccolo"},
        {"Ottavino", "Piccolo"},
        {"Blockflöte", "Recorder"},
        {"Flauto dolce", "Recorder"},
        {"Panflöte", "Pan Flute"},
        {"Oboe", "Oboe"},
        {"Hautbois", "Oboe"},
        {"Ob. 1", "Oboe"},
        {"English Horn", "English Horn"},
        {"Englischhorn", "English Horn"},
        {"Cor anglais", "English Horn"},
        {"Corno inglese", "English Horn"},
        {"Clarinet in Bb", "Clarinet"},
        {"Klarinette", "Clarinet"},
        {"Clarinetto", "Clarinet"},
        {"Cl. 1", "Clarinet"},
        {"Bass Clarinet", "Clarinet"},
        {"Fagott", "Bassoon"},
        {"Basson", "Bassoon"},
        {"Fagotto", "Bassoon"},
        {"Bsn.", "Bassoon"},
        {"Alto Sax", "Alto Sax"},
        {"Altsaxophon", "Alto Sax"},
        {"Tenor Sax 1", "Tenor Sax"},
        {"T. Sax", "Tenor Sax"},
        {"Bari Sax", "Baritone Sax"},
        {"Soprano Sax", "Soprano Sax"},
        // brass
        {"Tpt in Bb", "Trumpet"},
        {"Trompete 1", "Trumpet"},
        {"Trompette", "Trumpet"},
        {"Tromba", "Trumpet"},
        {"Trompeta", "Trumpet"},
        {"Cornet", "Trumpet"},
        {"Flugelhorn", "Trumpet"},
        {"Posaune", "Trombone"},
        {"Tbn. 3", "Trombone"},
        {"Trombón", "Trombone"},
        {"Bassposaune", "Trombone"},
        {"Tuba", "Tuba"},
        {"Euphonium", "Tuba"},
        {"Horn in F", "French Horn"},
        {"Corno", "French Horn"},
        {"Hn. 2", "French Horn"},
        {"Waldhorn", "French Horn"},
        {"Muted Trumpet", "Muted Trumpet"},
        {"Blechbläser", "Brass Section"},
        // keys and bells
        {"Klavier", "Acoustic Grand Piano"},
        {"Pno.", "Acoustic Grand Piano"},
        {"Pianoforte", "Acoustic Grand Piano"},
        {"Cembalo", "Harpsichord"},
        {"Clavecin", "Harpsichord"},
        {"Celesta", "Celesta"},
        {"Glockenspiel", "Glockenspiel"},
        {"Campanelli", "Glockenspiel"},
        {"Vibes", "Vibraphone"},
        {"Marimba", "Marimba"},
        {"Xylophon", "Xylophone"},
        {"Röhrenglocken", "Tubular Bells"},
        {"Kirchenorgel", "Church Organ"},
        {"Orgue", "Drawbar Organ"},
        {"Hammond", "Drawbar Organ"},
        {"Akkordeon", "Accordion"},
        {"Fisarmonica", "Accordion"},
        {"Mundharmonika", "Harmonica"},
        // plucked
        {"Bassgitarre", "Electric Bass (finger)"},
        {"E-Bass", "Electric Bass (finger)"},
        {"Bass", "Electric Bass (finger)"},
        {"Fretless Bass", "Fretless Bass"},
        {"Slap Bass", "Slap Bass 1"},
        {"Synth Bass", "Synth Bass 1"},
        {"Upright Bass", "Acoustic Bass"},
        {"Gitarre", "Acoustic Guitar (nylon)"},
        {"Guitare", "Acoustic Guitar (nylon)"},
        {"Chitarra", "Acoustic Guitar (nylon)"},
        {"Distortion Gtr", "Distortion Guitar"},
        {"Banjo", "Banjo"},
        // voices
        {"Chor", "Choir Aahs"},
        {"Soprano", "Choir Aahs"},
        {"Tenor", "Choir Aahs"},
        {"Coro", "Choir Aahs"},
        {"Voix", "Choir Aahs"},
    };
    for (const auto& [name, program] : table) QTest::newRow(name) << QString::fromUtf8(program);
    QVERIFY(std::size(table) >= 100);
}

void TestInstrumentNames::namesTellPrograms() {
    QFETCH(QString, program);
    const auto told = programFromName(QTest::currentDataTag());
    QVERIFY(told.has_value());
    const auto name = programName(*told);
    QCOMPARE(QString::fromUtf8(name.data(), static_cast<qsizetype>(name.size())), program);
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
    for (const char* name : {"", "Track 1", "MIDI out", "Part 3", "untitled", "1234", "Refrain", "Copyright"})
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
