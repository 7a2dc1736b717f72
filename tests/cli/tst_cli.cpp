#include "support/support.h"

#include "files/atomicfile.h"
#include "files/project.h"
#include "song/model/asks.h"
#include "song/shape/edits.h"

#include <QElapsedTimer>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QProcess>
#include <QTemporaryDir>
#include <csignal>
#include <map>
#include <random>

using namespace support;

namespace {

struct Ran {
    int code = -1;
    QByteArray out, err;
    /// What a command found, out of what stands around it.
    [[nodiscard]] QJsonDocument json() const {
        const QJsonValue result = QJsonDocument::fromJson(out)["result"];
        return result.isArray() ? QJsonDocument(result.toArray()) : QJsonDocument(result.toObject());
    }
};

/// `in` comes on the standard input.
Ran run(const QStringList& words, const QByteArray& in = {}) {
    QProcess process;
    process.start(QStringLiteral(BIN_FOLDER "/cobbleway-cli"), words);
    process.write(in);
    process.closeWriteChannel();
    process.waitForFinished(120000);
    return {process.exitCode(), process.readAllStandardOutput(), process.readAllStandardError()};
}

/// A member's name in JSON.
QString k(const char* name) { return QString::fromLatin1(name); }

const QString quay = QStringLiteral(DEMO_FOLDER "/lantern_quay.mid");
const QString march = QStringLiteral(DEMO_FOLDER "/SLACKW~1.MID");

} // namespace

class TestCli : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void inspects();
    void inspectsSeveralAndSaysWhatFailed();
    void jsonSaysWhatItIsInOneOrder();
    void helpsAndHints();
    void readsAndWritesStandardStreams();
    void anOutputThatTakesNoMoreIsToldOnce();
    void listsSections();
    void splitsAndJoins();
    void writesAFileForEachPart();
    void tellsWordsAndDeviceMessages();
    void matches();
    void ranksWhatCouldPlay();
    void listsFonts();
    void namesTheKeysOfKits();
    void oneFontAfterAnother();
    void fontsOfStrangersEndNothing();
    void listsInstruments();
    void splitsIntoLines();
    void rendersWithoutTheRoom();
    void rendersMixes();
    void replacesNothingUnasked();
    void rendersStems();
    void exportsSets();
    void whatPluginsPrintIsNotSeen();
    void setsPlayWhatTheyWereMadeWith();
    void endingsChooseTheFormat();
    void aFileWithoutMusicIsRefused();
    void anInterruptStopsWithoutDebris();
    void killsLeaveNothingHalfWritten();
    void tellsDrums();
    void fitsDrums();
    void tellsNames();
    void refuses_data();
    void refuses();
    void aFolderThatIsNotThereIsTold();
};

void TestCli::inspects() {
    const Ran ran = run({QStringLiteral("inspect"), quay, QStringLiteral("--json")});
    QCOMPARE(ran.code, 0);
    const QJsonObject song = ran.json().array().at(0).toObject();
    QCOMPARE(song["type"].toInt(), 0);
    QCOMPARE(song["ticks_per_quarter"].toInt(), 480);
    QCOMPARE(song["dialect"].toString(), QStringLiteral("GM"));
    QCOMPARE(song["bars"].toInt(), 80);
    QVERIFY(std::abs(song["first_tempo_bpm"].toDouble() - 108) < 0.01);
    const QJsonArray parts = song["parts"].toArray();
    QCOMPARE(parts.size(), 10);
    const QJsonObject guitar = parts.at(6).toObject();
    QCOMPARE(guitar["name"].toString(), QStringLiteral("Guitar"));
    QCOMPARE(guitar["index"].toInt(), 7);
    QCOMPARE(guitar["channel"].toInt(), 7);
    QCOMPARE(guitar["program"].toInt(), 25);
    QCOMPARE(guitar["programs"].toArray(), QJsonArray{25});
    QVERIFY(guitar["bank_msb"].isNull());
    QVERIFY(parts.at(9).toObject()["drums"].toBool());
    bool bass = false;
    for (const auto& snag : song["snags"].toArray())
        bass = bass ||
               (snag.toObject()["kind"] == QStringLiteral("bass-on-guitar") && snag.toObject()["part"] == 7);
    QVERIFY(bass);
    for (const char* key : {"file", "duration_seconds", "damage"}) QVERIFY(song.contains(QLatin1String(key)));
}

void TestCli::inspectsSeveralAndSaysWhatFailed() {
    const Ran ran =
        run({QStringLiteral("inspect"), QStringLiteral("/nowhere.mid"), march, QStringLiteral("--json")});
    QCOMPARE(ran.code, 1);
    QCOMPARE(ran.json().array().size(), 1);
    QCOMPARE(ran.err.count('\n'), 1);
    QVERIFY(ran.err.contains("/nowhere.mid"));
    const QJsonObject song = ran.json().array().at(0).toObject();
    QVERIFY(song["damage"].toArray().size() >= 2);
    QCOMPARE(song["parts"].toArray().at(0).toObject()["name"].toString(),
             QString::fromUtf8("第一コルネット"));
    const Ran text = run({QStringLiteral("inspect"), march});
    QVERIFY(text.code == 0 && text.out.contains("fixed at byte") && text.out.contains("XG"));
}

void TestCli::jsonSaysWhatItIsInOneOrder() {
    const std::pair<QStringList, const char*> commands[] = {
        {{k("inspect"), quay, k("--json")}, "inspect"},
        {{k("sections"), quay, k("--json")}, "sections"},
        {{k("match"), quay, k("--font"), QStringLiteral(TEST_FONT), k("--json")}, "match"},
        {{k("fonts"), k("--font"), QStringLiteral(TEST_FONT), k("--json")}, "fonts"},
        {{k("drums"), quay, k("--font"), QStringLiteral(TEST_FONT), k("--json")}, "drums"}};
    for (const auto& [words, name] : commands) {
        const Ran ran = run(words);
        QCOMPARE(ran.code, 0);
        const QJsonObject whole = QJsonDocument::fromJson(ran.out).object();
        QCOMPARE(whole["version"].toInt(), 1);
        QCOMPARE(whole["command"].toString(), QString::fromLatin1(name));
        QVERIFY(ran.out.indexOf("\"version\"") < ran.out.indexOf("\"command\"") &&
                ran.out.indexOf("\"command\"") < ran.out.indexOf("\"result\""));
    }
    // Members stand as they are told, not by the alphabet.
    const QByteArray parts = run({k("inspect"), quay, k("--json")}).out;
    QVERIFY(parts.indexOf("\"name\"") < parts.indexOf("\"channel\""));
}

void TestCli::helpsAndHints() {
    const Ran help = run({k("--help")});
    QCOMPARE(help.code, 0);
    QCOMPARE(run({}).code, 2);
    QCOMPARE(run({}).err, help.out);
    QVERIFY(run({k("--version")}).out.startsWith("cobbleway-cli "));
    const char* names[] = {"inspect", "sections", "split", "join",        "parts",  "match",
                           "fonts",   "drums",    "names", "instruments", "render", "export"};
    for (const char* name : names) {
        QVERIFY2(help.out.contains(QByteArray("\n  ") + name), name);
        for (const char* way : {"--help", "-h"}) {
            const Ran own = run({k(name), k(way)});
            QVERIFY2(own.code == 0 && own.out.contains("Examples:\n  cobbleway-cli "), name);
        }
        // Each option that help tells of is one.
        const QByteArray told = run({k(name), k("--help")}).out;
        for (const QByteArray& line : told.split('\n'))
            if (line.startsWith("  --")) {
                const QString option = QString::fromUtf8(line.trimmed().split(' ').front());
                QVERIFY2(!run({k(name), option, k("--no-such-option")})
                              .err.contains(("option " + option + " ").toUtf8()),
                         qPrintable(option));
            }
    }
    QVERIFY(run({k("rendr")}).err.contains("Perhaps you mean render"));
    const Ran typo = run({k("render"), k("--frnt"), k("2"), quay, k("x.wav")});
    QCOMPARE(typo.code, 2);
    QVERIFY(typo.err.contains("There is no option --frnt here. Perhaps you mean --front;"));
    QVERIFY(!run({k("render"), k("--elephant")}).err.contains("Perhaps"));
    for (const QStringList& words :
         {QStringList{k("render"), quay, k("x.wav"), k("--font")}, {k("export"), quay, k("--into")}}) {
        const Ran missing = run(words);
        QCOMPARE(missing.code, 2);
        QVERIFY2(missing.err.contains("The option " + words.back().toUtf8() + " needs a value."),
                 missing.err);
    }
    // A value after "=", one that begins with a dash, and files after "--".
    QTemporaryDir folder;
    QVERIFY(QFile::copy(quay, folder.filePath(k("-odd.mid"))));
    QProcess process;
    process.setWorkingDirectory(folder.path());
    process.start(QStringLiteral(BIN_FOLDER "/cobbleway-cli"),
                  {k("export"), k("--into=out"), k("--mixes=none"), k("--midi"), k("whole"), k("--level"),
                   k("-23"), k("--"), k("-odd.mid")});
    QVERIFY(process.waitForFinished(60000));
    QCOMPARE(process.exitCode(), 0);
    QCOMPARE(QDir(folder.filePath(k("out"))).entryList(QDir::Files), QStringList{k("Lantern Quay.mid")});
}

void TestCli::readsAndWritesStandardStreams() {
    const Bytes bytes = fileBytes(quay);
    const QByteArray in(reinterpret_cast<const char*>(bytes.data()), static_cast<qsizetype>(bytes.size()));
    QTemporaryDir folder;
    const QString file = folder.filePath(k("split.mid"));
    QCOMPARE(run({k("split"), quay, file}).code, 0);
    const Ran split = run({k("split"), k("-"), k("-")}, in);
    QCOMPARE(split.code, 0);
    const Bytes written = fileBytes(file);
    QCOMPARE(split.out, QByteArray(reinterpret_cast<const char*>(written.data()),
                                   static_cast<qsizetype>(written.size())));
    QCOMPARE(run({k("inspect"), k("-"), k("--json")}, split.out)
                 .json()
                 .array()
                 .at(0)
                 .toObject()["parts"]
                 .toArray()
                 .size(),
             10);
    // A set comes in as well, and sound goes out.
    SongSet set;
    set.songs = {Shared(Builder().note(0, 0, 0.5, 60).song())};
    const QByteArray text = QByteArray::fromStdString(projectText(set));
    const QString wav = folder.filePath(k("a.wav"));
    const QStringList how = {k("--font"), QStringLiteral(TEST_FONT), k("--format"), k("wav16")};
    QCOMPARE(run(QStringList{k("render"), k("-"), wav} + how, text).code, 0);
    const Ran sound = run(QStringList{k("render"), k("-"), k("-")} + how, text);
    QCOMPARE(sound.code, 0);
    const Bytes asFile = fileBytes(wav);
    QCOMPARE(sound.out,
             QByteArray(reinterpret_cast<const char*>(asFile.data()), static_cast<qsizetype>(asFile.size())));
    // A format that the name's ending is not, or that there is not, is refused.
    for (const char* format : {"flac", "mp9", ""}) {
        const Ran refused = run({k("render"), quay, folder.filePath(k("b.wav")), k("--format"), k(format)});
        QVERIFY2(refused.code == 2 && refused.err.contains("wav32f"), refused.err.constData());
        QVERIFY(!QFileInfo::exists(folder.filePath(k("b.wav"))));
    }
    const Ran quiet = run({k("export"), quay, k("--into"), folder.filePath(k("quiet")), k("--mixes"),
                           k("none"), k("--midi"), k("whole"), k("--quiet")});
    QVERIFY(quiet.code == 0 && quiet.out.isEmpty() && quiet.err.isEmpty());
    for (const QByteArray& nonsense : {QByteArray(), QByteArray("{"), QByteArray("MThd")}) {
        const Ran refused = run({k("inspect"), k("-")}, nonsense);
        QCOMPARE(refused.code, 1);
        QVERIFY(refused.err.contains("standard input") || refused.err.startsWith("-"));
    }
}

void TestCli::anOutputThatTakesNoMoreIsToldOnce() {
    const QStringList commands[] = {
        {k("inspect"), quay},
        {k("inspect"), quay, k("--json")},
        {k("split"), quay, k("-")},
        {k("render"), quay, k("-"), k("--part"), k("1"), k("--font"), QStringLiteral(TEST_FONT)}};
    for (const QStringList& words : commands) {
        QProcess process;
        process.setStandardOutputFile(QStringLiteral("/dev/full"));
        process.start(QStringLiteral(BIN_FOLDER "/cobbleway-cli"), words);
        QVERIFY(process.waitForFinished(60000));
        QCOMPARE(process.exitCode(), 1);
        QCOMPARE(process.readAllStandardError().count("The output took no more."), 1);
    }
}

void TestCli::listsSections() {
    const Ran ran = run({k("sections"), quay, k("--json")});
    QCOMPARE(ran.code, 0);
    const QJsonArray all = ran.json().array();
    const Song song = demoSong("lantern_quay.mid");
    QCOMPARE(std::size_t(all.size()), song.sections.size());
    int next = 1; // the demo's sections follow each other without a gap
    for (const auto& value : all) {
        const QJsonObject section = value.toObject();
        QCOMPARE(section["first_bar"].toInt(), next);
        next = section["last_bar"].toInt() + 1;
        QVERIFY(std::abs(section["start_seconds"].toDouble() -
                         song.tempo->seconds(song.tempo->barStart(section["first_bar"].toInt()))) < 1e-6);
    }
    QCOMPARE(next, song.bars() + 1);
    const Ran text = run({k("sections"), quay});
    QCOMPARE(text.out.count('\n'), all.size());
}

void TestCli::splitsAndJoins() {
    QTemporaryDir folder;
    const QString split = folder.filePath(QStringLiteral("s.mid")),
                  joined = folder.filePath(QStringLiteral("j.mid"));
    QCOMPARE(run({QStringLiteral("split"), quay, split}).code, 0);
    QCOMPARE(run({QStringLiteral("join"), split, joined}).code, 0);
    const MidiFile a = readMidi(fileBytes(split), "s").value().midi,
                   b = readMidi(fileBytes(joined), "j").value().midi;
    QCOMPARE(a.type, 1);
    QCOMPARE(a.tracks.size(), std::size_t{11});
    QCOMPARE(b.type, 0);
    const auto notes = [](const MidiFile& file) {
        int n = 0;
        for (const Track& t : file.tracks)
            for (const Event& e : t.events) n += e.isNoteOn();
        return n;
    };
    QCOMPARE(notes(a), notes(b));
    QCOMPARE(run({QStringLiteral("split"), quay, QStringLiteral("/nowhere/x.mid")}).code, 1);
}

void TestCli::splitsIntoLines() {
    QTemporaryDir folder;
    const QString out = folder.filePath(QStringLiteral("lines.mid"));
    const auto split = [&](const char* lines) {
        return run({QStringLiteral("split"), quay, out, QStringLiteral("--replace"), QStringLiteral("--part"),
                    QStringLiteral("2"), QStringLiteral("--lines"), QLatin1String(lines)})
            .code;
    };
    QCOMPARE(split("3"), 0);
    const Song before = songOf(fileBytes(quay)), after = songOf(fileBytes(out));
    QCOMPARE(after.parts.size(), before.parts.size() + 2);
    QVERIFY(after.parts[1].name.ends_with(" top") && after.parts[3].name.ends_with(" bottom"));
    QCOMPARE(split("1"), 2);
    QCOMPARE(run({QStringLiteral("split"), quay, out, QStringLiteral("--replace"), QStringLiteral("--lines"),
                  QStringLiteral("2")})
                 .code,
             2);
}

void TestCli::rendersWithoutTheRoom() {
    // The room rings after the last sound; without it the end is silent sooner, and all else is dry.
    QTemporaryDir folder;
    const QString wet = folder.filePath(QStringLiteral("wet.wav")),
                  dry = folder.filePath(QStringLiteral("dry.wav"));
    const auto render = [&](const QString& out, bool without) {
        QStringList words = {QStringLiteral("render"), march, out, QStringLiteral("--rate"),
                             QStringLiteral("16000")};
        if (without) words << QStringLiteral("--dry");
        return run(words).code;
    };
    QCOMPARE(render(wet, false), 0);
    QCOMPARE(render(dry, true), 0);
    QVERIFY(fileBytes(wet) != fileBytes(dry));
    QVERIFY(QFileInfo(dry).size() < QFileInfo(wet).size());
}

void TestCli::writesAFileForEachPart() {
    QTemporaryDir folder;
    const Ran ran = run({QStringLiteral("parts"), quay, folder.filePath(QStringLiteral("new"))});
    QCOMPARE(ran.code, 0);
    const QStringList files = QDir(folder.filePath(QStringLiteral("new"))).entryList(QDir::Files, QDir::Name);
    QCOMPARE(files.size(), 10);
    QCOMPARE(files[6], QStringLiteral("07 Guitar.mid"));
    const Song guitar = songOf(fileBytes(folder.filePath(QStringLiteral("new/") + files[6])));
    const auto parts =
        std::count_if(guitar.parts.begin(), guitar.parts.end(), [](const Part& p) { return !p.aside; });
    QCOMPARE(parts, std::ptrdiff_t{1});
    QCOMPARE(guitar.bars(), 80); // the song's own bars and markers go along
    QVERIFY(guitar.sections.size() >= 5);
    QCOMPARE(run({QStringLiteral("parts"), quay}).code, 2);
}

void TestCli::tellsWordsAndDeviceMessages() {
    const Ran ran = run({QStringLiteral("inspect"), QStringLiteral(DEMO_FOLDER "/pilots-evening-song.kar"),
                         QStringLiteral("--json")});
    const QJsonObject song = ran.json().array().at(0).toObject();
    QVERIFY(song["lyrics"].toArray().size() > 10);
    QCOMPARE(song["device_messages"].toArray().at(0).toObject()["what"].toString(),
             QStringLiteral("GM reset"));
    QVERIFY(song["device_messages"].toArray().at(0).toObject()["followed"].toBool());
}

void TestCli::matches() {
    const Ran ran = run({QStringLiteral("match"), quay, QStringLiteral("--font"), QStringLiteral(TEST_FONT),
                         QStringLiteral("--json")});
    QCOMPARE(ran.code, 0);
    const QJsonArray parts = ran.json().array();
    QCOMPARE(parts.size(), 10);
    const QJsonObject cornet = parts.at(0).toObject();
    QCOMPARE(cornet["match"].toString(), QStringLiteral("same"));
    QCOMPARE(cornet["sound"].toObject()["program"].toInt(), 56); // as in the font, from 0
    QCOMPARE(cornet["sound"].toObject()["font"].toString(), QStringLiteral("Test font"));
    QCOMPARE(parts.at(9).toObject()["sound"].toObject()["bank"].toInt(), 128);
    for (const auto& part : parts) QVERIFY(!part.toObject()["why"].toString().isEmpty());
}

void TestCli::listsFonts() {
    const Ran ran = run({QStringLiteral("fonts"), QStringLiteral("--font"), QStringLiteral(TEST_FONT),
                         QStringLiteral("--json")});
    QCOMPARE(ran.code, 0);
    QCOMPARE(ran.json().array().size(), 127 + 8 + 2);
    for (const auto& preset : ran.json().array())
        if (preset.toObject()["bank"].toInt() == 0 && preset.toObject()["program"].toInt() == 56)
            QCOMPARE(preset.toObject()["ranges"].toArray(), (QJsonArray{QJsonArray{52, 84}}));
    QVERIFY(run({QStringLiteral("fonts")}).out.contains("House font"));
    QVERIFY(ran.err.isEmpty());
    // What cannot be used of a damaged one is said: here a bank that is none (SoundFont 2.04, 7.2).
    QTemporaryDir folder;
    QFile file(QStringLiteral(TEST_FONT));
    QVERIFY(file.open(QIODevice::ReadOnly));
    QByteArray bytes = file.readAll();
    const auto bank = bytes.indexOf("phdr") + 8 + 22;
    bytes[bank] = '\xE7';
    bytes[bank + 1] = '\x03';
    QFile odd(folder.filePath(QStringLiteral("odd.sf2")));
    QVERIFY(odd.open(QIODevice::WriteOnly) && odd.write(bytes) == bytes.size());
    odd.close();
    const Ran told = run({QStringLiteral("match"), quay, QStringLiteral("--font"), odd.fileName()});
    QCOMPARE(told.code, 0);
    QVERIFY2(told.err.contains("odd.sf2: One preset has numbers"), told.err.constData());
}

void TestCli::ranksWhatCouldPlay() {
    const Ran ran = run({QStringLiteral("match"), quay, QStringLiteral("--all"), QStringLiteral("--json")});
    QCOMPARE(ran.code, 0);
    const QJsonArray parts = ran.json().array();
    QCOMPARE(parts.size(), 10);
    for (const auto& part : parts) {
        const QJsonArray ranked = part.toObject()["ranked"].toArray();
        QVERIFY(ranked.size() >= 3);
        double last = 1e9;
        for (const auto& one : ranked) {
            QVERIFY(one.toObject()["points"].toDouble() <= last);
            last = one.toObject()["points"].toDouble();
            QVERIFY(!one.toObject()["why"].toString().isEmpty());
            QVERIFY(one.toObject()["sound"].toObject().contains("program"));
        }
    }
    const QJsonObject tuba = parts.at(7).toObject()["ranked"].toArray().at(0).toObject();
    QCOMPARE(tuba["sound"].toObject()["program"].toInt(), 58);
    const Ran text = run({QStringLiteral("match"), quay, QStringLiteral("--all")});
    QVERIFY(text.out.contains("its name says Tuba"));
}

void TestCli::namesTheKeysOfKits() {
    const QString font = QStringLiteral(HOUSE_FONT);
    const Ran ran = run({QStringLiteral("fonts"), QStringLiteral("--font"), font, QStringLiteral("--keys"),
                         QStringLiteral("--json")});
    QCOMPARE(ran.code, 0);
    const QJsonArray kits = ran.json().array();
    QVERIFY(kits.size() >= 2);
    bool snare = false;
    for (const auto& key : kits.at(0).toObject()["keys"].toArray())
        snare = snare || (key.toObject()["key"] == 38 && key.toObject()["name"].toString().contains(
                                                             QStringLiteral("snare"), Qt::CaseInsensitive));
    QVERIFY(snare); // RP-003: key 38, acoustic snare
    QVERIFY(run({QStringLiteral("fonts"), QStringLiteral("--font"), font, QStringLiteral("--keys")})
                .out.contains("128:0"));
}

void TestCli::oneFontAfterAnother() {
    // The test font has no program 10: the second font named plays it, the first everything else.
    const Ran ran = run({QStringLiteral("match"), quay, QStringLiteral("--font"), QStringLiteral(TEST_FONT),
                         QStringLiteral("--then"), QStringLiteral(HOUSE_FONT), QStringLiteral("--json")});
    QCOMPARE(ran.code, 0);
    const QJsonArray parts = ran.json().array();
    QCOMPARE(parts.at(8).toObject()["sound"].toObject()["font"].toString(), QStringLiteral("House font"));
    QCOMPARE(parts.at(8).toObject()["match"].toString(), QStringLiteral("same"));
    QVERIFY(parts.at(0).toObject()["sound"].toObject()["font"].toString() != QStringLiteral("House font"));
    QTemporaryDir folder;
    const QString out = folder.filePath(QStringLiteral("two.wav"));
    QCOMPARE(run({QStringLiteral("render"), march, out, QStringLiteral("--font"), QStringLiteral(TEST_FONT),
                  QStringLiteral("--then"), QStringLiteral(HOUSE_FONT), QStringLiteral("--rate"),
                  QStringLiteral("8000")})
                 .code,
             0);
    QVERIFY(QFileInfo(out).size() > 100000);
    QCOMPARE(
        run({QStringLiteral("match"), quay, QStringLiteral("--then"), QStringLiteral("/no/font.sf2")}).code,
        1);
}

/// Fonts that a stranger made are tried in the helper: here one that ends whatever it is given.
void TestCli::fontsOfStrangersEndNothing() {
    QTemporaryDir folder;
    for (const char* name : {"noise.sf2", "noise.sf3", "noise.dls"}) {
        QFile file(folder.filePath(QLatin1String(name)));
        QVERIFY(file.open(QIODevice::WriteOnly));
        std::mt19937 random(5);
        QByteArray bytes = name[6] == 'd' ? "RIFF\x10\x27\0\0DLS colh" : "RIFF\x10\x27\0\0sfbkLIST";
        for (int i = 0; i < 10000; ++i) bytes.append(static_cast<char>(random()));
        file.write(bytes);
    }
    const QByteArray fonts = qgetenv("COBBLEWAY_FONT_PATH");
    qputenv("COBBLEWAY_FONT_PATH", folder.path().toLocal8Bit());
    QCOMPARE(run({QStringLiteral("match"), quay, QStringLiteral("--json")}).code, 0);
    qputenv("COBBLEWAY_PLUGIN_HELPER", "/bin/false");
    QVERIFY(QFile::copy(folder.filePath(QStringLiteral("noise.dls")),
                        folder.filePath(QStringLiteral("other.dls"))));
    QCOMPARE(run({QStringLiteral("match"), quay, QStringLiteral("--json")}).code, 0);
    const Ran named = run(
        {QStringLiteral("fonts"), QStringLiteral("--font"), folder.filePath(QStringLiteral("other.dls"))});
    QCOMPARE(named.code, 1);
    QVERIFY2(named.err.contains("ended the program that tried it"), named.err.constData());
    qunsetenv("COBBLEWAY_PLUGIN_HELPER");
    qputenv("COBBLEWAY_FONT_PATH", fonts);
}

void TestCli::listsInstruments() {
    qputenv("COBBLEWAY_LV2_PATH", "/no/plug-ins");
    const Ran ran = run({QStringLiteral("instruments"), QStringLiteral("--json")});
    QCOMPARE(ran.code, 0);
    QStringList ready;
    for (const auto& one : ran.json().array())
        if (one.toObject()["state"].toString() == QStringLiteral("ready"))
            ready << one.toObject()["kind"].toString() + QLatin1Char(' ') + one.toObject()["name"].toString();
    QCOMPARE(ready, (QStringList{QStringLiteral("effect Evener"), QStringLiteral("instrument Quay reed"),
                                 QStringLiteral("effect Tilt")}));
    QVERIFY(run({QStringLiteral("instruments")}).out.contains("Quay reed"));
}

void TestCli::rendersMixes() {
    QTemporaryDir folder;
    const QString out = folder.filePath(QStringLiteral("x.wav"));
    const Ran whole =
        run({QStringLiteral("render"), quay, out, QStringLiteral("--rate"), QStringLiteral("16000")});
    QCOMPARE(whole.code, 0);
    const auto size = QFileInfo(out).size();
    QVERIFY(size > 175 * 16000 * 6);
    for (const char* option : {"--part", "--without", "--front"}) {
        const Ran ran = run({QStringLiteral("render"), quay, out, QLatin1String(option), QStringLiteral("3"),
                             QStringLiteral("--rate"), QStringLiteral("16000"), QStringLiteral("--replace")});
        QCOMPARE(ran.code, 0);
        QVERIFY(ran.out.contains("peak") && ran.out != whole.out);
    }
}

void TestCli::replacesNothingUnasked() {
    QTemporaryDir folder;
    const QString song = folder.filePath(QStringLiteral("song.mid")),
                  other = folder.filePath(QStringLiteral("other.mid"));
    QVERIFY(QFile::copy(quay, song));
    const auto before = support::fileBytes(song);
    for (const QString& command :
         {QStringLiteral("render"), QStringLiteral("split"), QStringLiteral("join")}) {
        const Ran ran = run({command, song, song, QStringLiteral("--replace")});
        QCOMPARE(ran.code, 1);
        QVERIFY(ran.err.contains("the file that is read"));
    }
    QVERIFY(support::fileBytes(song) == before);
    QCOMPARE(run({QStringLiteral("split"), song, other}).code, 0);
    const Ran again = run({QStringLiteral("split"), song, other});
    QCOMPARE(again.code, 1);
    QVERIFY(again.err.contains("--replace"));
    QCOMPARE(run({QStringLiteral("split"), song, other, QStringLiteral("--replace")}).code, 0);
    const QString parts = folder.filePath(QStringLiteral("parts"));
    QCOMPARE(run({QStringLiteral("parts"), song, parts}).code, 0);
    QCOMPARE(run({QStringLiteral("parts"), song, parts}).code, 1);
}

void TestCli::rendersStems() {
    QTemporaryDir folder;
    QCOMPARE(run({QStringLiteral("render"), march, folder.filePath(QStringLiteral("x.wav")),
                  QStringLiteral("--rate"), QStringLiteral("16000"), QStringLiteral("--stems"),
                  folder.filePath(QStringLiteral("stems"))})
                 .code,
             0);
    const auto stems = QDir(folder.filePath(QStringLiteral("stems"))).entryInfoList(QDir::Files);
    QCOMPARE(stems.size(), 12);
    for (const QFileInfo& stem : stems)
        QCOMPARE(stem.size(), QFileInfo(folder.filePath(QStringLiteral("x.wav"))).size());
}

void TestCli::exportsSets() {
    QTemporaryDir folder;
    const QString into = folder.filePath(QStringLiteral("out"));
    const auto go = [&](QStringList words) {
        return run(QStringList{QStringLiteral("export"), march, QStringLiteral("--into"), into,
                               QStringLiteral("--font"), QStringLiteral(HOUSE_FONT)} +
                   words);
    };
    const Ran ran = go({QStringLiteral("--mixes"), QStringLiteral("full,front,without"),
                        QStringLiteral("--parts"), QStringLiteral("1"), QStringLiteral("--midi"),
                        QStringLiteral("whole,parts"), QStringLiteral("--rate"), QStringLiteral("44100"),
                        QStringLiteral("--bars"), QStringLiteral("1-4"), QStringLiteral("--format"),
                        QStringLiteral("flac"), QStringLiteral("--pace"), QStringLiteral("100,50"),
                        QStringLiteral("--playlists"), QStringLiteral("--json")});
    QVERIFY2(ran.code == 0, ran.err.constData());
    const QJsonArray files = ran.json().array();
    QMap<QString, int> kinds;
    for (const auto& value : files) {
        const QJsonObject file = value.toObject();
        ++kinds[file[k("kind")].toString()];
        QVERIFY(QFileInfo::exists(into + u'/' + file[k("file")].toString()));
        if (file[k("kind")].toString() != QStringLiteral("mix")) continue;
        QVERIFY(file[k("lufs")].toDouble() < -10 && file[k("peak_dbtp")].toDouble() <= -0.99);
        QVERIFY(file[k("seconds")].toDouble() > 5 && file[k("bytes")].toDouble() > 1000);
        QCOMPARE(file[k("mix")].toString() == QStringLiteral("full"), !file.contains(k("part")));
    }
    QCOMPARE(kinds[QStringLiteral("mix")], 6); // three mixes at two paces
    QCOMPARE(kinds[QStringLiteral("midi")], 2);
    QCOMPARE(kinds[QStringLiteral("playlist")], 1);
    // Files that are there are left, and told of.
    const Ran again = go({QStringLiteral("--midi"), QStringLiteral("1")});
    QCOMPARE(again.code, 1);
    QVERIFY(again.err.contains("a file of this name is already there"));
    QCOMPARE(go({QStringLiteral("--midi"), QStringLiteral("1"), QStringLiteral("--replace")}).code, 0);
    // What cannot be understood.
    for (const auto& [option, value] : {std::pair("--mixes", "loud"),
                                        {"--format", "mp9"},
                                        {"--level", "-3"},
                                        {"--pace", "10"},
                                        {"--key", "13"},
                                        {"--bars", "4-2"},
                                        {"--gain", "x"},
                                        {"--count-in", "9"},
                                        {"--parts", "99"},
                                        {"--folders", "x"},
                                        {"--jobs", "0"},
                                        {"--midi", "2"},
                                        {"--recipe", "/nowhere.json"}}) {
        const Ran refused = go({QString::fromUtf8(option), QString::fromUtf8(value)});
        QVERIFY2(refused.code == 2, option);
        QVERIFY2(!refused.err.isEmpty(), option);
    }
    QCOMPARE(run({QStringLiteral("export"), march}).code, 2);
    // One that fails does not stop the others.
    const Ran both = run({QStringLiteral("export"), QStringLiteral("/nowhere.mid"), march,
                          QStringLiteral("--into"), folder.filePath(QStringLiteral("both")),
                          QStringLiteral("--midi"), QStringLiteral("0"), QStringLiteral("--json")});
    QCOMPARE(both.code, 1);
    QCOMPARE(both.json().array().size(), 2);
    QVERIFY(both.json().array()[0].toObject().contains(k("error")));
    QVERIFY(QFileInfo::exists(folder.filePath(QStringLiteral("both/")) +
                              both.json().array()[1].toObject()[k("file")].toString()));
}

/// Of a plug-in that prints nothing is seen; it reads the file that it was given, though it is kept from
/// others.
void TestCli::whatPluginsPrintIsNotSeen() {
    QTemporaryDir folder;
    const QString sample = folder.filePath(QStringLiteral("seven.txt"));
    QVERIFY(writeFile(sample.toStdString(), std::string("7")));
    Song song = edits::chooseSound(Builder().program(0, 0, 73).note(0, 0, 1, 69).song(), 1,
                                   {"urn:cobbleway:test:filed", 0, 0, "Filed", SoundKind::Plugin, 0});
    song.parts[0].sound.settings.files["urn:cobbleway:test:filed#file"] = sample.toStdString();
    SongSet set;
    set.songs.emplace_back(song);
    const QString path = folder.filePath(QStringLiteral("filed.cobbleway")),
                  out = folder.filePath(QStringLiteral("filed.wav"));
    QVERIFY(saveProject(set, path.toStdString()));
    const QByteArray before = qgetenv("COBBLEWAY_LV2_PATH");
    qputenv("COBBLEWAY_LV2_PATH", QFileInfo(QStringLiteral(ODD_PLUGINS)).path().toUtf8());
    const Ran ran = run({k("render"), path, out});
    qputenv("COBBLEWAY_LV2_PATH", before);
    QCOMPARE(ran.code, 0);
    QVERIFY2(ran.err.isEmpty(), ran.err.constData());
    QVERIFY(!ran.out.contains("ok"));
    const double peak = ran.out.mid(ran.out.indexOf("peak ") + 5).split(' ').value(0).toDouble();
    QVERIFY2(peak > -20 && peak < 0, ran.out.constData());
}

/// A set with a plug-in is rendered with it; one whose plug-in is gone is told, and stand-ins must be
/// allowed.
void TestCli::setsPlayWhatTheyWereMadeWith() {
    QTemporaryDir folder;
    const Song plain = Builder().program(0, 0, 73).note(0, 0, 1, 69).song();
    const auto with = [&](const std::string& uri, const std::string& name) {
        return edits::chooseSound(plain, 1, {uri, 0, 0, name, SoundKind::Plugin, 0});
    };
    const auto saved = [&](const char* name, const std::vector<Song>& songs) {
        SongSet set;
        for (const Song& song : songs) set.songs.emplace_back(song);
        const QString path = folder.filePath(QLatin1String(name));
        return saveProject(set, path.toStdString()).ok() ? path : QString();
    };
    const QString reed = saved("reed.cobbleway",
                               {with("https://cobbleway.example/plugins#quayreed", "Quay reed")}),
                  gone = saved("gone.cobbleway", {with("urn:gone", "Silver organ")}),
                  two = saved("two.cobbleway", {plain, with("urn:gone", "Silver organ")});
    const auto rendered = [&](const QString& set, const QStringList& more) {
        const QString out = folder.filePath(QStringLiteral("out.wav"));
        QFile::remove(out);
        const Ran ran =
            run(QStringList{k("render"), set, out, k("--font"), QStringLiteral(TEST_FONT)} + more);
        return std::tuple(ran, fileBytes(out));
    };
    const auto [heard, reedBytes] = rendered(reed, {});
    QCOMPARE(heard.code, 0);
    QVERIFY(heard.err.isEmpty());
    const auto [refused, nothing] = rendered(gone, {});
    QCOMPARE(refused.code, 1);
    QVERIFY(nothing.empty());
    QVERIFY(refused.err.contains("Silver organ") && refused.err.contains("--stand-ins"));
    const auto [allowed, standIn] = rendered(gone, {k("--stand-ins")});
    QCOMPARE(allowed.code, 0);
    QVERIFY(allowed.err.contains("Silver organ"));
    QVERIFY(!standIn.empty() && standIn != reedBytes);
    // Of a set of several songs one is named.
    QVERIFY(std::get<0>(rendered(two, {})).err.contains("--song"));
    QCOMPARE(std::get<0>(rendered(two, {k("--song"), k("1")})).code, 0);
    QCOMPARE(std::get<0>(rendered(two, {k("--song"), k("2")})).code, 1);
    QCOMPARE(std::get<0>(rendered(two, {k("--song"), k("3")})).code, 1);
    // The other commands read sets, too; as MIDI the plug-in is said by its name.
    QCOMPARE(run({k("inspect"), two, k("--json")}).json().array().size(), 2);
    QCOMPARE(run({k("match"), reed, k("--json")}).json().array().at(0).toObject()["match"].toString(),
             k("by hand"));
    const QString midi = folder.filePath(QStringLiteral("gone.mid"));
    QCOMPARE(run({k("split"), gone, midi}).code, 0);
    const Song written = songOf(fileBytes(midi));
    const auto asks = asksOf(written, written.parts[0]);
    QCOMPARE(static_cast<int>(asks.front().program->value), 16); // an organ
    // An export says in its list what is missing.
    const QStringList exports = {
        k("export"),  gone,      k("--into"), folder.filePath(QStringLiteral("files")),
        k("--mixes"), k("full"), k("--json")};
    const Ran told = run(exports);
    QCOMPARE(told.code, 1);
    QVERIFY(told.json().array().at(0).toObject()["error"].toString().contains(k("Silver organ")));
    QVERIFY(!QDir(folder.filePath(QStringLiteral("files"))).exists() ||
            QDir(folder.filePath(QStringLiteral("files"))).isEmpty());
    QCOMPARE(run(exports + QStringList{k("--stand-ins")}).code, 0);
}

void TestCli::endingsChooseTheFormat() {
    QTemporaryDir folder;
    // A word in a name that is none is an error, before anything is written.
    const Ran wrong =
        run({k("export"), quay, k("--into"), folder.filePath(k("none")), k("--names"), k("{song} {tittle}")});
    QCOMPARE(wrong.code, 2);
    QVERIFY(wrong.err.contains("tittle") && !QDir(folder.filePath(k("none"))).exists());
    const QString song = folder.filePath(QStringLiteral("in.mid"));
    QFile file(song);
    QVERIFY(file.open(QIODevice::WriteOnly));
    const auto bytes = writeMidi(Builder().program(0, 0, 0).note(0, 0, 0.2, 69).file);
    file.write(reinterpret_cast<const char*>(bytes.data()), static_cast<qint64>(bytes.size()));
    file.close();
    const auto rendered = [&](const char* name, const QStringList& more = {}) {
        const QString out = folder.filePath(QLatin1String(name));
        const Ran ran =
            run(QStringList{k("render"), song, out, k("--font"), QStringLiteral(TEST_FONT)} + more);
        return std::pair(ran, fileBytes(out));
    };
    // RFC 9639 (FLAC), RFC 3533 (Ogg), RIFF: how their files begin.
    for (const auto& [name, begins] :
         {std::pair("a.wav", "RIFF"), {"a.FLAC", "fLaC"}, {"a.ogg", "OggS"}, {"a.opus", "OggS"}}) {
        const auto [ran, out] = rendered(name);
        QVERIFY2(ran.code == 0, ran.err.constData());
        QCOMPARE(QByteArray(reinterpret_cast<const char*>(out.data()), 4), QByteArray(begins));
    }
    const auto [unknown, none] = rendered("a.mid");
    QCOMPARE(unknown.code, 2);
    QVERIFY(none.empty() && unknown.err.contains(".flac"));
    QCOMPARE(rendered("b.opus", {k("--rate"), k("44100")}).first.code, 2);
    QCOMPARE(rendered("b.flac", {k("--rate"), k("44100")}).first.code, 0);
}

void TestCli::aFileWithoutMusicIsRefused() {
    QTemporaryDir folder;
    const std::pair<const char*, QByteArray> files[] = {
        {"header.mid", QByteArray::fromHex("4D546864000000060001000000 60")},
        {"text.mid", "This text speaks of MThd and of MTrk, and of nothing else."},
        {"program.mid",
         QByteArray::fromHex("4D54686400000006000000010060 4D54726B00000007 00C005 00FF2F00")}};
    for (const auto& [name, bytes] : files) {
        const QString path = folder.filePath(QLatin1String(name));
        QFile file(path);
        QVERIFY(file.open(QIODevice::WriteOnly) && file.write(bytes) == bytes.size());
        file.close();
        const Ran ran = run({QStringLiteral("inspect"), path});
        QCOMPARE(ran.code, 1);
        QVERIFY2(ran.err.contains("There are no notes in this file."), ran.err.constData());
    }
}

void TestCli::anInterruptStopsWithoutDebris() {
    QTemporaryDir folder;
    QProcess process;
    process.start(QStringLiteral(BIN_FOLDER "/cobbleway-cli"),
                  {QStringLiteral("export"), quay, QStringLiteral("--into"), folder.path(),
                   QStringLiteral("--mixes"), QStringLiteral("full,alone"), QStringLiteral("--font"),
                   QStringLiteral(HOUSE_FONT)});
    QVERIFY(process.waitForStarted());
    QTest::qWait(700);
    kill(static_cast<pid_t>(process.processId()), SIGINT);
    QVERIFY(process.waitForFinished(20000));
    QCOMPARE(process.exitStatus(), QProcess::NormalExit);
    QCOMPARE(process.exitCode(), 1);
    QVERIFY(QDir(folder.path()).entryList(QDir::Files | QDir::Hidden).isEmpty());
}

/// Kills at random moments; COBBLEWAY_KILLS says how many, 24 when it is not set.
void TestCli::killsLeaveNothingHalfWritten() {
    bool given = false;
    const int wanted = qEnvironmentVariableIntValue("COBBLEWAY_KILLS", &given);
    QTemporaryDir folder;
    const QString into = folder.filePath(QStringLiteral("out"));
    Builder b(1, 3);
    for (int i = 0; i < 6; ++i) b.note(0, i * 0.5, 0.4, 60 + i, 100, 1).note(1, i * 0.5, 0.4, 48 + i, 100, 2);
    const QString song = folder.filePath(QStringLiteral("song.mid"));
    {
        QFile file(song);
        QVERIFY(file.open(QIODevice::WriteOnly));
        b.file.sortTracks();
        const auto bytes = writeMidi(b.file);
        file.write(reinterpret_cast<const char*>(bytes.data()), static_cast<qint64>(bytes.size()));
    }
    const QStringList words = {QStringLiteral("export"),  song,
                               QStringLiteral("--into"),  into,
                               QStringLiteral("--mixes"), QStringLiteral("full,front,alone,without"),
                               QStringLiteral("--level"), QStringLiteral("-18"),
                               QStringLiteral("--trim"),  QStringLiteral("--midi"),
                               QStringLiteral("1"),       QStringLiteral("--replace"),
                               QStringLiteral("--font"),  QStringLiteral(TEST_FONT)};
    QElapsedTimer clock;
    clock.start();
    const Ran whole = run(words);
    QVERIFY2(whole.code == 0, whole.err.constData());
    const int takes = std::max<int>(40, static_cast<int>(clock.elapsed()));
    std::map<QString, qint64> sizes;
    for (const QFileInfo& file : QDir(into).entryInfoList(QDir::Files | QDir::Hidden))
        sizes[file.fileName()] = file.size();
    QCOMPARE(sizes.size(), std::size_t{8});
    std::mt19937 random(15);
    int killed = 0;
    for (int i = 0; i < (given ? wanted : 24); ++i) {
        if (i % 2 == 0) QDir(into).removeRecursively();
        QProcess process;
        process.start(QStringLiteral(BIN_FOLDER "/cobbleway-cli"), words);
        QVERIFY(process.waitForStarted());
        if (!process.waitForFinished(static_cast<int>(random() % static_cast<unsigned>(takes)))) {
            kill(static_cast<pid_t>(process.processId()), SIGKILL);
            process.waitForFinished();
            ++killed;
        }
        for (const QFileInfo& file : QDir(into).entryInfoList(QDir::Files)) {
            QVERIFY2(sizes.count(file.fileName()) == 1, qPrintable(file.fileName()));
            QCOMPARE(file.size(), sizes[file.fileName()]);
        }
    }
    QVERIFY(killed > 0);
    // The next run clears away what they left.
    QCOMPARE(run(words).code, 0);
    QCOMPARE(QDir(into).entryList(QDir::Files | QDir::Hidden).size(), 8);
}

void TestCli::tellsDrums() {
    const Ran ran = run({QStringLiteral("drums"), quay, QStringLiteral("--font"), QStringLiteral(HOUSE_FONT),
                         QStringLiteral("--json")});
    QCOMPARE(ran.code, 0);
    const QJsonArray parts = ran.json().array();
    QCOMPARE(parts.size(), 1);
    const QJsonObject drums = parts[0].toObject();
    QCOMPARE(drums[k("index")].toInt(), 10);
    QCOMPARE(drums[k("name")].toString(), QStringLiteral("Drums"));
    QCOMPARE(drums[k("kit")][k("bank")].toInt(), 128);
    int hits = 0;
    for (const auto& note : drums[k("notes")].toArray()) {
        hits += note[k("hits")].toInt();
        QVERIFY(!note[k("silent")].toBool());
        QVERIFY(note[k("instead")].isNull());
        QCOMPARE(note[k("plays")].toInt(), note[k("key")].toInt());
    }
    QCOMPARE(hits, 1192);
    QCOMPARE(drums[k("kits")][0][k("sounding_hits")].toInt(), hits);
    const QJsonValue hat = drums[k("notes")][3];
    QCOMPARE(hat[k("key")].toInt(), 42);
    QCOMPARE(hat[k("piece")].toString(), QStringLiteral("hats"));
    QCOMPARE(hat[k("from")].toString(), QStringLiteral("kit"));
    QCOMPARE(hat[k("lowest_velocity")].toInt(), 28);
    QVERIFY(run({QStringLiteral("drums"), quay}).out.contains("42 "));
    const Ran none = run({QStringLiteral("drums"), QStringLiteral(DEMO_FOLDER "/pilots-evening-song.kar"),
                          QStringLiteral("--json")});
    QCOMPARE(none.code, 0);
    QVERIFY(none.json().array().isEmpty());
}

void TestCli::fitsDrums() {
    QTemporaryDir folder;
    const QString in = folder.filePath(QStringLiteral("in.mid")),
                  out = folder.filePath(QStringLiteral("out.mid"));
    Builder b;
    for (int k = 20; k < 100; ++k) b.note(9, (k - 20) * 0.25, 0.1, k, 40 + k % 80);
    b.file.sortTracks();
    const Bytes bytes = writeMidi(b.file);
    QFile file(in);
    QVERIFY(file.open(QIODevice::WriteOnly));
    file.write(reinterpret_cast<const char*>(bytes.data()), static_cast<qint64>(bytes.size()));
    file.close();
    const QStringList font = {QStringLiteral("--font"), QStringLiteral(HOUSE_FONT), QStringLiteral("--json")};
    QCOMPARE(run(QStringList{QStringLiteral("drums"), in, QStringLiteral("--fit"), out} + font).code, 0);
    const auto count = [&](const QString& path) {
        int silent = 0, hits = 0;
        for (const auto& note :
             run(QStringList{QStringLiteral("drums"), path} + font).json().array()[0][k("notes")].toArray()) {
            silent += note[k("silent")].toBool();
            hits += note[k("hits")].toInt();
        }
        return std::pair(silent, hits);
    };
    QVERIFY(count(in).first > 5);
    QCOMPARE(count(out), std::pair(0, count(in).second));
    QCOMPARE(run(QStringList{QStringLiteral("drums"), in, QStringLiteral("--fit"), out} + font).code,
             1); // it is there
    QCOMPARE(run(QStringList{QStringLiteral("drums"), in, QStringLiteral("--fit"), in} + font).code, 1);
}

void TestCli::tellsNames() {
    QTemporaryDir folder;
    const QString in = folder.filePath(QStringLiteral("in.txt")),
                  out = folder.filePath(QStringLiteral("out.midnam"));
    QFile file(in);
    QVERIFY(file.open(QIODevice::WriteOnly));
    file.write("36 grosse caisse\nnothing\n45 Tom 2\n50 Gong-ho\n");
    file.close();
    const Ran ran = run({QStringLiteral("names"), in, QStringLiteral("--meant"), QStringLiteral("--json"),
                         QStringLiteral("--write"), out});
    QCOMPARE(ran.code, 0);
    const QJsonObject names = ran.json().object();
    QCOMPARE(names[k("format")].toString(), QStringLiteral("text"));
    QCOMPARE(names[k("names")].toArray().size(), 3);
    QCOMPARE(names[k("names")][0][k("meant")][k("gm")].toInt(), 36);
    QCOMPARE(names[k("names")][0][k("meant")][k("piece")].toString(), QStringLiteral("kick"));
    QVERIFY(names[k("names")][0][k("meant")][k("sure")].toBool());
    QVERIFY(!names[k("names")][1][k("meant")][k("sure")].toBool());
    QVERIFY(names[k("names")][2][k("meant")].isNull());
    QCOMPARE(names[k("mended")].toArray().size(), 1);
    QCOMPARE(names[k("mended")][0][k("line")].toInt(), 2);
    const Ran again = run({QStringLiteral("names"), out, QStringLiteral("--json")});
    QCOMPARE(again.json().object()[k("format")].toString(), QStringLiteral("midnam"));
    QCOMPARE(again.json().object()[k("names")].toArray().size(), 3);
    QVERIFY(!again.json().object()[k("names")][0].toObject().contains(QStringLiteral("meant")));
    const Ran none = run({QStringLiteral("names"), quay});
    QCOMPARE(none.code, 1);
    QVERIFY(!none.err.isEmpty());
    QCOMPARE(run({QStringLiteral("names"), out, QStringLiteral("--list"), QStringLiteral("2")}).code, 2);
}

void TestCli::refuses_data() {
    QTest::addColumn<QStringList>("words");
    QTest::addColumn<int>("code");
    QTest::newRow("nothing") << QStringList{} << 2;
    QTest::newRow("unknown command") << QStringList{QStringLiteral("sing")} << 2;
    QTest::newRow("unknown option") << QStringList{QStringLiteral("inspect"), quay, QStringLiteral("--loud")}
                                    << 2;
    QTest::newRow("option without value")
        << QStringList{QStringLiteral("match"), quay, QStringLiteral("--font")} << 2;
    QTest::newRow("no file") << QStringList{QStringLiteral("inspect")} << 2;
    QTest::newRow("font that is not there")
        << QStringList{QStringLiteral("fonts"), QStringLiteral("--font"), QStringLiteral("/nowhere.sf2")}
        << 1;
    QTest::newRow("font that is none")
        << QStringList{QStringLiteral("fonts"), QStringLiteral("--font"), quay} << 1;
    QTest::newRow("part that is not there")
        << QStringList{QStringLiteral("render"), quay, QStringLiteral("/tmp/x.wav"), QStringLiteral("--part"),
                       QStringLiteral("11")}
        << 2;
    QTest::newRow("part that is no number")
        << QStringList{QStringLiteral("render"), quay, QStringLiteral("/tmp/x.wav"),
                       QStringLiteral("--front"), QStringLiteral("three")}
        << 2;
    QTest::newRow("rate out of range")
        << QStringList{QStringLiteral("render"), quay, QStringLiteral("/tmp/x.wav"), QStringLiteral("--rate"),
                       QStringLiteral("1")}
        << 2;
    QTest::newRow("not a MIDI file") << QStringList{QStringLiteral("split"), QStringLiteral(TEST_FONT),
                                                    QStringLiteral("/tmp/x.mid")}
                                     << 1;
}

void TestCli::refuses() {
    QFETCH(QStringList, words);
    QFETCH(int, code);
    const Ran ran = run(words);
    QCOMPARE(ran.code, code);
    QVERIFY(!ran.err.isEmpty());
}

void TestCli::aFolderThatIsNotThereIsTold() {
    const QTemporaryDir folder;
    for (const char* command : {"render", "split"}) {
        const Ran ran = run({QLatin1String(command), quay, folder.filePath(QStringLiteral("none/x.wav"))});
        QCOMPARE(ran.code, 1);
        QCOMPARE(QString::fromUtf8(ran.err).trimmed(),
                 folder.filePath(QStringLiteral("none")) +
                     QStringLiteral(": There is no such folder. Choose another folder."));
    }
}

QTEST_APPLESS_MAIN(TestCli)
#include "tst_cli.moc"
