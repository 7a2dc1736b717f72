/// Lists of drum names: text, CSV, MIDI name documents, and whatever people send.
#include "support/support.h"

#include "files/notenames.h"
#include "files/shipped.h"
#include "midi/percussion.h"
#include "midi/text.h"

#include <QTemporaryDir>
#include <QXmlStreamReader>

using namespace support;

namespace {

using Names = std::map<int, std::string>;

Result<NameFile> parsed(const std::string& bytes, const char* name = "names.txt") {
    return parseNames(bytes, name);
}

Names namesOf(const NameFile& file, std::size_t list = 0) {
    Names names;
    for (const auto& [key, name] : file.lists[list].names) names[key] = name;
    return names;
}

std::string utf16(const QString& text, bool little, bool mark) {
    std::string bytes = mark ? (little ? "\xFF\xFE" : "\xFE\xFF") : "";
    for (const QChar c : text) {
        const char high = static_cast<char>(c.unicode() >> 8), low = static_cast<char>(c.unicode() & 0xFF);
        bytes += little ? std::string{low, high} : std::string{high, low};
    }
    return bytes;
}

} // namespace

class TestNoteNames : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void text_data();
    void text();
    void whatIsRepairedIsTold_data();
    void whatIsRepairedIsTold();
    void encodings_data();
    void encodings();
    void octavesAreFoundByTheNames_data();
    void octavesAreFoundByTheNames();
    void manyAreToldInOne();
    void refusals_data();
    void refusals();
    void csv_data();
    void csv();
    void nameDocuments();
    void entitiesAreNotExpanded();
    void writtenAndReadAgain_data();
    void writtenAndReadAgain();
    void documentsAreXmlThatOthersRead();
    void publishedListsShip();
    void anyBytesAreReadOrRefused();
};

void TestNoteNames::text_data() {
    QTest::addColumn<QByteArray>("bytes");
    QTest::addColumn<QString>("names"); // "key=name|…"
    const auto row = [](const char* tag, const char* bytes, const char* names) {
        QTest::newRow(tag) << QByteArray(bytes) << QString::fromUtf8(names);
    };
    row("space", "36 Kick\n38 Snare drum\n", "36=Kick|38=Snare drum");
    row("tab", "36\tKick\r\n38\tSnare\r\n", "36=Kick|38=Snare");
    row("equals", "36=Kick\r38 = Snare\r", "36=Kick|38=Snare");
    row("semicolon and comma", "36;Kick\n38 ; Snare\n42,Hat\n", "36=Kick|38=Snare|42=Hat");
    row("blanks around", "   36    Kick   \n\n\n", "36=Kick");
    row("one separator only", "36 = = Kick\n37==Rim\n", "36== Kick|37==Rim");
    row("comments", "# 1 one\n// 2 two\n; 3 three\n36 Kick\n", "36=Kick");
    row("remark", "36 Kick # the big one\n37 Tom #1\n38 C#m hit\n39 Clap #\n",
        "36=Kick|37=Tom #1|38=C#m hit|39=Clap #");
    row("hexadecimal", "0x24 Kick\n$26 Snare\n2Ah Hat\n0X2e Open\n", "36=Kick|38=Snare|42=Hat|46=Open");
    row("numbered lists", "36: Kick\n38. Snare\n42) Hat\n", "36=Kick|38=Snare|42=Hat");
    row("note names", "C2 Bass drum\nD2 Snare\nF#2 Closed hi-hat\n",
        "36=Bass drum|38=Snare|42=Closed hi-hat");
    row("flats and signs", "Db4 a\nE\u266D4 b\nF\u266F4 c\nCis5 d\nEs5 e\nAs5 f\n",
        "61=a|63=b|66=c|73=d|75=e|80=f");
    row("H is B, and B is B flat then", "H3 one\nB3 two\n", "58=two|59=one");
    row("B is B", "B3 one\nA3 two\n", "57=two|59=one");
    row("lowest and highest", "0 lowest\n127 highest\nC-1 again\n", "0=again|127=highest");
    row("last counts", "36 one\n36 two\n", "36=two");
    row("no line end", "36 Kick", "36=Kick");
    row("other line ends",
        "36 a\v37 b\f38 c\u2028"
        "39 d\u2029"
        "40 e\u0085"
        "41 f",
        "36=a|37=b|38=c|39=d|40=e|41=f");
    row("name in quotes", "36 \"Kick\"\n", "36=\"Kick\"");
    row("leading zeros", "036 Kick\n", "36=Kick");
}

void TestNoteNames::text() {
    QFETCH(QByteArray, bytes);
    QFETCH(QString, names);
    const auto file = parsed(bytes.toStdString());
    QVERIFY2(file, file ? "" : file.error().message().c_str());
    QCOMPARE(file.value().format, NameFormat::Text);
    QStringList read;
    for (const auto& [key, name] : namesOf(file.value()))
        read << QStringLiteral("%1=%2").arg(key).arg(QString::fromStdString(name));
    QCOMPARE(read.join(QLatin1Char('|')), names);
}

void TestNoteNames::whatIsRepairedIsTold_data() {
    QTest::addColumn<QByteArray>("bytes");
    QTest::addColumn<QString>("name"); // of key 36
    QTest::addColumn<QString>("told"); // "line: sentence|…"
    const auto row = [](const char* tag, const QByteArray& bytes, const char* name, const char* told) {
        QTest::newRow(tag) << bytes << QString::fromUtf8(name) << QString::fromUtf8(told);
    };
    row("nothing", "36 Kick\n", "Kick", "");
    row("byte order mark",
        "\xEF\xBB\xBF"
        "36 Kick\n",
        "Kick", "");
    row("zero width", "\u200B36 Ki\u200Bck\n", "Kick", "1: ZERO WIDTH SPACE (U+200B) was left out.");
    row("no-break space", "36\u00A0Kick\u00A0drum\n", "Kick drum",
        "1: A plain space replaces NO-BREAK SPACE (U+00A0).");
    row("soft hyphen", "36 Kick\u00ADdrum\n", "Kickdrum", "1: SOFT HYPHEN (U+00AD) was left out.");
    row("direction", "\u202D36 Kick\u202C\n", "Kick",
        "1: POP DIRECTIONAL FORMATTING (U+202C) was left out.|1: LEFT-TO-RIGHT OVERRIDE (U+202D) was left "
        "out.");
    row("control characters",
        QByteArray("36 Ki\x01"
                   "ck\x1B\n"),
        "Kick", "1: START OF HEADING (U+0001) was left out.|1: ESCAPE (U+001B) was left out.");
    row("NUL", QByteArray("36 Ki\0ck\n", 9), "Kick", "1: NULL (U+0000) was left out.");
    row("full-width", "\uFF13\uFF16\u3000Kick\n", "Kick",
        "1: A plain space replaces IDEOGRAPHIC SPACE (U+3000).|1: Full-width characters were written as "
        "plain ones.");
    row("mark in the middle", "36 Kick\n37 a\uFEFF\n", "Kick",
        "2: ZERO WIDTH NO-BREAK SPACE (U+FEFF) was left out.");
    row("no number", "Kick\n36 Kick\n", "Kick",
        "1: The line does not begin with a key number and was ignored.");
    row("no name", "36 Kick\n37\n38 =\n", "Kick",
        "2: There is no name after the number; the line was ignored.|3: There is no name after the number; "
        "the line was "
        "ignored.");
    row("no key", "128 High\n-1 Low\n99999999999 Far\n36 Kick\n", "Kick",
        "1: \"128\" is no key; keys go from 0 to 127. The line was ignored.|2: \"-1\" is no key; keys go "
        "from 0 to 127. The "
        "line was ignored.|3: \"99999999999\" is no key; keys go from 0 to 127. The line was ignored.");
    row("twice", "36 one\n36 two\n", "two", "2: Key 36 has a name already; the last one counts.");
    row("long", "36 " + QByteArray(64, 'x') + "y\n", QByteArray(64, 'x').constData(),
        "1: The name was cut at 64 characters.");
    row("note names", "C2 Bass drum\n", "Bass drum", "1: Note names are read with C4 as middle C, key 60.");
}

void TestNoteNames::whatIsRepairedIsTold() {
    QFETCH(QByteArray, bytes);
    QFETCH(QString, name);
    QFETCH(QString, told);
    const auto file = parsed(bytes.toStdString());
    QVERIFY2(file, file ? "" : file.error().message().c_str());
    QCOMPARE(QString::fromStdString(namesOf(file.value())[36]), name);
    QStringList lines;
    for (const RepairedLine& line : file.value().repaired)
        lines << QStringLiteral("%1: %2").arg(line.line).arg(QString::fromStdString(inWords(line.what)));
    QCOMPARE(lines.join(QLatin1Char('|')), told);
}

void TestNoteNames::encodings_data() {
    QTest::addColumn<QByteArray>("bytes");
    const QString text = QStringLiteral("36 Große Trommel\r\n42 Charley fermé\r\n");
    QTest::newRow("UTF-8") << text.toUtf8();
    QTest::newRow("UTF-8 with mark") << QByteArray("\xEF\xBB\xBF") + text.toUtf8();
    for (const bool little : {true, false})
        for (const bool mark : {true, false}) {
            const std::string bytes = utf16(text, little, mark);
            QTest::addRow("UTF-16 %d %d", little, mark)
                << QByteArray(bytes.data(), static_cast<qsizetype>(bytes.size()));
        }
    QTest::newRow("Windows-1252") << text.toLatin1();
}

void TestNoteNames::encodings() {
    QFETCH(QByteArray, bytes);
    const auto file = parsed(bytes.toStdString());
    QVERIFY(file);
    QCOMPARE(namesOf(file.value()), (Names{{36, "Große Trommel"}, {42, "Charley fermé"}}));
    QVERIFY(file.value().repaired.empty());
}

void TestNoteNames::octavesAreFoundByTheNames_data() {
    QTest::addColumn<QByteArray>("bytes");
    QTest::addColumn<int>("first");
    QTest::newRow("C4") << QByteArray("C2 Bass drum\nD2 Snare\nF#2 Closed hat\n") << 36;
    QTest::newRow("C3") << QByteArray("C1 Bass drum\nD1 Snare\nF#1 Closed hat\n") << 36;
    QTest::newRow("C5") << QByteArray("C3 Bass drum\nD3 Snare\nF#3 Closed hat\n") << 36;
    QTest::newRow("most count") << QByteArray("C1 Bass drum\nD1 Snare\nF#2 Closed hat\n") << 36;
    QTest::newRow("nothing tells") << QByteArray("C1 Voice\nD1 Other\n") << 24;
}

void TestNoteNames::octavesAreFoundByTheNames() {
    QFETCH(QByteArray, bytes);
    QFETCH(int, first);
    const auto file = parsed(bytes.toStdString());
    QVERIFY(file);
    QCOMPARE(namesOf(file.value()).begin()->first, first);
    QVERIFY(QString::fromStdString(inWords(file.value().repaired.front().what))
                .contains(QLatin1String("middle C")));
}

void TestNoteNames::manyAreToldInOne() {
    std::string text = "36 Kick\n";
    for (int i = 0; i < 5000; ++i) text += "no number here\n";
    const auto file = parsed(text);
    QVERIFY(file);
    QCOMPARE(file.value().repaired.size(), std::size_t{1});
    QCOMPARE(file.value().repaired[0].line, 2);
    QVERIFY(inWords(file.value().repaired[0].what).find("5000") != std::string::npos);
}

void TestNoteNames::refusals_data() {
    QTest::addColumn<QByteArray>("bytes");
    QTest::addColumn<QString>("name");
    const auto row = [](const char* tag, const QByteArray& bytes, const char* name = "x.txt") {
        QTest::newRow(tag) << bytes << QString::fromLatin1(name);
    };
    row("empty", "");
    row("comments alone", "# nothing\n; here\n");
    row("prose", "Dear friend,\nhere are my drums.\n");
    row("numbers alone", "36\n38\n");
    row("a MIDI file", QByteArray("MThd\0\0\0\6\0\0\0\1\0`MTrk\0\0\0\4\0\xFF/\0", 26));
    row("not XML", "<?xml version=\"1.0\"?><MIDINameDocument>", "x.midnam");
    row("XML without names", "<?xml version=\"1.0\"?><MIDINameDocument/>", "x.midnam");
    row("CSV without names", "key,name\r\n", "x.csv");
    row("named a document", "36 Kick\n", "x.midnam");
}

void TestNoteNames::refusals() {
    QFETCH(QByteArray, bytes);
    QFETCH(QString, name);
    const auto file = parsed(bytes.toStdString(), qPrintable(name));
    QVERIFY(!file);
    QVERIFY(!file.error().what.empty() && !file.error().whatNow.empty());
}

// RFC 4180, and what spreadsheets make of it.
void TestNoteNames::csv_data() {
    QTest::addColumn<QByteArray>("bytes");
    QTest::addColumn<QString>("names");
    const auto row = [](const char* tag, const char* bytes, const char* names) {
        QTest::newRow(tag) << QByteArray(bytes) << QString::fromUtf8(names);
    };
    row("plain", "36,Kick\r\n38,Snare\r\n", "36=Kick|38=Snare");
    row("heading", "key,name\r\n36,Kick\r\n", "36=Kick");
    row("columns in another order", "Name,Remark,Note\r\nKick,loud,36\r\n", "36=Kick");
    row("quotes", "36,\"Kick, big\"\r\n38,\"The \"\"crack\"\"\"\r\n\"42\",\"Hat\"\r\n",
        "36=Kick, big|38=The \"crack\"|42=Hat");
    row("line end within quotes", "36,\"Kick\r\ndrum\"\r\n38,Snare\r\n", "36=Kick drum|38=Snare");
    row("semicolons", "36;Kick\n38;\"Snare; tight\"\n", "36=Kick|38=Snare; tight");
    row("tabs", "36\tKick\n38\tSnare\n", "36=Kick|38=Snare");
    row("other separators in names", "36,\"a;b;c\"\n38,d;e\n", "36=a;b;c|38=d;e");
    row("more columns", "36,Kick,x,y\n", "36=Kick");
    row("an open quote", "36,Kick\n38,\"Snare\n", "36=Kick|38=Snare");
}

void TestNoteNames::csv() {
    QFETCH(QByteArray, bytes);
    QFETCH(QString, names);
    const auto file = parsed(bytes.toStdString(), "list.csv");
    QVERIFY2(file, file ? "" : file.error().message().c_str());
    QCOMPARE(file.value().format, NameFormat::Csv);
    QStringList read;
    for (const auto& [key, name] : namesOf(file.value()))
        read << QStringLiteral("%1=%2").arg(key).arg(QString::fromStdString(name));
    QCOMPARE(read.join(QLatin1Char('|')), names);
}

// The form of the MIDI Manufacturers Association's DTD MIDINameDocument 1.0; from memory.
void TestNoteNames::nameDocuments() {
    const auto file = parsed(R"(<?xml version="1.0" encoding="UTF-8"?>
<!DOCTYPE MIDINameDocument PUBLIC "-//MIDI Manufacturers Association//DTD MIDINameDocument 1.0//EN" "http://www.midi.org/dtds/MIDINameDocument10.dtd">
<MIDINameDocument>
  <Author>The harbour band</Author>
  <MasterDeviceNames>
    <Manufacturer>Harbour</Manufacturer><Model>Drums</Model>
    <NoteNameList Name="Dry kit">
      <NoteGroup Name="Drums">
        <Note Number="36" Name="Kick &amp; thump"/>
        <Note Number="38" Name="Snare"/>
      </NoteGroup>
      <Note Number="300" Name="Too far"/>
      <Note Number="42" Name=""/>
    </NoteNameList>
    <NoteNameList Name="Wet kit"><Note Number="36" Name="Splash kick"/></NoteNameList>
    <NoteNameList Name="Empty kit"/>
  </MasterDeviceNames>
</MIDINameDocument>)",
                             "harbour.midnam");
    QVERIFY2(file, file ? "" : file.error().message().c_str());
    QCOMPARE(file.value().format, NameFormat::Midnam);
    QCOMPARE(file.value().lists.size(), std::size_t{2});
    QCOMPARE(file.value().lists[0].title, std::string("Dry kit"));
    QCOMPARE(namesOf(file.value()), (Names{{36, "Kick & thump"}, {38, "Snare"}}));
    QCOMPARE(namesOf(file.value(), 1), (Names{{36, "Splash kick"}}));
    QCOMPARE(file.value().repaired.size(), std::size_t{2});
    QCOMPARE(file.value().repaired[0].line, 12);
}

void TestNoteNames::entitiesAreNotExpanded() {
    QTemporaryDir folder;
    QFile secret(folder.filePath(QStringLiteral("secret.txt")));
    QVERIFY(secret.open(QIODevice::WriteOnly));
    secret.write("SECRET");
    secret.close();
    const std::string outside =
        "<?xml version=\"1.0\"?><!DOCTYPE d [<!ENTITY e SYSTEM \"file://" + secret.fileName().toStdString() +
        "\"><!ENTITY t \"text\">]>"
        "<MIDINameDocument><NoteNameList Name=\"a\"><Note Number=\"36\" Name=\"K&t;ick\"/>"
        "<Note Number=\"38\" Name=\"Snare\"/>&e;</NoteNameList></MIDINameDocument>";
    const auto file = parsed(outside, "x.midnam");
    QVERIFY2(file, file ? "" : file.error().message().c_str());
    QCOMPARE(namesOf(file.value()), (Names{{36, "Kick"}, {38, "Snare"}}));
    QVERIFY(!file.value().repaired.empty());
    // Each entity stands for ten of the one before: a few hundred bytes that would be gigabytes.
    std::string laughs = "<?xml version=\"1.0\"?><!DOCTYPE d [<!ENTITY a0 \"ha\">";
    for (int i = 1; i < 12; ++i) {
        laughs += "<!ENTITY a" + std::to_string(i) + " \"";
        for (int k = 0; k < 10; ++k) laughs += "&a" + std::to_string(i - 1) + ";";
        laughs += "\">";
    }
    laughs += "]><MIDINameDocument><NoteNameList Name=\"a\"><Note Number=\"36\" "
              "Name=\"K&a11;\"/></NoteNameList></MIDINameDocument>";
    const auto refused = parsed(laughs, "x.midnam"); // refused, or read without them
    if (refused) QVERIFY(namesOf(refused.value())[36].size() <= 64);
    // As deep as anybody likes.
    std::string deep = "<?xml version=\"1.0\"?>";
    for (int i = 0; i < 100000; ++i) deep += "<a>";
    QVERIFY(!parsed(deep, "x.midnam"));
}

void TestNoteNames::writtenAndReadAgain_data() {
    QTest::addColumn<QString>("file");
    for (const char* file : {"names.txt", "names.csv", "names.midnam"})
        QTest::newRow(file) << QString::fromLatin1(file);
}

void TestNoteNames::writtenAndReadAgain() {
    QFETCH(QString, file);
    QTemporaryDir folder;
    const DrumNames names = {
        {0, "Lowest"},  {36, "Große Trommel"}, {38, "Snare, tight"},    {42, "The \"hat\" <closed> & more"},
        {48, "Tom #1"}, {50, "#1 first"},      {51, "= second; third"}, {127, std::string(64, 'x')}};
    const std::filesystem::path path = folder.filePath(file).toStdString();
    QVERIFY(writeNames(names, "Dry \"kit\"", path));
    const auto read = readNames(path);
    QVERIFY2(read, read ? "" : read.error().message().c_str());
    QCOMPARE(read.value().format, nameFormatOf(path));
    QCOMPARE(read.value().lists[0].names, names);
    QVERIFY(read.value().repaired.empty());
    QVERIFY(!writeNames(names, "x", "/proc/none/names.txt"));
}

/// Qt's XML reader is another than the one that the application uses.
void TestNoteNames::documentsAreXmlThatOthersRead() {
    DrumNames all;
    for (int k = 0; k < 128; ++k)
        all[static_cast<std::uint8_t>(k)] = "Name <" + std::to_string(k) + "> & \"more\"";
    const std::string text = namesText(all, NameFormat::Midnam, "All & <every>");
    QXmlStreamReader reader(QByteArray::fromStdString(text));
    DrumNames read;
    QString title;
    while (!reader.atEnd()) {
        if (reader.readNext() != QXmlStreamReader::StartElement) continue;
        if (reader.name() == QLatin1String("NoteNameList"))
            title = reader.attributes().value(QLatin1String("Name")).toString();
        if (reader.name() == QLatin1String("Note"))
            read[static_cast<std::uint8_t>(reader.attributes().value(QLatin1String("Number")).toInt())] =
                reader.attributes().value(QLatin1String("Name")).toString().toStdString();
    }
    QVERIFY2(!reader.hasError(), qPrintable(reader.errorString()));
    QCOMPARE(title, QStringLiteral("All & <every>"));
    QCOMPARE(read, all);
}

void TestNoteNames::publishedListsShip() {
    int lists = 0;
    for (const PercussionKit& kit : percussionKits()) {
        const auto file = readNames(shippedFile("drumnames") / (std::string(dialectName(kit.dialect)) + " " +
                                                                std::string(kit.name) + ".txt"));
        QVERIFY2(file, file ? "" : file.error().message().c_str());
        QVERIFY(file.value().repaired.empty());
        for (std::uint8_t k = 0; k < 128; ++k) {
            const auto& names = file.value().lists[0].names;
            QCOMPARE(names.contains(k) ? names.at(k) : std::string(), std::string(drumName(kit, Key{k})));
        }
        ++lists;
    }
    QVERIFY(lists >= 29); // GM, and the kits of GM2, GS and XG
}

void TestNoteNames::anyBytesAreReadOrRefused() {
    std::mt19937 random(7);
    static constexpr std::string_view pieces[] = {"36",
                                                  " ",
                                                  "=",
                                                  "Kick",
                                                  "\n",
                                                  "\r",
                                                  "#",
                                                  "C#2",
                                                  "0x",
                                                  "\"",
                                                  ",",
                                                  ";",
                                                  "\t",
                                                  "H1",
                                                  "<a>",
                                                  "&b;",
                                                  "\xFF",
                                                  "\xE2\x80",
                                                  "\0",
                                                  "127",
                                                  "key,name\n",
                                                  "<?xml version=\"1.0\"?>",
                                                  "<Note Number=\"36\" Name=\"x\"/>"};
    for (int round = 0; round < 3000; ++round) {
        std::string bytes;
        for (unsigned i = random() % 40; i > 0; --i) {
            if (random() % 5 == 0)
                bytes += static_cast<char>(random());
            else
                bytes += pieces[random() % std::size(pieces)];
        }
        for (const char* name : {"x.txt", "x.csv", "x.midnam"})
            if (const auto file = parsed(bytes, name))
                for (const NameList& list : file.value().lists)
                    for (const auto& [key, text] : list.names) {
                        QVERIFY(key < 128 && !text.empty());
                        QVERIFY(validUtf8(text) == text);
                    }
    }
}

QTEST_APPLESS_MAIN(TestNoteNames)
#include "tst_notenames.moc"
