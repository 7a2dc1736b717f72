/// The state behind the window, and the small controls.
#include "support/support.h"

#include "app/look/theme.h"
#include "app/session/paths.h"
#include "app/session/session.h"
#include "app/session/settings.h"
#include "app/widgets/head.h"
#include "app/widgets/notespicture.h"
#include "app/widgets/painting.h"
#include "app/widgets/small.h"
#include "files/earliersaves.h"
#include "files/folders.h"
#include "midi/writer.h"
#include "song/shape/edits.h"
#include "song/shape/join.h"
#include "song/shape/splits.h"
#include "song/shape/timeedits.h"

#include <QDir>
#include <QElapsedTimer>
#include <QPainter>
#include <QSignalSpy>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <QToolButton>
#include <QUrl>
#include <malloc.h>

using namespace support;

class TestSession : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void initTestCase();
    void init();
    void cleanup() { m_session->recovery.end(); } // as a window that is closed
    void playWaitsForItsSounds();
    void playingAnotherSongStopsTheFirst();
    void tryingIsDroppedWhenTheSongChanges();
    void sectionsAreSteppedThrough();
    void loopsAreTidied();
    void paceIsHeldInRange();
    void linesAreKeptUntilTheyChange();
    void removingSongsAndUndoing();
    void undoShowsTheSongThatItChanges();
    void signalsAreSentOnlyForWhatHasChanged();
    void theLoopKeepsToTheNotes();
    void theLoopMovesWithTheStart();
    void aKeyboardPlaysTheSelectedPart();
    void workThatWasNotSavedIsKept();
    void aSetThatOthersChangedIsNotReplaced();
    void aFileThatChangedIsReadAgain();
    void filesOfPluginsAreCollected();
    void memoryIsThatOfTheOpenSet();
    void closingWaitsForNobody();
    void recentFilesAreTenAndUnlike();
    void factsLine();
    void wordsForNumbers();
    void keyboardPlaysByMouseAndKeys();
    void segmentsTellWhatIsChosen();
    void flowLayoutWraps();
    void notesPictureTurnsPages();
    void lanesAreDrawn();
    void theSongGoesOnWhenItsOutputHasGone();
    void aPluginThatGoesAstrayIsTold();
    void aPluginThatHasEndedIsStartedAgain();
    void namesThatAreNotUtf8Open();
    void aFolderIsOneStep();

  private:
    void open(const QStringList& names);
    std::unique_ptr<Session> m_session;
};

void TestSession::initTestCase() {
    QStandardPaths::setTestModeEnabled(true);
    QDir(Recovery::folder()).removeRecursively(); // what a run that was killed may have left
    QCoreApplication::setOrganizationName(QStringLiteral("cobbleway-session-tests"));
    loadFonts();
    applyTheme(ThemeChoice::Light);
}

void TestSession::init() {
    settings::setTidiesOnOpening(false); // levels as the file has them
    m_session = std::make_unique<Session>();
    QVERIFY(m_session->output.player().open("silent").ok());
}

void TestSession::open(const QStringList& names) {
    QStringList paths;
    for (const QString& name : names) paths << QStringLiteral(DEMO_FOLDER "/") + name;
    m_session->files.addPaths(paths);
    QTRY_COMPARE(static_cast<qsizetype>(m_session->current.set().songs.size()), names.size());
}

void TestSession::playWaitsForItsSounds() {
    open({QStringLiteral("lantern_quay.mid")});
    m_session->sounds.setCatalogue(fontsAt(HOUSE_FONT)); // its font is still to be loaded
    m_session->transport.togglePlay();
    QVERIFY(m_session->transport.isPlaying());
    QTRY_VERIFY_WITH_TIMEOUT(m_session->output.player().seconds() > 0.1, scaled(10000));
    m_session->transport.togglePlay();
    QVERIFY(!m_session->transport.isPlaying());
}

void TestSession::playingAnotherSongStopsTheFirst() {
    QSignalSpy ready(&m_session->planner, &Planner::planReady);
    open({QStringLiteral("lantern_quay.mid"), QStringLiteral("TIDEMILL.MID")});
    QTRY_VERIFY(!ready.isEmpty());
    m_session->transport.togglePlay();
    m_session->current.showSong(1);
    QVERIFY(!m_session->transport.isPlaying());
    QTRY_COMPARE(m_session->transport.place(), Tick{0});
    QCOMPARE(m_session->current.song().title, std::string("Tide Mill Reel"));
    m_session->current.showSong(7); // there is none
    QCOMPARE(m_session->current.songIndex(), 1);
}

void TestSession::tryingIsDroppedWhenTheSongChanges() {
    m_session->sounds.setCatalogue(fontsAt(HOUSE_FONT));
    open({QStringLiteral("lantern_quay.mid")});
    m_session->sounds.trySound({houseFontId, 0, 40, "Violin"});
    QVERIFY(m_session->sounds.isTrying());
    m_session->current.selectPart(3);
    QVERIFY(!m_session->sounds.isTrying());
    m_session->sounds.trySound({houseFontId, 0, 40, "Violin"});
    m_session->current.edit(QStringLiteral("Set level"),
                            [](const Song& song) { return edits::setLevel(song, 1, -3); });
    QVERIFY(!m_session->sounds.isTrying());
    QVERIFY(!m_session->current.song().part(3)->sound.chosen);
    m_session->sounds.trySound({houseFontId, 0, 40, "Violin"});
    m_session->sounds.keepTried();
    QCOMPARE(m_session->current.undoName(), QStringLiteral("Use Violin for Clarinets"));
}

void TestSession::sectionsAreSteppedThrough() {
    open({QStringLiteral("lantern_quay.mid")});
    const auto bar = [this] {
        return m_session->current.song().tempo->position(m_session->transport.place()).bar;
    };
    for (const int wanted : {9, 25, 41, 57, 73}) {
        m_session->transport.seekSection(1);
        QTRY_COMPARE(bar(), wanted);
    }
    m_session->transport.seekSection(-1);
    QTRY_COMPARE(bar(), 57);
}

void TestSession::loopsAreTidied() {
    open({QStringLiteral("lantern_quay.mid")});
    m_session->transport.setLoop({5000, 1000, true});
    QCOMPARE(m_session->transport.loop().start, Tick{1000});
    QCOMPARE(m_session->transport.loop().end, Tick{5000});
    m_session->transport.setLoop({700, 700, true});
    QVERIFY(!m_session->transport.loop().on);
}

void TestSession::paceIsHeldInRange() {
    QSignalSpy changed(&m_session->transport, &Transport::paceChanged);
    m_session->transport.setPace(1000);
    QCOMPARE(m_session->transport.pace(), 200);
    m_session->transport.setPace(-4);
    QCOMPARE(m_session->transport.pace(), 25);
    m_session->transport.setPace(25);
    QCOMPARE(changed.size(), 2);
}

void TestSession::linesAreKeptUntilTheyChange() {
    open({QStringLiteral("lantern_quay.mid")});
    const auto before = m_session->findings.heard(3);
    m_session->current.edit(QStringLiteral("x"),
                            [](const Song& song) { return edits::setLevel(song, 1, -3); });
    QCOMPARE(m_session->findings.heard(3), before); // another part's level changes nothing here
    const Key first = before->notes.front().key;
    m_session->current.edit(QStringLiteral("x"),
                            [](const Song& song) { return edits::setOctaves(song, 3, 1); });
    QCOMPARE(m_session->findings.heard(3)->notes.front().key.value, first.value + 12);
    QVERIFY(m_session->findings.heard(99)->notes.empty());
}

void TestSession::removingSongsAndUndoing() {
    open({QStringLiteral("lantern_quay.mid"), QStringLiteral("TIDEMILL.MID")});
    m_session->current.showSong(1);
    m_session->current.removeSongs({0});
    QCOMPARE(m_session->current.song().title, std::string("Tide Mill Reel"));
    m_session->current.removeSongs({0});
    QVERIFY(!m_session->current.hasSong());
    m_session->current.undo();
    m_session->current.undo();
    QCOMPARE(m_session->current.set().songs.size(), std::size_t{2});
    m_session->sounds.setCatalogue(fontsAt(HOUSE_FONT));
    QCOMPARE(m_session->findings.snagsOf(0)->size(), std::size_t{10});
    QCOMPARE(m_session->findings.snagsOf(1)->size(), std::size_t{8});
}

void TestSession::undoShowsTheSongThatItChanges() {
    open({QStringLiteral("lantern_quay.mid"), QStringLiteral("TIDEMILL.MID")});
    m_session->current.showSong(0);
    m_session->current.edit(QStringLiteral("x"),
                            [](const Song& song) { return edits::setLevel(song, 2, -9); });
    m_session->current.showSong(1);
    QSignalSpy shown(&m_session->current, &CurrentSet::songsChanged);
    m_session->current.undo();
    QCOMPARE(m_session->current.songIndex(), 0);
    QCOMPARE(m_session->current.song().part(2)->mix.levelDb, 0.0);
    QCOMPARE(shown.size(), 1);
    m_session->current.showSong(1);
    m_session->current.redo();
    QCOMPARE(m_session->current.songIndex(), 0);
    // Taking away a song before the one that is shown leaves that one.
    m_session->current.showSong(1);
    const auto file = m_session->current.song().source;
    m_session->current.removeSongs({0});
    QVERIFY(m_session->current.song().source == file);
    QCOMPARE(m_session->current.songIndex(), 0);
}

void TestSession::signalsAreSentOnlyForWhatHasChanged() {
    open({QStringLiteral("lantern_quay.mid")});
    std::vector<Sides> sides;
    connect(&m_session->current, &CurrentSet::songChanged, this, [&](Sides s) { sides.push_back(s); });
    QSignalSpy selection(&m_session->current, &CurrentSet::selectionChanged),
        snags(&m_session->findings, &Findings::snagsChanged),
        matches(&m_session->findings, &Findings::matchesChanged),
        songs(&m_session->current, &CurrentSet::songsChanged);
    m_session->current.edit(QStringLiteral("x"),
                            [](const Song& song) { return edits::setLevel(song, 2, -9); });
    QCOMPARE(sides.size(), std::size_t{1});
    QVERIFY(sides[0] == Sides(Side::Levels));
    QVERIFY(selection.empty() && snags.empty() && matches.empty() && songs.empty());
    m_session->current.edit(QStringLiteral("x"),
                            [](const Song& song) { return edits::rename(song, 2, "Bells"); });
    QVERIFY(sides[1] == Sides(Side::Names));
    m_session->current.edit(QStringLiteral("x"), [](const Song& song) { return edits::scaleTempo(song, 2); });
    QVERIFY(sides[2] == Sides(Side::Time));
    m_session->current.edit(QStringLiteral("x"),
                            [](const Song& song) { return edits::setOctaves(song, 2, 1); });
    QVERIFY(sides[3] == Sides(Side::Notes));
    QVERIFY(selection.empty() && songs.empty());
    disconnect(&m_session->current, nullptr, this, nullptr);
}

void TestSession::theLoopKeepsToTheNotes() {
    open({QStringLiteral("lantern_quay.mid")});
    const auto barStart = [&](int bar) { return m_session->current.song().tempo->barStart(bar); };
    m_session->transport.setLoop({barStart(9), barStart(11), true});
    const Loop loop = m_session->transport.loop();
    QVERIFY(m_session->output.player().open("silent").ok());
    QTRY_VERIFY_WITH_TIMEOUT(m_session->planner.isPlanned(), scaled(20000));
    m_session->current.edit(QStringLiteral("x"),
                            [](const Song& song) { return edits::scaleTempo(song, 10); });
    QVERIFY(m_session->transport.loop() == loop); // the same bars, at another time
    m_session->transport.seek(barStart(10));
    m_session->transport.togglePlay();
    QTRY_VERIFY_WITH_TIMEOUT(m_session->output.player().loopRounds() > 0, scaled(20000));
    QVERIFY(m_session->transport.place() < barStart(11));
    m_session->transport.togglePlay();
    m_session->files.newSet();
    QVERIFY(!m_session->transport.loop().on);
}

void TestSession::theLoopMovesWithTheStart() {
    QTemporaryDir folder;
    const QString path = folder.filePath(QStringLiteral("late.mid"));
    QFile file(path);
    QVERIFY(file.open(QIODevice::WriteOnly));
    Builder late;
    late.note(0, 8, 1, 60).note(0, 10, 1, 62).file.sortTracks();
    const Bytes bytes = writeMidi(late.file);
    file.write(reinterpret_cast<const char*>(bytes.data()), qint64(bytes.size()));
    file.close();
    m_session->files.addPaths({path});
    QTRY_VERIFY(m_session->current.hasSong());
    m_session->transport.setLoop({Builder::at(10), Builder::at(11), true});
    m_session->current.edit(QStringLiteral("x"), [](const Song& song) {
        return edits::removeLeadingSilence(song, Builder::at(8));
    });
    QCOMPARE(m_session->transport.loop().start, Builder::at(2));
    QCOMPARE(m_session->transport.loop().end, Builder::at(3));
    m_session->current.undo();
    QCOMPARE(m_session->transport.loop().start, Builder::at(10));
}

void TestSession::aFolderIsOneStep() {
    // Songs come as they are read; all of them are one step, even when something else is let go meanwhile.
    QTemporaryDir folder;
    constexpr int count = 60;
    for (int i = 0; i < count; ++i)
        QVERIFY(QFile::copy(QStringLiteral(DEMO_FOLDER "/lantern_quay.mid"),
                            folder.filePath(QStringLiteral("%1.mid").arg(i))));
    CurrentSet& current = m_session->current;
    m_session->files.addPaths({folder.path()});
    QTRY_VERIFY(current.hasSong());
    current.endGesture();
    QTRY_VERIFY(!m_session->files.isBusy());
    QCOMPARE(current.set().songs.size(), std::size_t(count));
    QCOMPARE(current.songIndex(), 0);
    QCOMPARE(current.undoName(), QStringLiteral("Add 60 songs"));
    const SongSet all = current.set();
    current.undo();
    QVERIFY(current.set().songs.empty() && !current.canUndo());
    current.redo();
    QVERIFY(current.set() == all);
    // The next reading is a step of its own.
    m_session->files.addPaths({folder.filePath(QStringLiteral("3.mid"))});
    QTRY_VERIFY(!m_session->files.isBusy());
    QCOMPARE(current.undoName(), QStringLiteral("Add a song"));
    current.undo();
    QVERIFY(current.set() == all);
}

void TestSession::namesThatAreNotUtf8Open() {
    // On Linux the name of a file is bytes: here "Élan.mid" in Windows-1252, dropped as a file manager names
    // it.
    QTemporaryDir folder;
    const std::filesystem::path path = std::filesystem::path(folder.path().toStdString()) / "\xC9lan.mid";
    std::filesystem::copy_file(DEMO_FOLDER "/TIDEMILL.MID", path);
    QVERIFY(pathOf(textOfPath(path)) == path);
    const QUrl url =
        QUrl::fromEncoded("file://" + QUrl::toPercentEncoding(folder.path(), "/") + "/%C9lan.mid");
    QCOMPARE(textOfUrl(url), textOfPath(path));
    for (const char* name : {"plain", "Wöhrden", "\xF0\x9F\x8E\xB5", "\xF0\x9F", "a\xFFz", "\xED\xB2\x80"})
        QVERIFY(pathOf(textOfPath(name)) == std::filesystem::path(name));
    QSignalSpy problems(&m_session->messages, &Messages::problem);
    m_session->files.addPaths({textOfUrl(url)});
    QTRY_VERIFY(m_session->current.hasSong());
    QVERIFY(problems.isEmpty());
    QVERIFY(m_session->current.song().source->name.ends_with("lan.mid"));
}

void TestSession::aKeyboardPlaysTheSelectedPart() {
    // After opening, after switching songs, after undo: always the part that is selected.
    QVERIFY(m_session->output.player().open("silent").ok());
    open({QStringLiteral("lantern_quay.mid"), QStringLiteral("TIDEMILL.MID")});
    const auto plays = [this] { return m_session->output.player().livePart(); };
    m_session->current.showSong(0);
    QVERIFY(plays() != 0);
    QCOMPARE(plays(), m_session->current.selectedPart());
    m_session->current.selectPart(5);
    QCOMPARE(plays(), 5);
    m_session->current.showSong(1);
    QCOMPARE(plays(), m_session->current.selectedPart());
    m_session->current.selectPart(2);
    m_session->current.edit(QStringLiteral("x"), [](const Song& song) { return edits::join(song, {1, 2}); });
    QCOMPARE(plays(), m_session->current.selectedPart());
    m_session->current.undo();
    QCOMPARE(plays(), m_session->current.selectedPart());
}

void TestSession::workThatWasNotSavedIsKept() {
    QTemporaryDir folder;
    const QString mine = folder.filePath(QStringLiteral("mine.cobbleway"));
    const auto copies = [] {
        return QDir(Recovery::folder()).entryList({QStringLiteral("*.cobbleway")}).size();
    };
    SongSet unsaved;
    {
        Session other; // as a window that is killed
        const auto add = [&] {
            other.files.addPaths({QStringLiteral(DEMO_FOLDER "/lantern_quay.mid")});
            return QTest::qWaitFor([&] { return other.current.hasSong(); }, scaled(20000));
        };
        QVERIFY(add());
        std::optional<bool> saved;
        other.files.save(mine, [&](bool done) { saved = done; });
        QTRY_VERIFY(saved.has_value());
        const Bytes asSaved = fileBytes(mine);
        other.current.edit(QStringLiteral("Softer"),
                           [](const Song& song) { return edits::setLevel(song, 2, -9); });
        QTRY_COMPARE_WITH_TIMEOUT(copies(), 1, scaled(5000)); // within five seconds
        QTRY_VERIFY(QFile::exists(
            QDir(Recovery::folder()).entryInfoList({QStringLiteral("*.json")}).value(0).filePath()));
        QVERIFY(fileBytes(mine) == asSaved);
        QVERIFY(Recovery::left().isEmpty()); // its window still lives
        unsaved = other.current.set();
        // What the kill leaves: the copy, and no lock that anybody holds.
        const QString copy =
            QDir(Recovery::folder()).entryInfoList({QStringLiteral("*.cobbleway")}).value(0).filePath();
        QVERIFY(QFile::copy(copy, Recovery::folder() + QStringLiteral("/killed.cobbleway")));
        QVERIFY(QFile::copy(copy + QStringLiteral(".json"),
                            Recovery::folder() + QStringLiteral("/killed.cobbleway.json")));
        const QString lock = copy + QStringLiteral(".lock");
        QVERIFY(QFile::exists(lock));
        other.recovery.end(); // the person closed the window, and threw the changes away
        QVERIFY(!QFile::exists(lock));
        other.current.edit(QStringLiteral("Louder"),
                           [](const Song& song) { return edits::setLevel(song, 2, -3); });
    }
    QCOMPARE(copies(), 1); // a window that is closed leaves none
    const auto left = Recovery::left();
    QCOMPARE(left.size(), 1);
    QCOMPARE(left[0].path, mine);
    QCOMPARE(left[0].changes, QStringList{QStringLiteral("Softer")});
    QVERIFY(left[0].time.secsTo(QDateTime::currentDateTime()) < 60);
    m_session->recovery.open(left[0]);
    QTRY_VERIFY(m_session->current.hasSong());
    QVERIFY(m_session->current.set() == unsaved);
    QVERIFY(!m_session->current.isClean());
    QCOMPARE(m_session->current.projectPath(), mine);
    QTRY_VERIFY(Recovery::left().isEmpty()); // this window has a copy of its own now
    QCOMPARE(copies(), 1);
    std::optional<bool> saved;
    m_session->files.save(mine, [&](bool done) { saved = done; });
    QTRY_VERIFY(saved.has_value());
    QTRY_COMPARE(copies(), 0);
}

/// Another program writes the set's file while it is open: nothing of it is lost unasked.
void TestSession::aSetThatOthersChangedIsNotReplaced() {
    QTemporaryDir folder;
    const QString path = folder.filePath(QStringLiteral("set.cobbleway"));
    open({QStringLiteral("lantern_quay.mid")});
    const auto save = [&](SetFiles::Saving how) {
        std::optional<bool> saved;
        m_session->files.save(
            path, [&](bool done) { saved = done; }, how);
        (void)QTest::qWaitFor([&] { return saved.has_value(); }, scaled(10000));
        return saved.value_or(false);
    };
    int asked = 0;
    m_session->files.askAboutChanged = [&](const QString&, const std::function<void(bool)>& then) {
        ++asked;
        then(false);
    };
    QVERIFY(save(SetFiles::Saving::Asking));
    m_session->current.edit(QStringLiteral("Softer"),
                            [](const Song& song) { return edits::setLevel(song, 2, -9); });
    QVERIFY(save(SetFiles::Saving::Asking));
    QCOMPARE(asked, 0);
    SongSet theirs = m_session->current.set();
    theirs.name = "Theirs";
    QVERIFY(saveProject(theirs, path.toStdString()).ok());
    const Bytes before = fileBytes(path);
    m_session->current.edit(QStringLiteral("Louder"),
                            [](const Song& song) { return edits::setLevel(song, 2, -3); });
    QVERIFY(!save(SetFiles::Saving::Asking));
    QCOMPARE(asked, 1);
    QVERIFY(fileBytes(path) == before && !m_session->current.isClean());
    // It is seen without saving, too, and told quietly.
    QSignalSpy noted(&m_session->messages, &Messages::noted);
    m_session->disk.look();
    QTRY_VERIFY(std::any_of(noted.begin(), noted.end(), [](const QList<QVariant>& note) {
        return note.at(2).toString() == QLatin1String("reload") && !note.at(1).toString().isEmpty();
    }));
    // Reload takes theirs, and can be undone; replace takes mine, and theirs is kept as an earlier save.
    const SongSet mine = m_session->current.set();
    m_session->files.reload();
    QTRY_COMPARE(m_session->current.set().name, std::string("Theirs"));
    QVERIFY(m_session->current.isClean());
    m_session->current.undo();
    QVERIFY(m_session->current.set() == mine && !m_session->current.isClean());
    QVERIFY(saveProject(SongSet{"Theirs again", {}, {}, {}, {}, {}, {}, {}}, path.toStdString()).ok());
    QVERIFY(save(SetFiles::Saving::Anyway));
    const auto kept = earlierSaves(pathOf(path), stateFolder());
    QVERIFY(!kept.empty());
    QCOMPARE(openProject(kept.front().file).value().name, std::string("Theirs again"));
    m_session->files.openEarlier(textOfPath(kept.front().file), path);
    QTRY_COMPARE(m_session->current.set().name, std::string("Theirs again"));
    QVERIFY(!m_session->current.isClean() && m_session->current.projectPath() == path);
}

/// The MIDI file changes while its song is open: it is said, and read again with the edits kept.
void TestSession::aFileThatChangedIsReadAgain() {
    QTemporaryDir folder;
    const QString path = folder.filePath(QStringLiteral("song.mid"));
    Builder first(1, 3);
    first.file.addText(1, 0, meta::trackName, "Flute");
    first.note(0, 0, 1, 72, 90, 1).note(0, 1, 1, 60, 90, 1).note(1, 0, 1, 48, 90, 2);
    QVERIFY(writeFile(path.toStdString(), writeMidi(first.file)).ok());
    m_session->files.addPaths({path});
    QTRY_VERIFY(m_session->current.hasSong());
    m_session->current.edit(QStringLiteral("Softer"), [](const Song& song) {
        return edits::rename(edits::setLevel(song, 1, -9), 2, "Cellar bass");
    });
    m_session->current.edit(QStringLiteral("Split"), [](const Song& song) {
        return edits::split(song, 1, splitByPitch(song, *song.part(1), Key{66}));
    });
    QVERIFY(!m_session->disk.songHasChanged());
    Builder second = first;
    second.note(0, 2, 1, 74, 90, 1).note(0, 3, 1, 59, 90, 1).note(2, 0, 1, 40, 90, 2);
    QVERIFY(writeFile(path.toStdString(), writeMidi(second.file)).ok());
    m_session->disk.look();
    QTRY_VERIFY(m_session->disk.songHasChanged());
    const Song before = m_session->current.song();
    m_session->disk.readAnew();
    QTRY_VERIFY(m_session->current.song().source != before.source);
    const Song& now = m_session->current.song();
    QVERIFY(!m_session->disk.songHasChanged());
    QCOMPARE(now.parts.size(), before.parts.size() + 1);
    QCOMPARE(now.part(2)->name, std::string("Cellar bass"));
    std::map<int, std::vector<int>> keys; // by part
    for (const Part& part : now.parts)
        for (const Note& note : realise(now, part).notes) keys[part.id].push_back(note.key.value);
    std::vector<std::vector<int>> split;
    for (const auto& [id, sounding] : keys)
        if (now.part(id)->mix.levelDb == -9) split.push_back(sounding);
    std::sort(split.begin(), split.end());
    QCOMPARE(split, (std::vector<std::vector<int>>{{60, 59}, {72, 74}}));
    QCOMPARE(keys[2], std::vector<int>{48});
    QCOMPARE(keys[now.parts.back().id], std::vector<int>{40});
    m_session->current.undo();
    QVERIFY(m_session->current.song() == before);
}

/// What is found of songs goes with their set.
void TestSession::filesOfPluginsAreCollected() {
    QTemporaryDir folder;
    const std::string away = folder.filePath(QStringLiteral("hull.wav")).toStdString();
    QVERIFY(QDir(folder.path()).mkdir(QStringLiteral("set")));
    QVERIFY(writeFile(away, std::string("wood")).ok());
    open({QStringLiteral("lantern_quay.mid")});
    const auto given = [](const std::string& path) {
        PluginSettings settings;
        settings.files["urn:any#file"] = path;
        return std::vector<Effect>{{"urn:any", "Any", settings, false}};
    };
    const auto fileNow = [&] {
        return m_session->current.song().parts[0].mix.effects.at(0).settings.files.at("urn:any#file");
    };
    m_session->current.edit(QStringLiteral("Effect"), [&](const Song& song) {
        return edits::setEffects(song, song.parts[0].id, given(away));
    });
    QSignalSpy said(&m_session->messages, &Messages::announced),
        problems(&m_session->messages, &Messages::problem);
    m_session->files.collect(); // there is no place for them yet
    QCOMPARE(fileNow(), away);
    std::optional<bool> saved;
    m_session->files.save(folder.filePath(QStringLiteral("set/Quay.cobbleway")),
                          [&](bool done) { saved = done; });
    QTRY_VERIFY(saved.value_or(false));
    said.clear();
    m_session->files.collect();
    const std::string there = folder.filePath(QStringLiteral("set/Quay files/hull.wav")).toStdString();
    QTRY_COMPARE(fileNow(), there);
    QVERIFY(!m_session->current.isClean());
    QCOMPARE(said.size(), 1);
    QVERIFY2(said[0][0].toString().contains(QStringLiteral("Quay files")), qPrintable(said[0][0].toString()));
    m_session->files.collect(); // they are all there
    QTRY_COMPARE(said.size(), 2);
    QCOMPARE(fileNow(), there);
    m_session->current.undo();
    QCOMPARE(fileNow(), away);
    // One that is gone is told, and the others are not held up.
    m_session->current.edit(QStringLiteral("Effect"), [&](const Song& song) {
        return edits::setEffects(song, song.parts[1].id, given(away + ".gone"));
    });
    m_session->files.collect();
    QTRY_COMPARE(problems.size(), 1);
    QVERIFY(problems[0][1].toString().contains(QStringLiteral("hull.wav.gone")));
    QCOMPARE(fileNow(), there);
}

void TestSession::memoryIsThatOfTheOpenSet() {
    QTemporaryDir folder;
    const auto openOne = [&](int number) {
        Builder b(1, 6);
        for (int t = 1; t < 6; ++t)
            for (int i = 0; i < 2000; ++i)
                b.note(t, i * 0.1, 0.09, 40 + (i * 7 + t + number) % 40, 60 + i % 60,
                       static_cast<std::size_t>(t));
        SongSet set;
        set.songs.emplace_back(b.song());
        const QString path = folder.filePath(QStringLiteral("%1.cobbleway").arg(number));
        if (!saveProject(set, path.toStdString()).ok()) return false;
        m_session->files.open(path);
        return QTest::qWaitFor([&] { return m_session->current.projectPath() == path; }, scaled(10000)) &&
               QTest::qWaitFor([&] { return m_session->planner.isPlanned(); }, scaled(10000));
    };
    const auto inUse = [] { return static_cast<double>(mallinfo2().uordblks) / 1e6; };
    for (int i = 0; i < 3; ++i) QVERIFY(openOne(i));
    const double atFirst = inUse();
    for (int i = 3; i < 40; ++i) QVERIFY(openOne(i));
    QTest::qWait(200);
    const double after = inUse();
    // One of these sets holds some 5 MB of notes, pictures and matches.
    QVERIFY2(after < atFirst + 8, qPrintable(QStringLiteral("%1 then %2 MB").arg(atFirst).arg(after)));
}

void TestSession::closingWaitsForNobody() {
    QElapsedTimer clock;
    m_session->sounds.rescanPlugins();
    m_session->files.addPaths({QStringLiteral(DEMO_FOLDER)});
    clock.start();
    (void)m_session->waitForDone(200);
    QVERIFY(clock.elapsed() < 1000); // 200 ms, on a machine that does other things too
}

void TestSession::recentFilesAreTenAndUnlike() {
    for (int i = 0; i < 14; ++i) settings::addRecent(QStringLiteral("/set%1.cobbleway").arg(i % 12));
    const QStringList recent = settings::recentFiles();
    QCOMPARE(recent.size(), 10);
    QCOMPARE(recent.first(), QStringLiteral("/set1.cobbleway"));
    QCOMPARE(QSet<QString>(recent.begin(), recent.end()).size(), 10);
}

void TestSession::factsLine() {
    QCOMPARE(factsText(demoSong("lantern_quay.mid")),
             QString::fromUtf8("type 0 · 10 parts · 2:55 · 80 bars · 4/4 · ♩ = 104–118 · GM"));
    QVERIFY(factsText(Builder().note(0, 0, 1, 60).song()).contains(QString::fromUtf8("1 part ·")));
}

void TestSession::wordsForNumbers() {
    QCOMPARE(cobbleway::timeText(75.9), QStringLiteral("1:15"));
    QCOMPARE(cobbleway::timeText(3725), QStringLiteral("1:02:05"));
    QCOMPARE(dbText(0), QStringLiteral("0 dB"));
    QCOMPARE(dbText(-12), QString::fromUtf8("−12 dB"));
    QCOMPARE(dbText(3.46), QStringLiteral("+3.5 dB"));
    QCOMPARE(dbText(-0.01), QStringLiteral("0 dB"));
}

void TestSession::keyboardPlaysByMouseAndKeys() {
    KeyboardPicture keyboard;
    keyboard.resize(520, 42);
    QSignalSpy pressed(&keyboard, &KeyboardPicture::pressed), released(&keyboard, &KeyboardPicture::released);
    QTest::mousePress(&keyboard, Qt::LeftButton, {}, QPoint(2, 38)); // the lowest white key: A0
    QTest::mouseRelease(&keyboard, Qt::LeftButton, {}, QPoint(2, 38));
    QCOMPARE(pressed.takeFirst().first().toInt(), 21);
    QCOMPARE(released.takeFirst().first().toInt(), 21);
    QTest::keyClick(&keyboard, Qt::Key_Right);
    QCOMPARE(keyboard.surfaceValue(), QStringLiteral("A#0"));
    QTest::keyPress(&keyboard, Qt::Key_Return);
    QCOMPARE(pressed.takeFirst().first().toInt(), 22);
    QTest::keyRelease(&keyboard, Qt::Key_Return);
    QCOMPARE(released.size(), 1);
}

void TestSession::segmentsTellWhatIsChosen() {
    Segments segments({QStringLiteral("Lead"), QStringLiteral("Back"), QStringLiteral("Off")},
                      QStringLiteral("Tuba"));
    segments.show();
    QSignalSpy chosen(&segments, &Segments::chosen);
    segments.setCurrent(1);
    QCOMPARE(chosen.size(), 0); // showing is not choosing
    auto buttons = segments.findChildren<QToolButton*>();
    QTest::mouseClick(buttons[2], Qt::LeftButton);
    QCOMPARE(segments.current(), 2);
    QCOMPARE(chosen.takeFirst().first().toInt(), 2);
    QCOMPARE(buttons[2]->accessibleName(), QStringLiteral("Tuba: Off"));
}

void TestSession::flowLayoutWraps() {
    QWidget box;
    auto* flow = new FlowLayout(4, &box);
    for (int i = 0; i < 6; ++i) {
        auto* piece = new QWidget;
        piece->setFixedSize(50, 20);
        flow->addWidget(piece);
    }
    QCOMPARE(flow->heightForWidth(1000), 20);
    QCOMPARE(flow->heightForWidth(160), 44); // three in a line
    QCOMPARE(flow->heightForWidth(50), 140); // one in a line
}

void TestSession::notesPictureTurnsPages() {
    open({QStringLiteral("lantern_quay.mid")});
    NotesPicture picture(*m_session);
    picture.resize(600, 300);
    picture.show();
    QTest::keyClick(&picture, Qt::Key_PageDown);
    QCOMPARE(picture.firstBar(), 9);
    QTest::keyClick(&picture, Qt::Key_Plus);
    QCOMPARE(picture.barCount(), 4);
    QTest::keyClick(&picture, Qt::Key_PageUp);
    QCOMPARE(picture.firstBar(), 5);
    m_session->transport.seek(m_session->current.song().tempo->barStart(50));
    QTRY_VERIFY(picture.follow() || picture.firstBar() == 49);
    QCOMPARE(picture.firstBar(), 49);
    QVERIFY(picture.surfaceValue().startsWith(QStringLiteral("bars 49 to 52")));
}

void TestSession::lanesAreDrawn() {
    open({QStringLiteral("lantern_quay.mid")});
    for (const Part& part : m_session->current.song().parts) {
        QImage image(400, 40, QImage::Format_ARGB32);
        image.fill(Qt::white);
        QPainter painter(&image);

        paintLane(painter, QRectF(0, 0, 400, 40), *m_session->findings.overview(part.id),
                  *m_session->findings.volume(part.id), {0, m_session->current.song().end}, part.source.drums,
                  partColour(part.colour));
        painter.end();
        int coloured = 0;
        for (int y = 0; y < 40; ++y)
            for (int x = 0; x < 400; ++x) coloured += image.pixelColor(x, y) != QColor(Qt::white);
        QVERIFY2(coloured > 60, part.name.c_str());
    }
}

namespace {

/// A device that was unplugged.
class GoneOutput final : public AudioOutput {
  public:
    [[nodiscard]] int rate() const override { return liveRate; }
    [[nodiscard]] long gaps() const override { return 0; }
    [[nodiscard]] double ahead() const override { return 0; }
    [[nodiscard]] bool isGone() const override { return true; }
};

} // namespace

void TestSession::theSongGoesOnWhenItsOutputHasGone() {
    open({QStringLiteral("lantern_quay.mid")});
    m_session->transport.togglePlay();
    QTRY_VERIFY_WITH_TIMEOUT(m_session->output.player().seconds() > 0.1, scaled(10000));
    QSignalSpy problems(&m_session->messages, &Messages::problem),
        noted(&m_session->messages, &Messages::noted);
    m_session->output.player().use(std::make_unique<GoneOutput>());
    const double place = m_session->output.player().seconds();
    const auto told = [&] { return noted.isEmpty() ? QString() : noted.last().at(1).toString(); };
    QTRY_VERIFY(told().contains(QStringLiteral("Play > Sound output")));
    QCOMPARE(problems.size(), 0); // no box
    QVERIFY(!m_session->output.player().outputIsGone());
    QTRY_VERIFY(m_session->output.player().seconds() > place + 0.1);
    QVERIFY(m_session->transport.isPlaying());
}

void TestSession::aPluginThatGoesAstrayIsTold() {
    qputenv("COBBLEWAY_LV2_PATH", BAD_PLUGINS);
    m_session = std::make_unique<Session>();
    QVERIFY(m_session->output.player().open("silent").ok());
    const std::string noise = "urn:cobbleway:test:noise";
    open({QStringLiteral("lantern_quay.mid")});
    m_session->sounds.setCatalogue(fontsAt(HOUSE_FONT).withPlugins({{noise, "Test noise", "", true}}, {}));
    QSignalSpy boxes(&m_session->messages, &Messages::problem), noted(&m_session->messages, &Messages::noted);
    m_session->current.edit(QStringLiteral("Sound"), [&](const Song& song) {
        return edits::chooseSound(song, 1, {noise, 0, 0, "Test noise", SoundKind::Plugin, 0});
    });
    m_session->transport.togglePlay();
    const auto told = [&] {
        return std::count_if(noted.begin(), noted.end(), [](const QList<QVariant>& said) {
            return said.at(1).toString().contains(QStringLiteral("Lead cornet"));
        });
    };
    QTRY_COMPARE_WITH_TIMEOUT(told(), 1, scaled(10000));
    QTest::qWait(1200); // once, and in no box
    QCOMPARE(told(), 1);
    QVERIFY(boxes.isEmpty());
}

void TestSession::aPluginThatHasEndedIsStartedAgain() {
    qputenv("COBBLEWAY_LV2_PATH", LATE_PLUGINS);
    m_session = std::make_unique<Session>();
    QVERIFY(m_session->output.player().open("silent").ok());
    const std::string late = "urn:cobbleway:test:latecrash"; // after two seconds of sound
    open({QStringLiteral("lantern_quay.mid")});
    m_session->sounds.setCatalogue(fontsAt(HOUSE_FONT).withPlugins({{late, "Test", "", true}}, {}));
    QSignalSpy noted(&m_session->messages, &Messages::noted);
    m_session->current.edit(QStringLiteral("Sound"), [&](const Song& song) {
        return edits::chooseSound(song, 1, {late, 0, 0, "Test", SoundKind::Plugin, 0});
    });
    const auto told = [&] {
        return std::count_if(noted.begin(), noted.end(), [](const QList<QVariant>& said) {
            return said.at(2).toString() == QLatin1String("startPlugins");
        });
    };
    m_session->transport.togglePlay();
    for (int times = 1; times <= 2; ++times) { // each time it is news
        QTRY_COMPARE_WITH_TIMEOUT(told(), times, scaled(15000));
        QVERIFY(m_session->planner.hasEndedPlugins());
        QVERIFY(m_session->transport.isPlaying());
        m_session->planner.startPluginsAgain();
        QTRY_VERIFY_WITH_TIMEOUT(!m_session->planner.hasEndedPlugins(), scaled(5000));
    }
}

QTEST_MAIN(TestSession)
#include "tst_session.moc"
