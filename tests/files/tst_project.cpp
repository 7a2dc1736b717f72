#include "support/anyedit.h"

#include "files/project.h"
#include "files/songfile.h"

#include <QTemporaryDir>
#include <nlohmann/json.hpp>
#include <random>

using namespace support;

namespace {

SongSet someSet() {
    SongSet set{"Lantern festival", {}, {}, {}};
    Song quay =
        edits::chooseSound(edits::setPan(edits::setLevel(demoSong("lantern_quay.mid"), 3, -4.5), 2, 0.25), 7,
                           {"house", 0, 32, "Acoustic Bass"});
    quay =
        edits::settle(edits::moveTo(edits::rename(edits::volumeIntoLevel(edits::setOctaves(quay, 8, -1), 1),
                                                  4, "Squeezebox “left”"),
                                    9, 0),
                      "bass-on-guitar:7");
    set.songs.emplace_back(edits::putInFront(edits::setKeyShift(quay, -2), 3));
    set.songs.emplace_back(edits::giveProgram(demoSong("SLACKW~1.MID"), 2, Program{57}));
    return set;
}

} // namespace

class TestProject : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void savedAndOpenedIsEqual();
    void anyShapingIsSaved();
    void versionOneIsRead();
    void isPlainJson();
    void aDamagedProjectIsRefusedWhole_data();
    void aDamagedProjectIsRefusedWhole();
    void survivesAnyBytes();
    void savingLeavesOldOrNew();
    void fileNames_data();
    void fileNames();
    void findsMidiFilesInFolders();
};

void TestProject::savedAndOpenedIsEqual() {
    QTemporaryDir folder;
    const auto path = folder.filePath(QStringLiteral("festival.cobbleway")).toStdString();
    const SongSet set = someSet();
    QVERIFY(saveProject(set, path).ok());
    const auto opened = openProject(path);
    QVERIFY2(opened.ok(), opened ? "" : opened.error().message().c_str());
    QVERIFY(opened.value() == set);
    QCOMPARE(projectText(opened.value()), projectText(set));
}

void TestProject::anyShapingIsSaved() {
    std::mt19937 random(71);
    for (int round = 0; round < 60; ++round) {
        Song song = songOf(randomFile(random));
        for (int i = 0; i < 15; ++i) song = anyShaping(song, random);
        song = edits::setMidiShape(song, {round % 2 == 0, round % 3 == 0, round % 5 == 0});
        SongSet set;
        set.songs.emplace_back(song);
        const auto opened = parseProject(projectText(set), "x");
        QVERIFY2(opened.ok(), opened ? "" : opened.error().message().c_str());
        const Song& again = *opened.value().songs[0];
        QVERIFY(again.parts == song.parts);
        QVERIFY(again.tempo == song.tempo && again.sections == song.sections && again.made == song.made);
        QVERIFY(again == song);
    }
}

void TestProject::versionOneIsRead() {
    SongSet set;
    set.songs.emplace_back(Builder().cc(0, 0, 7, 90).note(0, 0, 1, 60).song());
    auto json = nlohmann::json::parse(projectText(set));
    json["version"] = 1;
    json["songs"][0].erase("encoding");
    json["songs"][0]["parts"][0]["droppedControllers"] = {7, 300};
    const auto opened = parseProject(json.dump(), "x");
    QVERIFY(opened.ok());
    QVERIFY(opened.value().songs[0]->parts[0].recipe.drops(7));
}

void TestProject::isPlainJson() {
    const auto json = nlohmann::json::parse(projectText(someSet()));
    QCOMPARE(json["format"].get<std::string>(), std::string("cobbleway"));
    QCOMPARE(json["version"].get<int>(), projectVersion);
    // RFC 4648, 4: the MIDI file inside is base64.
    const QByteArray midi =
        QByteArray::fromBase64(QByteArray::fromStdString(json["songs"][0]["midi"].get<std::string>()),
                               QByteArray::AbortOnBase64DecodingErrors);
    const Bytes wanted = fileBytes(QStringLiteral(DEMO_FOLDER "/lantern_quay.mid"));
    QCOMPARE(midi,
             QByteArray(reinterpret_cast<const char*>(wanted.data()), static_cast<qsizetype>(wanted.size())));
}

void TestProject::aDamagedProjectIsRefusedWhole_data() {
    QTest::addColumn<QByteArray>("text");
    QTest::newRow("empty") << QByteArray();
    QTest::newRow("not JSON") << QByteArray("hello");
    QTest::newRow("other JSON") << QByteArray("{\"a\":1}");
    QTest::newRow("newer version") << QByteArray(
        R"({"format":"cobbleway","version":99,"name":"x","songs":[]})");
    QTest::newRow("no songs") << QByteArray(R"({"format":"cobbleway","version":1,"name":"x"})");
    QTest::newRow("song without MIDI")
        << QByteArray(R"({"format":"cobbleway","version":1,"name":"x","songs":[{}]})");
    QTest::newRow("MIDI that is none") << QByteArray(
        R"({"format":"cobbleway","version":1,"name":"x","songs":[{"midi":"AAAA","file":"x"}]})");
    QTest::newRow("wrong types") << QByteArray(
        R"({"format":"cobbleway","version":"one","name":3,"songs":{}})");
}

void TestProject::aDamagedProjectIsRefusedWhole() {
    QFETCH(QByteArray, text);
    const auto opened = parseProject(text.toStdString(), "x.cobbleway");
    QVERIFY(!opened.ok());
    QCOMPARE(opened.error().where.empty(), false);
    QVERIFY(!opened.error().whatNow.empty());
}

void TestProject::survivesAnyBytes() {
    std::mt19937 random(9);
    SongSet small;
    small.songs.emplace_back(Builder().program(0, 0, 1).note(0, 0, 1, 60).song());
    const std::string whole = projectText(small);
    for (int round = 0; round < 3000; ++round) {
        std::string text = whole;
        for (int i = 0; i < 3; ++i) text[random() % text.size()] = static_cast<char>(random() % 128);
        const auto opened = parseProject(text, "x");
        if (opened)
            for (const auto& song : opened.value().songs)
                QVERIFY(song->bars() >= 1 && std::abs(song->keyShift) <= 24);
    }
}

void TestProject::savingLeavesOldOrNew() {
    QTemporaryDir folder;
    const auto path = folder.filePath(QStringLiteral("a.cobbleway")).toStdString();
    QVERIFY(writeFile(path, std::string("old")).ok());
    {
        AtomicFile unfinished(path);
        QFile half(QString::fromStdString(unfinished.temporaryPath().string()));
        QVERIFY(half.open(QIODevice::WriteOnly));
        half.write("ne");
    } // dropped without commit()
    QCOMPARE(readFile(path).value(), (Bytes{'o', 'l', 'd'}));
    QCOMPARE(QDir(folder.path()).entryList(QDir::Files | QDir::Hidden).size(), 1);
    QVERIFY(writeFile(path, std::string("new")).ok());
    QCOMPARE(readFile(path).value(), (Bytes{'n', 'e', 'w'}));
    const auto refused = writeFile("/nowhere/at/all/x", std::string("x"));
    QVERIFY(!refused.ok());
    QVERIFY(!refused.error().whatNow.empty());
}

void TestProject::fileNames_data() {
    QTest::addColumn<QString>("text");
    QTest::addColumn<QString>("name");
    QTest::newRow("plain") << "Lantern Quay"
                           << "Lantern Quay";
    QTest::newRow("slashes") << "A/B\\C: \"D\"?"
                             << "A-B-C- -D--";
    QTest::newRow("hidden") << "..secret."
                            << "secret";
    QTest::newRow("nothing") << ""
                             << "song";
    QTest::newRow("letters of the world") << QString::fromUtf8("潮だるみ") << QString::fromUtf8("潮だるみ");
}

void TestProject::fileNames() {
    QFETCH(QString, text);
    QFETCH(QString, name);
    QCOMPARE(QString::fromStdString(fileNameFrom(text.toStdString())), name);
}

void TestProject::findsMidiFilesInFolders() {
    QTemporaryDir folder;
    QDir(folder.path()).mkdir(QStringLiteral("deeper"));
    for (const char* name : {"b.MID", "a.mid", "c.txt", "deeper/d.kar"}) {
        QFile file(folder.filePath(QLatin1String(name)));
        QVERIFY(file.open(QIODevice::WriteOnly));
    }
    QCOMPARE(midiFilesIn(folder.path().toStdString()).size(), std::size_t{3});
    QVERIFY(midiFilesIn("/nowhere/at/all").empty());
    const auto song = openSong(folder.filePath(QStringLiteral("a.mid")).toStdString());
    QVERIFY(!song.ok());
    QVERIFY(QString::fromStdString(song.error().what).contains(QStringLiteral("empty")));
}

QTEST_APPLESS_MAIN(TestProject)
#include "tst_project.moc"
