/// The real window, driven with mouse and keyboard on the offscreen platform.
#include "app/dialogs/pedalsdialog.h"
#include "app/drive.h"

#include "app/dialogs/fontsdialog.h"
#include "app/look/theme.h"
#include "app/mainwindow.h"
#include "app/pages/exportpage.h"
#include "app/pages/fanpicture.h"
#include "app/pages/partspage.h"
#include "app/pages/shelf.h"
#include "app/pages/songspage.h"
#include "app/pages/soundspage.h"
#include "app/pages/standview.h"
#include "app/session/session.h"
#include "app/session/settings.h"
#include "app/widgets/notespicture.h"
#include "app/widgets/rail.h"
#include "app/widgets/small.h"
#include "app/widgets/snagdrawer.h"
#include "app/widgets/songstrip.h"
#include "song/shape/edits.h"
#include "song/shape/mixes.h"
#include "song/shape/timeedits.h"

#include <QAbstractItemModelTester>
#include <QAccessible>
#include <QCheckBox>
#include <QElapsedTimer>
#include <QLineEdit>
#include <QListView>
#include <QListWidget>
#include <QMenuBar>
#include <QMessageBox>
#include <QMimeData>
#include <QSignalSpy>
#include <QSlider>
#include <QSpinBox>
#include <QStandardPaths>
#include <QStyleOption>
#include <QToolButton>
#include <QTreeView>
#include <QTreeWidget>
#include <random>
#include <sndfile.h>

using namespace support;

namespace {

const QString demo = QStringLiteral(DEMO_FOLDER "/");

} // namespace

class TestWindow : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void initTestCase();
    void init();
    void cleanup();
    void emptyPagesSayWhatToDo();
    void fromAFileToAWav();
    void dropsFilesAndReportsBadOnes();
    void spaceBarPlaysAndStops();
    void renamesAndReordersAndUndoes();
    void dragReorders();
    void snagDrawerFixes();
    void songsAreFoundSortedMovedAndRemoved();
    void aFileIsFoundAmong3000();
    void aFirstListenByOneKey();
    void whatIsDoneOnOpeningIsPutBack();
    void triesASoundKeepsItOrGoesBack();
    void aNewDefaultFontTakesEffectAtOnce();
    void rolesLoopAndPace();
    void songStripByMouseAndKeys();
    void eachDragIsAStep();
    void hundredsOfPartsAllGetTheirRows();
    void exportTicksAndStops();
    void exportsAllSongsByKeys();
    void ticksAreKeptWithTheSet();
    void quieterFilesSayWhy();
    void writtenMarksGoWithWhatTheyTellOf();
    void aFolderOfSongsBecomesFoldersOfFiles();
    void recipesSetTicksAndOptions();
    void keptMixesAreChosenByKey();
    void thePaceGrowsEachRound();
    void myFirstNoteSounds();
    void thePartSheetIsAPdf();
    void theStandViewFollows();
    void clickAndCountIn();
    void sectionsAreWorkedThrough();
    void pedalsAreTaught();
    void songsAreHeardEquallyLoud();
    void thePictureMovesEvenly();
    void savesAndOpensASet();
    void aDroppedSetAsksFirst();
    void whatIsBeingTypedCountsBeforeSaving();
    void asksAboutUnsavedChanges();
    void everyActionIsInAMenu();
    void modelsAreSound();
    void screenReaderHearsEverything();
    void nothingIsClippedInASmallWindow();
    void propertyRandomUseThenUndoAll();

  private:
    void openDemo(const QStringList& names = {QStringLiteral("lantern_quay.mid")});
    static void click(QPushButton* b) {
        QVERIFY2(b, "no such button");
        QTest::mouseClick(b, Qt::LeftButton);
    }
    QPushButton* buttonWith(const QString& text) const;
    template <class W> W* named(const char* name) const {
        return m_window->findChild<W*>(QLatin1String(name));
    }
    PartId partNamed(const char* name) const;
    std::unique_ptr<Session> m_session;
    std::unique_ptr<MainWindow> m_window;
};

void TestWindow::initTestCase() {
    QStandardPaths::setTestModeEnabled(true);
    QCoreApplication::setOrganizationName(QStringLiteral("cobbleway-tests"));
    loadFonts();
    applyTheme(ThemeChoice::Light);
    installSurfaceAccess();
}

void TestWindow::init() {
    settings::setFontOrder({});          // as a person begins
    settings::setTidiesOnOpening(false); // levels as the file has them
    m_session = std::make_unique<Session>();
    m_window = std::make_unique<MainWindow>(*m_session);
    m_window->askAboutChanges = [](const auto& then) { then(QMessageBox::Discard); };
    m_window->resize(1280, 800);
    m_window->show();
    QVERIFY(m_session->output.player().open("silent").ok());
    m_session->sounds.setCatalogue(fontsAt(HOUSE_FONT));
    QVERIFY(QTest::qWaitForWindowExposed(m_window.get()));
}

void TestWindow::cleanup() {
    m_window.reset();
    m_session.reset();
}

void TestWindow::openDemo(const QStringList& names) {
    QStringList paths;
    for (const QString& name : names) paths << demo + name;
    m_session->files.addPaths(paths);
    QTRY_COMPARE(static_cast<qsizetype>(m_session->current.set().songs.size()), names.size());
}

QPushButton* TestWindow::buttonWith(const QString& text) const {
    for (QPushButton* b : m_window->findChildren<QPushButton*>())
        if (b->isVisible() && b->text() == text) return b;
    return nullptr;
}

PartId TestWindow::partNamed(const char* name) const {
    for (const Part& part : m_session->current.song().parts)
        if (part.name == name) return part.id;
    return 0;
}

void TestWindow::emptyPagesSayWhatToDo() {
    for (int page = 0; page < 6; ++page) {
        m_window->showPage(static_cast<Step>(page));
        QVERIFY(!m_window->grab().isNull());
    }
    m_window->showPage(Step::Songs);
    const auto says = [this](const QString& text) {
        const auto labels = m_window->findChildren<QLabel*>();
        return std::any_of(labels.begin(), labels.end(), [&](const QLabel* label) {
            return label->isVisible() && label->text().contains(text);
        });
    };
    QTRY_VERIFY(says(QStringLiteral("Drop MIDI files")) && says(QStringLiteral("Add MIDI files")));
    QVERIFY(!m_window->action(QStringLiteral("play"))->isEnabled());
    // When adding a song is undone, nothing of it is left on the Parts page.
    openDemo();
    m_window->showPage(Step::Parts);
    while (m_session->current.canUndo()) m_session->current.undo();
    QVERIFY(!m_session->current.hasSong());
    QString said;
    for (const QLabel* label : m_window->partsPage()->findChildren<QLabel*>())
        if (label->isVisible()) said += label->text() + QLatin1Char('\n');
    QVERIFY2(said.contains(QStringLiteral("Add a song")) && !said.contains(QStringLiteral("notes")) &&
                 !said.contains(QStringLiteral("channels")),
             qPrintable(said));
    QVERIFY(!buttonWith(QStringLiteral("Rename"))->isEnabled());
}

void TestWindow::fromAFileToAWav() {
    openDemo();
    auto* table = named<QTreeView>("songTable");
    QCOMPARE(table->model()->rowCount(), 1);
    QTRY_VERIFY(buttonWith(QStringLiteral("Open")));
    click(buttonWith(QStringLiteral("Open")));
    QCOMPARE(m_window->page(), Step::Parts);
    // Choose a part with the mouse on the Parts page.
    QListView* rows = m_window->partsPage()->rows();
    QTest::mouseClick(rows->viewport(), Qt::LeftButton, {},
                      rows->visualRect(rows->model()->index(2, 0)).center());
    QCOMPARE(m_session->current.part()->name, std::string("Clarinets"));
    // Put it in front by keyboard, and write that to disk.
    QTest::keyClick(m_window.get(), Qt::Key_1, Qt::AltModifier);
    QCOMPARE(m_session->current.part()->mix.role, Role::Lead);
    QTest::keyClick(m_window.get(), Qt::Key_6, Qt::ControlModifier);
    QCOMPARE(m_window->page(), Step::Export);
    QTemporaryDir folder;
    m_window->exportPage()->setFolder(folder.path());
    click(buttonWith(QStringLiteral("Tick none")));
    auto* list = named<QTreeView>("exportList");
    QSignalSpy finished(m_window->exportPage(), &ExportPage::finished);
    const QModelIndex root = list->rootIndex();
    for (int row = 0; row < list->model()->rowCount(root); ++row)
        if (list->model()->index(row, 0, root).data().toString() == QStringLiteral("Clarinets")) {
            list->setCurrentIndex(list->model()->index(row, 0, root));
            list->setFocus();
            QTest::keyClick(list, Qt::Key_Right);
            QCOMPARE(list->currentIndex().column(), int(ExportGrid::Front));
            QTest::keyClick(list, Qt::Key_Space);
        }
    QVERIFY(!m_session->output.player().isPlaying()); // the space bar ticks here
    QCOMPARE(m_window->exportPage()->ticked().size(), std::size_t{1});
    QCOMPARE(m_window->exportPage()->ticked()[0].items.size(), std::size_t{1});
    QVERIFY(named<QLabel>("exportRowFiles")
                ->text()
                .contains(QStringLiteral("Lantern Quay - Clarinets in front.wav")));
    click(named<QPushButton>("writeFiles"));
    QTRY_COMPARE_WITH_TIMEOUT(finished.size(), 1, scaled(120000));
    const QString path = folder.filePath(QStringLiteral("Lantern Quay - Clarinets in front.wav"));
    SF_INFO info{};
    SNDFILE* file = sf_open(qPrintable(path), SFM_READ, &info);
    QVERIFY(file);
    sf_close(file);
    QCOMPARE(info.samplerate, 48000);
    QVERIFY(std::abs(double(info.frames) / info.samplerate - m_session->current.song().seconds()) < 4);
    QVERIFY(list->currentIndex().data(Qt::AccessibleTextRole).toString().contains(QStringLiteral("LUFS")));
}

void TestWindow::dropsFilesAndReportsBadOnes() {
    QTemporaryDir folder;
    QFile bad(folder.filePath(QStringLiteral("bad.mid")));
    QVERIFY(bad.open(QIODevice::WriteOnly));
    bad.write("this is no music");
    bad.close();
    QSignalSpy problems(&m_session->messages, &Messages::problem);
    QMimeData data;
    data.setUrls(
        {QUrl::fromLocalFile(demo + QStringLiteral("TIDEMILL.MID")), QUrl::fromLocalFile(bad.fileName())});
    QDragEnterEvent enter(QPoint(300, 300), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(m_window.get(), &enter);
    QVERIFY(enter.isAccepted());
    QDropEvent drop(QPointF(300, 300), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(m_window.get(), &drop);
    QTRY_COMPARE(m_session->current.set().songs.size(), std::size_t{1});
    QTRY_COMPARE(problems.size(), 1);
    QVERIFY(problems.first().at(1).toString().contains(QStringLiteral("bad.mid")));
    QTRY_VERIFY(m_window->findChild<QMessageBox*>());
    m_window->findChild<QMessageBox*>()->accept();
    QCOMPARE(m_session->current.song().title, std::string("Tide Mill Reel"));
}

void TestWindow::spaceBarPlaysAndStops() {
    openDemo();
    QSignalSpy said(&m_session->messages, &Messages::announced);
    QTest::keyClick(m_window.get(), Qt::Key_Space);
    QVERIFY(m_session->transport.isPlaying());
    QTRY_VERIFY_WITH_TIMEOUT(m_session->output.player().seconds() > 0.15, scaled(10000));
    QTRY_VERIFY(named<QLabel>("position")->text() != QStringLiteral("1.1.000"));
    QTest::keyClick(m_window.get(), Qt::Key_Space);
    QVERIFY(!m_session->output.player().isPlaying());
    QCOMPARE(said.last().first().toString(), QStringLiteral("Stopped"));
}

void TestWindow::renamesAndReordersAndUndoes() {
    openDemo();
    const Song before = m_session->current.song();
    m_session->current.selectPart(partNamed("Tuba"));
    QTest::keyClick(m_window.get(), Qt::Key_F2);
    QCOMPARE(m_window->page(), Step::Parts);
    auto* editor = m_window->partsPage()->rows()->viewport()->findChild<QLineEdit*>();
    QVERIFY(editor);
    QTest::keyClicks(editor, QStringLiteral("Low brass"));
    QTest::keyClick(editor, Qt::Key_Return);
    QTRY_COMPARE(m_session->current.part()->name, std::string("Low brass"));
    QTest::keyClick(m_window.get(), Qt::Key_Up, Qt::AltModifier);
    QCOMPARE(m_session->current.song().parts[6].name, std::string("Low brass"));
    QTest::keyClick(m_window.get(), Qt::Key_Up, Qt::AltModifier | Qt::ShiftModifier);
    QCOMPARE(m_session->current.part()->recipe.octaves, 1);
    QVERIFY(m_session->current.undoName().contains(QStringLiteral("octaves")));
    for (int i = 0; i < 3; ++i) QTest::keyClick(m_window.get(), Qt::Key_Z, Qt::ControlModifier);
    QVERIFY(m_session->current.song() == before);
    for (int i = 0; i < 3; ++i) m_window->action(QStringLiteral("redo"))->trigger();
    QCOMPARE(m_session->current.song().parts[6].recipe.octaves, 1);
}

void TestWindow::dragReorders() {
    openDemo();
    auto* model = m_window->partsPage()->rows()->model();
    const std::unique_ptr<QMimeData> data(model->mimeData({model->index(0, 0)}));
    model->dropMimeData(data.get(), Qt::MoveAction, 3, 0, {});
    QCOMPARE(m_session->current.song().parts[2].name, std::string("Lead cornet"));
    m_session->current.undo();
    QCOMPARE(m_session->current.song().parts[0].name, std::string("Lead cornet"));
}

void TestWindow::songsAreFoundSortedMovedAndRemoved() {
    openDemo({QStringLiteral("lantern_quay.mid"), QStringLiteral("TIDEMILL.MID"),
              QStringLiteral("pilots-evening-song.kar")});
    auto* table = named<QTreeView>("songTable");
    auto* find = named<QLineEdit>("findSongs");
    const auto titles = [&] {
        QStringList shown;
        for (int i = 0; i < table->model()->rowCount(); ++i)
            shown << table->model()->index(i, 0).data().toString();
        return shown;
    };
    const QStringList all = titles();
    QCOMPARE(all.size(), 3);
    QTRY_VERIFY(
        table->model()->index(2, SongsModel::Key).data().toString().contains(QStringLiteral("major")));
    // Found as one types, by what plays and by facts.
    QTest::keyClick(m_window.get(), Qt::Key_F, Qt::ControlModifier | Qt::ShiftModifier);
    QCOMPARE(m_window->page(), Step::Songs);
    find->setText(QStringLiteral("has an accordion"));
    QVERIFY(!titles().isEmpty() && titles().size() < 3);
    find->setText(QStringLiteral("faster than 150"));
    QCOMPARE(titles(), QStringList{QStringLiteral("Tide Mill Reel")});
    find->setText(QStringLiteral("no such words at all"));
    QVERIFY(titles().isEmpty());
    QTest::keyClick(find, Qt::Key_Escape);
    QCOMPARE(titles(), all);
    // Sorted by any column, and back to the set's order.
    table->header()->setSortIndicator(SongsModel::Tempo, Qt::DescendingOrder);
    QCOMPARE(titles().first(), QStringLiteral("Tide Mill Reel"));
    table->header()->setSortIndicator(SongsModel::Length, Qt::AscendingOrder);
    QCOMPARE(titles().first(), QStringLiteral("Tide Mill Reel"));
    QCOMPARE(titles().last(), QStringLiteral("Lantern Quay"));
    table->header()->setSortIndicator(-1, Qt::AscendingOrder);
    QCOMPARE(titles(), all);
    // Moved by keys and by dragging, in one step each.
    table->setCurrentIndex(table->model()->index(0, 0));
    QTest::keyClick(m_window.get(), Qt::Key_PageDown, Qt::ControlModifier | Qt::ShiftModifier);
    QCOMPARE(titles(), (QStringList{all[1], all[0], all[2]}));
    QCOMPARE(m_session->current.songIndex(), 1); // the same song is shown
    m_session->current.undo();
    QCOMPARE(titles(), all);
    const std::unique_ptr<QMimeData> data(table->model()->mimeData({table->model()->index(2, 0)}));
    QVERIFY(table->model()->canDropMimeData(data.get(), Qt::MoveAction, 0, 0, {}));
    table->model()->dropMimeData(data.get(), Qt::MoveAction, 0, 0, {});
    QCOMPARE(titles(), (QStringList{all[2], all[0], all[1]}));
    m_session->current.undo();
    // Several are removed together.
    table->setCurrentIndex(table->model()->index(0, 0));
    table->selectionModel()->select(table->model()->index(2, 0),
                                    QItemSelectionModel::Select | QItemSelectionModel::Rows);
    QTest::keyClick(table, Qt::Key_Delete);
    QCOMPARE(titles(), QStringList{all[1]});
    m_session->current.undo();
    QCOMPARE(titles(), all);
}

void TestWindow::aFileIsFoundAmong3000() {
    SongSet many = m_session->current.set();
    for (int i = 0; i < 3000; ++i) {
        Builder b;
        b.program(0, 0, i == 2345 ? 70 : i % 60).note(0, 0, 1, 40 + i % 40).note(0, 1, 1, 41 + i % 40);
        auto source = std::make_shared<SourceFile>(
            readMidi(writeMidi(b.file), "quay " + std::to_string(i) + ".mid").value());
        many.songs.emplace_back(makeSong(std::move(source)));
    }
    m_session->current.changeSet(QStringLiteral("x"), many);
    m_session->current.showSong(0);
    auto* table = named<QTreeView>("songTable");
    auto* find = named<QLineEdit>("findSongs");
    QCOMPARE(table->model()->rowCount(), 3000);
    find->setText(QStringLiteral("quay 1234")); // by name at once, though nothing has been looked into
    QCOMPARE(table->model()->rowCount(), 1);
    QCOMPARE(table->model()->index(0, 0).data().toString(), QStringLiteral("Quay 1234"));
    find->clear();
    QTRY_VERIFY_WITH_TIMEOUT(!m_window->findChild<SongsModel*>()->isLooking(), scaled(60000));
    find->setText(QStringLiteral("has a bassoon"));
    QCOMPARE(table->model()->rowCount(), 1);
    QCOMPARE(table->model()->index(0, 0).data().toString(), QStringLiteral("Quay 2345"));
    // The keyboard goes from the search to the list, and shows the song.
    find->setFocus();
    QTest::keyClick(find, Qt::Key_Return);
    QTRY_COMPARE(m_session->current.songIndex(), 2345);
    // Songs with the same notes are told: these repeat after 40.
    QTRY_VERIFY(m_window->findChild<SongsModel*>()->sameMusic(0).size() >= 2);
    const auto cardSays = [this](const QString& text) {
        const auto labels = m_window->findChildren<QLabel*>();
        return std::any_of(labels.begin(), labels.end(),
                           [&](const QLabel* label) { return label->isVisible() && label->text() == text; });
    };
    QTRY_VERIFY(cardSays(QStringLiteral("The same music as quay 25.mid")));
    QVERIFY(cardSays(QStringLiteral("… and as other songs in the set")));
    // It is told when the other comes, and no more when it goes.
    m_session->current.showSong(0);
    SongSet two;
    two.songs = {many.songs[0], many.songs[40]};
    m_session->current.changeSet(QStringLiteral("x"), two);
    QTRY_VERIFY(cardSays(QStringLiteral("The same music as quay 40.mid")));
    two.songs.pop_back();
    m_session->current.changeSet(QStringLiteral("x"), two);
    QTRY_VERIFY(!cardSays(QStringLiteral("The same music as quay 40.mid")));
}

void TestWindow::aFirstListenByOneKey() {
    openDemo({QStringLiteral("lantern_quay.mid"), QStringLiteral("TIDEMILL.MID")});
    m_session->current.showSong(0);
    const auto listen = [&] {
        QTest::keyClick(m_window.get(), Qt::Key_Space, Qt::ControlModifier | Qt::ShiftModifier);
    };
    listen();
    QVERIFY(m_session->transport.isPlaying());
    m_session->current.showSong(1); // and on with the next
    QTRY_VERIFY(m_session->transport.isPlaying());
    QCOMPARE(m_window->page(), Step::Songs);
    listen();
    QVERIFY(!m_session->transport.isPlaying());
    // Stopped by the space bar it is over, too: the next song that is shown is not played.
    listen();
    QVERIFY(m_session->transport.isPlaying());
    m_session->transport.togglePlay();
    m_session->current.showSong(0);
    QTest::qWait(50);
    QVERIFY(!m_session->transport.isPlaying());
}

void TestWindow::snagDrawerFixes() {
    openDemo();
    QTest::keyClick(m_window.get(), Qt::Key_F8);
    auto* drawer = m_window->findChild<SnagDrawer*>();
    QVERIFY(drawer->isVisible());
    const auto count = m_session->findings.snags().size();
    QCOMPARE(count, std::size_t{10});
    click(buttonWith(QStringLiteral("Make it the part's level")));
    QTRY_COMPARE(m_session->findings.snags().size(), count - 1);
    click(buttonWith(QStringLiteral("Apply all safe fixes")));
    QCOMPARE(m_session->findings.snags().size(), std::size_t{1});
    QCOMPARE(m_session->findings.snags()[0].kind, std::string("bass-on-guitar"));
    click(buttonWith(QStringLiteral("Use Acoustic Bass")));
    QVERIFY(m_session->findings.snags().empty());
    QCOMPARE(m_session->findings.matchOf(partNamed("Guitar"))->first().how, How::ByHand);
    QTest::keyClick(drawer, Qt::Key_Escape);
    QVERIFY(!drawer->isVisible());
    QVERIFY(m_window->findChild<StripView*>()->hasFocus()); // the space bar plays, and undoes nothing
    m_session->current.undo();
    m_session->current.undo(); // repairing all is one step
    QCOMPARE(m_session->findings.snags().size(), count - 1);
}

void TestWindow::whatIsDoneOnOpeningIsPutBack() {
    settings::setTidiesOnOpening(true);
    openDemo();
    m_window->showPage(Step::Songs);
    const auto& song = [this]() -> const Song& { return m_session->current.song(); };
    QCOMPARE(song().tidied.size(), std::size_t{9});
    QCOMPARE(askedCount(m_session->findings.snags()), std::size_t{1}); // the bass on a guitar
    QVERIFY(song().parts[0].recipe.drops(7));
    // What is answered leaves the card, though it changes no note.
    const auto nothingIsAsked = [this] {
        const auto labels = m_window->findChildren<QLabel*>();
        return std::any_of(labels.begin(), labels.end(), [](const QLabel* label) {
            return label->isVisible() && label->text() == QStringLiteral("nothing");
        });
    };
    QVERIFY(!nothingIsAsked());
    m_session->current.edit(QStringLiteral("Leave"), [this](const Song& s) {
        return edits::settle(s, m_session->findings.snags().front().key);
    });
    QTRY_VERIFY(nothingIsAsked());
    m_session->current.undo();
    QTRY_VERIFY(!nothingIsAsked());
    // One thing put back, then all; each is a step.
    QPushButton* back = nullptr; // the card is filled when its page is shown
    QTRY_VERIFY((back = buttonWith(QStringLiteral("Put back"))) &&
                back->accessibleName().contains(QStringLiteral("Lead cornet")));
    back->setFocus();
    QTest::keyClick(back, Qt::Key_Space);
    QCOMPARE(song().tidied.size(), std::size_t{8});
    QVERIFY(!song().parts[0].recipe.drops(7));
    QCOMPARE(song().parts[0].mix.levelDb, 0.0);
    m_session->current.undo();
    QCOMPARE(song().tidied.size(), std::size_t{9});
    QTRY_VERIFY(named<QPushButton>("putAllBack"));
    click(named<QPushButton>("putAllBack"));
    QVERIFY(song().tidied.empty());
    for (const Part& part : song().parts) QCOMPARE(part.mix.levelDb, 0.0);
    QCOMPARE(askedCount(m_session->findings.snags()), std::size_t{1}); // and none of it is asked
    // The switch turns the whole off.
    m_window->action(QStringLiteral("tidy"))->trigger();
    QVERIFY(!settings::tidiesOnOpening());
    m_session->files.addPaths({demo + QStringLiteral("TIDEMILL.MID")});
    QTRY_COMPARE(m_session->current.set().songs.size(), std::size_t{2});
    QVERIFY(m_session->current.set().songs[1]->tidied.empty());
}

void TestWindow::triesASoundKeepsItOrGoesBack() {
    openDemo();
    m_session->current.selectPart(partNamed("Glass bells"));
    QTest::keyClick(m_window.get(), Qt::Key_F, Qt::ControlModifier);
    QCOMPARE(m_window->page(), Step::Sounds);
    auto* search = named<QLineEdit>("shelfSearch");
    auto* list = named<QListView>("shelfList");
    QTest::keyClicks(search, QStringLiteral("music box"));
    QCOMPARE(list->model()->rowCount(), 1);
    QSignalSpy ready(&m_session->planner, &Planner::planReady);
    m_session->transport.togglePlay();
    QTest::keyClick(search, Qt::Key_Down);
    QVERIFY(m_session->sounds.isTrying());
    QCOMPARE(m_session->sounds.heardSong().part(m_session->current.selectedPart())->sound.chosen->program,
             10);
    QVERIFY(!m_session->current.part()->sound.chosen); // only tried
    QTRY_VERIFY(!ready.isEmpty());
    QTest::keyClick(list, Qt::Key_Escape);
    QVERIFY(!m_session->sounds.isTrying() && !m_session->current.part()->sound.chosen);
    QTest::keyClick(search, Qt::Key_Down);
    QTest::keyClick(list, Qt::Key_Return);
    QVERIFY(!m_session->sounds.isTrying());
    QCOMPARE(m_session->current.part()->sound.chosen->name, std::string("Music Box"));
    QVERIFY(m_session->transport.isPlaying());
    click(buttonWith(QStringLiteral("As the file asks")));
    QVERIFY(!m_session->current.part()->sound.chosen);
    search->clear();
    QTest::keyClicks(search, QStringLiteral("0:73"));
    QCOMPARE(list->model()->index(0, 0).data().toString(), QStringLiteral("Flute"));
    search->setText(QStringLiteral("no such sound at all"));
    QCOMPARE(list->model()->rowCount(), 0);
    m_session->transport.togglePlay();
}

void TestWindow::aNewDefaultFontTakesEffectAtOnce() {
    openDemo();
    m_session->sounds.setCatalogue(scanFonts({HOUSE_FONT, {}, {TEST_FONT}}, houseFontId));
    QCOMPARE(m_session->findings.matches()[0].first().sound->font, std::string(houseFontId));
    m_session->transport.togglePlay();
    FontsDialog dialog(*m_session, m_window.get());
    auto* list = dialog.findChild<QListWidget*>(QStringLiteral("fontList"));
    QCOMPARE(list->count(), 2);
    list->setCurrentRow(1);
    QSignalSpy ready(&m_session->planner, &Planner::planReady);
    Q_EMIT list->itemActivated(list->currentItem());
    QCOMPARE(m_session->findings.matches()[0].first().sound->name, std::string("Tone 0:56"));
    QTRY_VERIFY(!ready.isEmpty());
    QVERIFY(m_session->transport.isPlaying());
    m_session->transport.togglePlay();
}

void TestWindow::rolesLoopAndPace() {
    openDemo();
    m_window->showPage(Step::Practice);
    auto segments = m_window->findChildren<Segments*>();
    segments.removeIf([](const Segments* s) { return !s->isVisible(); });
    QCOMPARE(segments.size(), 10);
    Q_EMIT segments[4]->chosen(static_cast<int>(Role::Off));
    QCOMPARE(m_session->current.song().parts[4].mix.role, Role::Off);
    click(buttonWith(QStringLiteral("Alone")));
    QCOMPARE(m_session->current.part()->mix.role, Role::Lead);
    QCOMPARE(m_session->current.song().parts[0].mix.role, Role::Off);
    named<QSpinBox>("loopFrom")->setValue(9);
    named<QSpinBox>("loopTo")->setValue(12);
    for (QCheckBox* box : m_window->findChildren<QCheckBox*>())
        if (box->text() == QStringLiteral("Repeat")) box->click();
    QVERIFY(m_session->transport.loop().on);
    QCOMPARE(m_session->transport.loop().start, m_session->current.song().tempo->barStart(9));
    QCOMPARE(m_session->transport.loop().end, m_session->current.song().tempo->barStart(13));
    named<QSpinBox>("pace")->setValue(60);
    QCOMPARE(m_session->transport.pace(), 60);
    QTest::keyClick(m_window.get(), Qt::Key_Up, Qt::ControlModifier);
    QCOMPARE(m_session->transport.pace(), 65);
    QTest::keyClick(m_window.get(), Qt::Key_L, Qt::ControlModifier);
    QVERIFY(!m_session->transport.loop().on);
}

void TestWindow::songStripByMouseAndKeys() {
    openDemo();
    auto* strip = m_window->findChild<StripView*>();
    const Tick goal = m_session->current.song().tempo->barStart(41);
    QTest::mouseClick(strip, Qt::LeftButton, {}, QPoint(static_cast<int>(std::lround(strip->xOf(goal))), 60));
    QTRY_VERIFY(std::abs(m_session->current.song().tempo->position(m_session->transport.place()).bar - 41) <=
                1);
    strip->setFocus();
    QTest::keyClick(strip, Qt::Key_Home);
    QTRY_COMPARE(m_session->transport.place(), Tick{0});
    QTest::keyClick(strip, Qt::Key_Right);
    QTRY_COMPARE(m_session->current.song().tempo->position(m_session->transport.place()).bar, 2);
    QTest::keyClick(strip, Qt::Key_Right, Qt::ControlModifier | Qt::ShiftModifier);
    QTRY_COMPARE(m_session->current.song().tempo->position(m_session->transport.place()).bar,
                 9); // the next section
    // Dragging along the sections sets a loop on whole bars.
    const QPoint from(static_cast<int>(strip->xOf(m_session->current.song().tempo->barStart(9))) + 2, 14),
        to(static_cast<int>(strip->xOf(m_session->current.song().tempo->barStart(17))), 14);
    QTest::mousePress(strip, Qt::LeftButton, {}, from);
    QTest::mouseMove(strip, to);
    QTest::mouseRelease(strip, Qt::LeftButton, {}, to);
    QVERIFY(m_session->transport.loop().on);
    QCOMPARE(m_session->transport.loop().start, m_session->current.song().tempo->barStart(9));
    QCOMPARE(m_session->transport.loop().end, m_session->current.song().tempo->barStart(17));
    // and its ends can be dragged
    const QPoint end(static_cast<int>(std::lround(strip->xOf(m_session->transport.loop().end))), 60),
        further(static_cast<int>(std::lround(strip->xOf(m_session->current.song().tempo->barStart(25)))), 60);
    QTest::mousePress(strip, Qt::LeftButton, {}, end);
    QTest::mouseMove(strip, further);
    QTest::mouseRelease(strip, Qt::LeftButton, {}, further);
    QCOMPARE(m_session->transport.loop().end, m_session->current.song().tempo->barStart(25));
}

void TestWindow::exportTicksAndStops() {
    openDemo();
    m_window->showPage(Step::Export);
    QTemporaryDir folder;
    m_window->exportPage()->setFolder(folder.path());
    m_window->exportPage()->tickOnly([](const ExportItem&) { return true; });
    QCOMPARE(m_window->exportPage()->ticked()[0].items.size(), std::size_t{2 + 10 + 2 + 40 + 1 + 1});
    m_window->exportPage()->tickOnly(
        [](const ExportItem& item) { return item.isSound() && item.kind != ExportItem::Kind::Stem; });
    QSignalSpy finished(m_window->exportPage(), &ExportPage::finished);
    m_window->exportPage()->write();
    QVERIFY(m_window->exportPage()->isWriting());
    QTest::qWait(100);
    click(buttonWith(QStringLiteral("Stop")));
    QTRY_COMPARE_WITH_TIMEOUT(finished.size(), 1, scaled(30000));
    QVERIFY(QDir(folder.path()).entryList(QDir::Files | QDir::Hidden).isEmpty());
    QCOMPARE(named<QLabel>("exportStatus")->text(), QStringLiteral("0 of 32 written"));
}

/// The cell of a row by its name.
QModelIndex cellOf(const QAbstractItemModel& grid, const QModelIndex& song, const QString& name, int column) {
    for (int row = 0; row < grid.rowCount(song); ++row)
        if (grid.index(row, 0, song).data().toString() == name) return grid.index(row, column, song);
    return {};
}

void TestWindow::exportsAllSongsByKeys() {
    openDemo({QStringLiteral("TIDEMILL.MID"), QStringLiteral("SLACKW~1.MID")});
    QTest::keyClick(m_window.get(), Qt::Key_6, Qt::ControlModifier);
    ExportPage* page = m_window->exportPage();
    QTemporaryDir folder;
    page->setFolder(folder.path());
    auto* stretch = m_window->findChild<QComboBox*>(QStringLiteral("exportStretch"));
    stretch->setCurrentIndex(1); // the loop, which belongs to one song
    page->showAllSongs(true);
    QCOMPARE(stretch->currentIndex(), 0);
    auto* grid = named<QTreeView>("exportList");
    QVERIFY(!grid->rootIndex().isValid());
    QCOMPARE(grid->model()->rowCount(), 2);
    // A song's cell ticks a column of all its parts; opened, a part's own.
    grid->setFocus();
    for (int song = 0; song < 2; ++song)
        page->model()->tickOnly(song, [](const ExportItem&) { return false; });
    QVERIFY(!named<QPushButton>("writeFiles")->isEnabled());
    grid->setCurrentIndex(grid->model()->index(0, 0));
    for (int i = 0; i < 2; ++i)
        QTest::keyClick(grid, Qt::Key_Right); // opens the song, then goes along its cells
    QVERIFY(grid->isExpanded(grid->model()->index(0, 0)));
    grid->setCurrentIndex(grid->model()->index(0, ExportGrid::Midi));
    QTest::keyClick(grid, Qt::Key_Space);
    QCOMPARE(grid->currentIndex().data(Qt::CheckStateRole).toInt(), int(Qt::Checked));
    const auto parts = page->ticked()[0].items.size() - 1; // the whole song, too
    QVERIFY(parts > 3);
    const QModelIndex one =
        cellOf(*grid->model(), grid->model()->index(0, 0), QStringLiteral("Whole song"), ExportGrid::Midi);
    grid->setCurrentIndex(one);
    QTest::keyClick(grid, Qt::Key_Space);
    QCOMPARE(grid->model()->index(0, ExportGrid::Midi).data(Qt::CheckStateRole).toInt(),
             int(Qt::PartiallyChecked));
    QVERIFY(grid->model()
                ->index(0, ExportGrid::Midi)
                .data(Qt::AccessibleTextRole)
                .toString()
                .startsWith(QStringLiteral("partly ticked, ")));
    QCOMPARE(page->ticked()[0].items.size(), parts);
    // One row for all parts.
    const QModelIndex every =
        cellOf(*grid->model(), grid->model()->index(1, 0), QStringLiteral("Every part"), ExportGrid::Midi);
    grid->setCurrentIndex(every);
    QTest::keyClick(grid, Qt::Key_Space);
    QCOMPARE(page->ticked().size(), std::size_t{2});
    // Beside the list stand the names that the cell's files will have.
    const auto will = page->ticked()[1].items;
    const QStringList told = named<QLabel>("exportRowFiles")->text().split(QLatin1Char('\n'));
    QCOMPARE(told.size(), qsizetype{5});
    for (std::size_t i = 0; i < 4; ++i)
        QCOMPARE(told[static_cast<int>(i)], QString::fromStdString(will[i].fileName));
    QCOMPARE(told[4], QStringLiteral("… and %1 more").arg(will.size() - 4));
    QSignalSpy finished(page, &ExportPage::finished);
    click(named<QPushButton>("writeFiles"));
    QTRY_COMPARE_WITH_TIMEOUT(finished.size(), 1, scaled(60000));
    const auto files = QDir(folder.path()).entryList(QDir::Files);
    QCOMPARE(std::size_t(files.size()), page->ticked()[0].items.size() + page->ticked()[1].items.size());
    QCOMPARE(every.data(ExportGrid::ResultRole).toInt(), int(ExportGrid::Written));
    // A cell of several files tells how many, not what one of them measures.
    QCOMPARE(every.data(ExportGrid::MeasuredRole).toString(),
             QStringLiteral("%1 files").arg(page->ticked()[1].items.size()));
    // What is ticked anew is no more what was written.
    QTest::keyClick(grid, Qt::Key_Space);
    QCOMPARE(every.data(ExportGrid::ResultRole).toInt(), int(ExportGrid::Idle));
}

/// Marks of what was written stay as long as the same would be written, and the line beside the button says
/// where it goes and how the song stands.
void TestWindow::writtenMarksGoWithWhatTheyTellOf() {
    openDemo({QStringLiteral("TIDEMILL.MID")});
    m_window->showPage(Step::Export);
    ExportPage* page = m_window->exportPage();
    QTemporaryDir folder;
    page->setFolder(folder.path());
    page->tickOnly([](const ExportItem& item) {
        return item.kind == ExportItem::Kind::Midi || item.kind == ExportItem::Kind::MidiHeard;
    });
    const auto cells = [&] {
        QList<int> results;
        for (const char* name : {"Whole song", "As on Practice now"})
            results << cellOf(*page->model(), page->model()->songIndex(0), QString::fromUtf8(name),
                              ExportGrid::Midi)
                           .data(ExportGrid::ResultRole)
                           .toInt();
        return results;
    };
    const auto write = [&] {
        QSignalSpy finished(page, &ExportPage::finished);
        page->askAboutExisting = [](const auto&, const auto& then) { then(Existing::Replace); };
        page->write();
        QTRY_COMPARE_WITH_TIMEOUT(finished.size(), 1, scaled(30000));
    };
    write();
    QCOMPARE(cells(), (QList<int>{ExportGrid::Written, ExportGrid::Written}));
    QVERIFY(named<QLabel>("exportPlan")->text().remove(QChar(0x200B)).contains(folder.path()));
    QVERIFY(!named<QLabel>("exportPlan")->text().contains(QStringLiteral("stands on")));
    const Part part = m_session->current.song().parts[0];
    m_session->current.edit(QStringLiteral("alone"),
                            [&](const Song& song) { return edits::onlyPart(song, part.id); });
    QCOMPARE(cells(), (QList<int>{ExportGrid::Written, ExportGrid::Idle}));
    QVERIFY(named<QLabel>("exportPlan")
                ->text()
                .contains(QStringLiteral("“%1 alone”").arg(QString::fromStdString(part.name))));
    write();
    m_session->current.edit(QStringLiteral("level"),
                            [&](const Song& song) { return edits::setLevel(song, part.id, -3); });
    QCOMPARE(cells(), (QList<int>{ExportGrid::Idle, ExportGrid::Idle}));
    write();
    named<QComboBox>("midiType")->setCurrentIndex(1);
    QCOMPARE(cells(), (QList<int>{ExportGrid::Idle, ExportGrid::Idle}));
    write();
    for (const QString& name : QDir(folder.path()).entryList(QDir::Files))
        QCOMPARE(openSong((folder.path() + u'/' + name).toStdString()).value().source->midi.type, 0);
    // A section, and what is from one on.
    auto* stretch = named<QComboBox>("exportStretch");
    const Song& song = m_session->current.song();
    QCOMPARE(stretch->count(), 3 + 2 * static_cast<int>(song.sections.size()));
    for (const bool on : {false, true}) {
        stretch->setCurrentIndex(3 + 2 + on);
        write();
        const Tick end = on ? song.end : song.sections[1].end;
        const QString name = QString::fromStdString(page->ticked()[0].items[0].fileName);
        QCOMPARE(openSong(folder.filePath(name).toStdString()).value().end, end - song.sections[1].start);
    }
}

/// A file that its peaks hold below the level is told apart, counted, and its cell says why.
void TestWindow::quieterFilesSayWhy() {
    openDemo(); // its drums are far louder for a moment than they are in all
    QTemporaryDir folder;
    m_window->showPage(Step::Export);
    ExportPage* page = m_window->exportPage();
    page->setFolder(folder.filePath(QStringLiteral("out")));
    Recipe recipe;
    recipe.finish.level = Level::Lufs16;
    page->use(recipe);
    QSignalSpy finished(page, &ExportPage::finished);
    page->write();
    QTRY_COMPARE_WITH_TIMEOUT(finished.size(), 1, scaled(30000));
    const QModelIndex cell =
        cellOf(*page->model(), page->model()->songIndex(0), QStringLiteral("Whole song"), ExportGrid::Front);
    QCOMPARE(cell.data(ExportGrid::ResultRole).toInt(), int(ExportGrid::Otherwise));
    QVERIFY(named<QLabel>("exportStatus")
                ->text()
                .startsWith(QStringLiteral("1 of 1 written. Not as loud as asked: 1;")));
    named<QTreeView>("exportList")->setCurrentIndex(cell);
    QVERIFY(named<QLabel>("exportRowFiles")->text().contains(QStringLiteral("its peaks would be cut")));
}

/// A set remembers what was ticked; songs that nobody ticked begin as all do.
void TestWindow::ticksAreKeptWithTheSet() {
    openDemo({QStringLiteral("TIDEMILL.MID"), QStringLiteral("SLACKW~1.MID")});
    m_window->showPage(Step::Export);
    ExportPage* page = m_window->exportPage();
    const PartId second = m_session->current.song().parts[1].id;
    page->tickOnly([&](const ExportItem& item) {
        return item.kind == ExportItem::Kind::Sheet ||
               (item.kind == ExportItem::Kind::Alone && item.part == second);
    });
    QTemporaryDir folder;
    const QString file = folder.filePath(QStringLiteral("ticks.cobbleway"));
    bool saved = false;
    m_session->files.save(file, [&](bool done) { saved = done; });
    QTRY_VERIFY(saved);
    m_session->files.newSet();
    QVERIFY(m_session->current.set().songs.empty());
    m_session->files.open(file);
    QTRY_COMPARE(m_session->current.set().songs.size(), std::size_t{2});
    page->showAllSongs(true);
    const auto ticked = page->ticked();
    QCOMPARE(ticked.size(), std::size_t{2});
    QCOMPARE(ticked[0].items.size(), std::size_t{2});
    QVERIFY(ticked[0].items[0].kind == ExportItem::Kind::Alone && ticked[0].items[0].part == second);
    QVERIFY(ticked[0].items[1].kind == ExportItem::Kind::Sheet);
    QCOMPARE(ticked[1].items.size(), std::size_t{2}); // whole, as sound and as MIDI
}

/// The whole way, by keys alone once the folder is there: four songs, each part without its player at two
/// paces, in a folder a part.
void TestWindow::aFolderOfSongsBecomesFoldersOfFiles() {
    QTemporaryDir in, out;
    int number = 0;
    for (const char* title : {"Quay", "Lights", "Mill", "Home"}) {
        Builder b(1, 3);
        b.file.addText(0, 0, meta::trackName, title);
        b.file.addText(1, 0, meta::trackName, "Soprano");
        b.file.addText(2, 0, meta::trackName, "Alto");
        for (int i = 0; i < 8; ++i)
            b.note(0, i * 0.25, 0.2, 67 + i % 4 + number, 90, 1).note(1, i * 0.25, 0.2, 60 + i % 3, 90, 2);
        ++number;
        b.file.sortTracks();
        const auto bytes = writeMidi(b.file);
        QFile file(in.filePath(QString::fromUtf8(title).toLower() + QStringLiteral(".mid")));
        QVERIFY(file.open(QIODevice::WriteOnly));
        file.write(reinterpret_cast<const char*>(bytes.data()), static_cast<qint64>(bytes.size()));
    }
    m_session->files.addPaths({in.path()});
    QTRY_COMPARE(m_session->current.set().songs.size(), std::size_t{4});
    QTest::keyClick(m_window.get(), Qt::Key_6, Qt::ControlModifier);
    ExportPage* page = m_window->exportPage();
    page->setFolder(out.path());
    // All songs.
    auto* which = page->findChild<Segments*>(QStringLiteral("exportSongs"));
    auto* all = which->findChildren<QAbstractButton*>().last();
    QCOMPARE(all->text(), QStringLiteral("All songs"));
    all->setFocus();
    QTest::keyClick(all, Qt::Key_Space);
    auto* grid = named<QTreeView>("exportList");
    QTRY_COMPARE(grid->model()->rowCount(), 4);
    for (int song = 0; song < 4; ++song)
        page->model()->tickOnly(song, [](const ExportItem&) { return false; });
    // The head of each song ticks Without for all of its parts.
    grid->setFocus();
    for (int song = 0; song < 4; ++song) {
        grid->setCurrentIndex(grid->model()->index(song, ExportGrid::Without));
        QTest::keyClick(grid, Qt::Key_Space);
        QCOMPARE(page->ticked().size(), static_cast<std::size_t>(song + 1));
    }
    auto* paces = m_window->findChild<QLineEdit*>(QStringLiteral("exportPaces"));
    auto* names = m_window->findChild<QLineEdit*>(QStringLiteral("exportNames"));
    for (const auto& [box, text] :
         {std::pair{paces, "80, 100"}, std::pair{names, "{part}/{n} {song} {pace}"}}) {
        box->setFocus();
        box->selectAll();
        QTest::keyClicks(box, QString::fromUtf8(text));
        QTest::keyClick(box, Qt::Key_Return);
    }
    // The names that will be written are shown for the cell in hand.
    grid->setFocus();
    grid->setCurrentIndex(grid->model()->index(1, ExportGrid::Without));
    QTRY_VERIFY(named<QLabel>("exportRowFiles")->text().contains(QStringLiteral("Alto/")));
    QSignalSpy finished(page, &ExportPage::finished);
    auto* write = named<QPushButton>("writeFiles");
    write->setFocus();
    QTest::keyClick(write, Qt::Key_Space);
    QTRY_COMPARE_WITH_TIMEOUT(finished.size(), 1, scaled(60000));
    for (const char* part : {"Soprano", "Alto"}) {
        const QDir folder(out.filePath(QString::fromUtf8(part)));
        QCOMPARE(folder.entryList(QDir::Files | QDir::Hidden).size(), 8);
    }
    // One step sets how the MIDI files of all songs are written, and one undoes it.
    auto* folded = m_window->findChild<QCheckBox*>(QStringLiteral("folded"));
    folded->setFocus();
    QTest::keyClick(folded, Qt::Key_Space);
    for (const auto& song : m_session->current.set().songs) QVERIFY(song->midi.folded);
    m_session->current.undo();
    for (const auto& song : m_session->current.set().songs) QVERIFY(!song->midi.folded);
}

void TestWindow::recipesSetTicksAndOptions() {
    openDemo();
    m_window->showPage(Step::Export);
    ExportPage* page = m_window->exportPage();
    const auto shipped = shippedRecipes();
    page->use(shipped[1]);
    QVERIFY(page->recipe().front && page->recipe().alone && !page->recipe().stems);
    QVERIFY(page->recipe().folders == Folders::Part && page->recipe().finish == shipped[1].finish);
    QCOMPARE(page->recipe().format, shipped[1].format);
    QStringList names;
    const auto choir = page->ticked();
    for (const ExportItem& item : choir[0].items) names << QString::fromStdString(item.fileName);
    QVERIFY2(names.contains(QStringLiteral("Clarinets/Lantern Quay - Clarinets in front.mp3")),
             qPrintable(names.join(u'|')));
    // Several paces, and a name of its own.
    auto* paces = m_window->findChild<QLineEdit*>(QStringLiteral("exportPaces"));
    paces->setText(QStringLiteral("70, 100"));
    m_window->findChild<QLineEdit*>(QStringLiteral("exportNames"))
        ->setText(QStringLiteral("{n} {song} {mix} {pace}"));
    page->tickOnly([](const ExportItem& item) { return item.kind == ExportItem::Kind::Full; });
    const std::vector<ExportItem> items = page->ticked()[0].items;
    QCOMPARE(items.size(), std::size_t{2});
    QCOMPARE(items[0].fileName, std::string("Whole song/01 Lantern Quay full 70%.mp3"));
    QVERIFY(named<QLabel>("exportCount")->text().startsWith(QStringLiteral("2 files · ")));
}

void TestWindow::keptMixesAreChosenByKey() {
    openDemo();
    m_window->showPage(Step::Practice);
    auto* kept = named<QComboBox>("keptMixes");
    QCOMPARE(kept->currentText(), QStringLiteral("none yet"));
    m_session->current.edit(QStringLiteral("x"), [](const Song& song) {
        return edits::keepMix(edits::putInFront(song, 3), "Clarinets");
    });
    m_session->current.edit(QStringLiteral("x"), [](const Song& song) {
        return edits::keepMix(edits::onlyPart(song, 8), "Tuba alone");
    });
    QCOMPARE(kept->count(), 2);
    QCOMPARE(kept->currentText(), QStringLiteral("Tuba alone"));
    m_window->action(QStringLiteral("play"))->trigger();
    QTRY_VERIFY(m_session->output.player().isPlaying());
    QTest::keyClick(m_window.get(), Qt::Key_M, Qt::ControlModifier);
    QVERIFY(m_session->current.song().part(3)->mix.role == Role::Lead);
    QVERIFY(m_session->output.player().isPlaying()); // and goes on
    QCOMPARE(kept->currentText(), QStringLiteral("Clarinets"));
    m_window->action(QStringLiteral("previousMix"))->trigger();
    QCOMPARE(kept->currentText(), QStringLiteral("Tuba alone"));
    kept->setCurrentIndex(kept->findText(QStringLiteral("Clarinets")));
    Q_EMIT kept->activated(kept->currentIndex());
    QVERIFY(m_session->current.song().part(8)->mix.role == Role::Back);
    m_session->current.edit(QStringLiteral("x"),
                            [](const Song& song) { return edits::setLevel(song, 1, -3); });
    QCOMPARE(kept->currentText(), QStringLiteral("none of them"));
    // They are exported, too.
    m_window->exportPage()->tickOnly(
        [](const ExportItem& item) { return item.kind == ExportItem::Kind::Kept; });
    QCOMPARE(m_window->exportPage()->ticked()[0].items.size(), std::size_t{2});
}

void TestWindow::thePaceGrowsEachRound() {
    openDemo();
    const TempoMap& tempo = *m_session->current.song().tempo;
    m_session->transport.setPace(160);
    m_session->transport.setLoop({tempo.barStart(9), tempo.barStart(10), true});
    m_session->rounds.setGrowth({true, 10, 175});
    m_session->transport.seek(tempo.barStart(9));
    m_session->transport.togglePlay();
    QTRY_COMPARE_WITH_TIMEOUT(m_session->transport.pace(), 170, scaled(15000));
    QTRY_COMPARE_WITH_TIMEOUT(m_session->transport.pace(), 175, scaled(15000)); // the target, and no further
    QTest::keyClick(m_window.get(), Qt::Key_Down, Qt::ControlModifier | Qt::ShiftModifier);
    QCOMPARE(m_session->transport.pace(), 160);
    m_session->transport.togglePlay();
    m_session->rounds.setGrowth({});
}

void TestWindow::clickAndCountIn() {
    openDemo();
    m_window->showPage(Step::Practice);
    auto* box = m_window->findChild<QCheckBox*>(QStringLiteral("click"));
    auto* bars = m_window->findChild<QSpinBox*>(QStringLiteral("countInBars"));
    QTest::keyClick(m_window.get(), Qt::Key_B, Qt::ControlModifier);
    QVERIFY(box->isChecked() && m_session->transport.clicking().on);
    bars->setValue(1);
    QCOMPARE(m_session->transport.clicking().countIn, 1);
    // The dialog shows and changes the same; it is kept for the next time.
    QTest::keyClick(m_window.get(), Qt::Key_B, Qt::ControlModifier | Qt::ShiftModifier);
    auto* sound = m_window->findChild<QComboBox*>(QStringLiteral("clickSound"));
    QTRY_VERIFY(sound && sound->isVisible());
    sound->setCurrentIndex(1);
    QCOMPARE(m_session->transport.clicking().shape.sound, ClickSound::Wood);
    QVERIFY(settings::clicking() == m_session->transport.clicking());
    QTest::keyClick(sound->window(), Qt::Key_Escape);
    // One bar of four at 104 BPM is counted before the song moves.
    QTRY_VERIFY(m_session->planner.isPlanned());
    m_session->transport.seek(0);
    m_session->transport.togglePlay();
    QTest::qWait(900);
    QVERIFY(m_session->transport.isPlaying());
    QCOMPARE(m_session->transport.place(), Tick{0});
    QTRY_VERIFY_WITH_TIMEOUT(m_session->transport.place() > 0, scaled(8000));
    m_session->transport.togglePlay();
    m_session->transport.setClicking({});
}

void TestWindow::sectionsAreWorkedThrough() {
    openDemo();
    m_window->showPage(Step::Practice);
    const Song& song = m_session->current.song();
    QTRY_VERIFY(m_session->planner.isPlanned());
    // Two short sections at the end of the song.
    const Tick end = song.tempo->barStart(80), middle = song.tempo->barStart(79);
    m_session->current.edit(QStringLiteral("sections"), [&](const Song& s) {
        return edits::addSection(edits::addSection(s, middle, "Last but one"), end, "Last");
    });
    m_session->transport.seek(middle);
    QTRY_COMPARE(m_session->transport.place(), middle);
    m_session->transport.setPace(90);
    const Loop before{0, song.tempo->barStart(3), false};
    m_session->transport.setLoop(before);
    QTest::keyClick(m_window.get(), Qt::Key_G, Qt::ControlModifier);
    auto* rounds = m_window->findChild<QSpinBox*>(QStringLiteral("rounds"));
    QTRY_VERIFY(rounds && rounds->isVisible());
    rounds->setValue(2);
    rounds->window()->findChild<QSpinBox*>(QStringLiteral("workFrom"))->setValue(150);
    rounds->window()->findChild<QSpinBox*>(QStringLiteral("workTo"))->setValue(200);
    QSignalSpy said(&m_session->messages, &Messages::announced);
    QTest::keyClick(rounds->window(), Qt::Key_Return);
    QTRY_VERIFY(m_session->rounds.isWorking());
    QCOMPARE(m_session->transport.pace(), 150);
    QVERIFY(m_session->transport.isPlaying());
    QStringList played;
    connect(&m_session->rounds, &Rounds::workChanged, this, [&] {
        if (m_session->rounds.isWorking())
            played << QStringLiteral("%1 %2 %3")
                          .arg(QString::fromStdString(m_session->rounds.workRound().name))
                          .arg(m_session->rounds.workRound().round)
                          .arg(m_session->transport.pace());
    });
    QTRY_VERIFY2_WITH_TIMEOUT(
        !m_session->rounds.isWorking(),
        qPrintable(played.join(QStringLiteral(", ")) + QString::number(m_session->transport.place())),
        scaled(40000));
    QCOMPARE(played,
             (QStringList{QStringLiteral("Last but one 2 200"), QStringLiteral("Last 1 150"),
                          QStringLiteral("Last 2 200"), QStringLiteral("Last but one and Last 1 200")}));
    QVERIFY(!m_session->transport.isPlaying());
    QCOMPARE(m_session->transport.pace(), 90);
    QVERIFY(m_session->transport.loop() == before);
    QCOMPARE(said.last()[0].toString(), QStringLiteral("Worked through"));
    m_session->rounds.disconnect(this);
}

void TestWindow::pedalsAreTaught() {
    openDemo();
    QTRY_VERIFY(m_session->planner.isPlanned());
    PlayAlong& keyboard = m_session->playAlong;
    const auto send = [&](std::initializer_list<std::uint8_t> bytes) {
        const std::vector<std::uint8_t> message(bytes);
        keyboard.take(message);
    };
    PedalsDialog dialog(
        keyboard.pedals(), [](const QString& id) { return id; }, QStringLiteral("a keyboard"),
        m_window.get());
    dialog.show();
    auto* list = dialog.findChild<QTreeWidget*>(QStringLiteral("pedals"));
    auto* teach = dialog.findChild<QPushButton*>(QStringLiteral("teach"));
    QTest::mouseClick(teach, Qt::LeftButton);
    QCOMPARE(dialog.findChild<QLabel*>(QStringLiteral("say"))->text(),
             QStringLiteral("Press the pedal or pad now."));
    send({0xB3, 66, 127});
    QTRY_COMPARE(list->topLevelItem(0)->text(1), QStringLiteral("controller 66"));
    send({0xB3, 66, 0});
    // It plays and stops; on any channel, once a press, and nothing of it is heard by the part.
    send({0xB0, 66, 127});
    send({0xB0, 66, 120});
    QTRY_VERIFY(m_session->transport.isPlaying());
    send({0xB0, 66, 0});
    send({0xB0, 66, 127});
    QTRY_VERIFY(!m_session->transport.isPlaying());
    send({0xB0, 66, 0});
    // A pad that is a note; the same message means one thing alone.
    list->setCurrentItem(list->topLevelItem(4)); // faster
    QTest::mouseClick(teach, Qt::LeftButton);
    send({0x99, 36, 100});
    QTRY_COMPARE(list->topLevelItem(4)->text(1), QStringLiteral("note C2"));
    send({0x89, 36, 0});
    send({0x99, 36, 100});
    QTRY_COMPARE(m_session->transport.pace(), 105);
    QTest::mouseClick(dialog.findChild<QPushButton*>(QStringLiteral("forget")), Qt::LeftButton);
    QCOMPARE(list->topLevelItem(4)->text(1), QStringLiteral("nothing yet"));
    QCOMPARE(settings::taughtMessages().size(), 1);
    keyboard.pedals().forget(QStringLiteral("play"));
    m_session->transport.setPace(100);
}

void TestWindow::songsAreHeardEquallyLoud() {
    openDemo();
    QTRY_VERIFY(m_session->planner.isPlanned());
    QCOMPARE(m_session->levelling.evenGain(),
             0.0); // the silent output: nobody hears it, so nothing is measured by itself
    const QString step = m_session->current.undoName();
    m_session->levelling.measureForEvenness();
    QTRY_VERIFY_WITH_TIMEOUT(m_session->levelling.evenGain() != 0, scaled(60000));
    QCOMPARE(m_session->current.undoName(), step); // it is no change of the song
    const double gain = m_session->levelling.evenGain();
    const auto measured = m_session->current.notes().loudnessOf(m_session->current.song());
    QVERIFY(measured.has_value());
    QVERIFY(measured->lufs + gain <= aimedLufs + 0.01 && measured->peakDb + gain <= highestPeakDb + 0.01);
    // A level that a person gives counts instead, and the whole can be turned off.
    m_session->current.edit(QStringLiteral("level"),
                            [](const Song& s) { return edits::setMasterLevel(s, -3); });
    QCOMPARE(m_session->levelling.evenGain(), 0.0);
    m_session->current.undo();
    QCOMPARE(m_session->levelling.evenGain(), gain);
    m_window->action(QStringLiteral("even"))->trigger();
    QCOMPARE(m_session->levelling.evenGain(), 0.0);
    m_window->action(QStringLiteral("even"))->trigger();
    // It is kept with the set.
    QTemporaryDir folder;
    const QString path = folder.filePath(QStringLiteral("set.cobbleway"));
    QSignalSpy saved(&m_session->current, &CurrentSet::historyChanged);
    m_session->files.save(path);
    QTRY_VERIFY_WITH_TIMEOUT(m_session->current.projectPath() == path, scaled(10000));
    m_session->files.open(path);
    QTRY_VERIFY_WITH_TIMEOUT(!m_session->files.isBusy(), scaled(10000));
    QTRY_COMPARE(m_session->levelling.evenGain(), gain);
}

void TestWindow::thePictureMovesEvenly() {
    openDemo();
    m_window->showPage(Step::Practice);
    auto* picture = m_window->findChild<NotesPicture*>();
    QTRY_VERIFY(m_session->planner.isPlanned());
    m_session->transport.seek(m_session->current.song().tempo->barStart(12));
    m_session->transport.setPace(200);
    m_session->transport.togglePlay();
    QTRY_VERIFY_WITH_TIMEOUT(m_session->transport.place() > m_session->current.song().tempo->barStart(13),
                             scaled(8000));
    // Over two bars the place shown and the bar shown first never go back (how far they may step at once is
    // tested with made-up clocks in tst_player).
    Tick last = m_session->transport.evenPlace();
    const int firstBar = picture->firstBar();
    int lastBar = firstBar;
    QElapsedTimer clock;
    clock.start();
    while (lastBar < firstBar + 2 && clock.elapsed() < 20000) {
        QTest::qWait(20);
        QVERIFY(m_session->transport.evenPlace() >= last);
        last = m_session->transport.evenPlace();
        QVERIFY(picture->firstBar() >= lastBar);
        lastBar = picture->firstBar();
    }
    QVERIFY(lastBar >= firstBar + 2);
    m_session->transport.togglePlay();
    m_session->transport.setPace(100);
}

void TestWindow::myFirstNoteSounds() {
    openDemo();
    m_session->current.selectPart(partNamed("Clarinets"));
    QTRY_VERIFY(m_session->planner.isPlanned());
    QSignalSpy said(&m_session->messages, &Messages::announced);
    QTest::keyClick(m_window.get(), Qt::Key_J, Qt::ControlModifier);
    const auto heard = m_session->findings.heard(m_session->current.selectedPart());
    const Note& first = heard->notes.front();
    QVERIFY(said.last()[0].toString().startsWith(QString::fromStdString(keyName(first.key)) +
                                                 QStringLiteral(", in bar ")));
    QTRY_VERIFY_WITH_TIMEOUT(m_session->meters.part(m_session->current.selectedPart()) > 0, scaled(5000));
    m_session->transport.seek(m_session->current.song().end);
    QTRY_VERIFY(m_session->transport.place() > heard->notes.back().start);
    m_session->startingNote.play();
    QCOMPARE(said.last()[0].toString(), QStringLiteral("No note begins after this place"));
}

void TestWindow::thePartSheetIsAPdf() {
    openDemo();
    ExportPage* page = m_window->exportPage();
    QTemporaryDir folder;
    page->setFolder(folder.path());
    page->tickOnly([](const ExportItem& item) { return item.kind == ExportItem::Kind::Sheet; });
    QSignalSpy finished(page, &ExportPage::finished);
    page->write();
    QTRY_COMPARE_WITH_TIMEOUT(finished.size(), 1, scaled(20000));
    QCOMPARE(QDir(folder.path()).entryList(QDir::Files | QDir::Hidden),
             (QStringList{QStringLiteral("Lantern Quay - part sheet.html"),
                          QStringLiteral("Lantern Quay - part sheet.pdf")}));
    QFile pdf(folder.filePath(QStringLiteral("Lantern Quay - part sheet.pdf")));
    QVERIFY(pdf.open(QIODevice::ReadOnly));
    QVERIFY(pdf.readAll().startsWith("%PDF-") && pdf.size() > 5000);
}

void TestWindow::theStandViewFollows() {
    openDemo();
    m_session->current.selectPart(partNamed("Clarinets"));
    m_window->action(QStringLiteral("stand"))->trigger();
    QTRY_VERIFY(m_window->findChild<StandView*>());
    QPointer<StandView> stand = m_window->findChild<StandView*>();
    QTRY_VERIFY(stand->isVisible());
    const TempoMap& tempo = *m_session->current.song().tempo;
    QVERIFY2(stand->shown().startsWith(
                 QStringLiteral("Clarinets · as it sounds (W: as written for B♭ clarinet)\nbar 1 · Intro")),
             qPrintable(stand->shown()));
    QTest::keyClick(stand, Qt::Key_W);
    QVERIFY(stand->shown().startsWith(QStringLiteral("Clarinets · as written for B♭ clarinet\n")));
    const auto heard = m_session->findings.heard(m_session->current.selectedPart());
    const int first = tempo.position(heard->notes.front().start).bar;
    QVERIFY(first > 2);
    QVERIFY2(stand->shown().contains(QStringLiteral("%1 bars rest").arg(first - 1)),
             qPrintable(stand->shown()));
    m_session->transport.seek(tempo.barStart(first - 1));
    QTRY_VERIFY(stand->shown().contains(QStringLiteral("1 bar rest")));
    m_session->transport.seek(heard->notes.front().start);
    QTRY_VERIFY(!stand->shown().contains(QStringLiteral("rest")));
    QTest::keyClick(stand, Qt::Key_Right);
    QTRY_VERIFY(!stand->shown().contains(QStringLiteral("Intro")));
    QTest::keyClick(stand, Qt::Key_Escape);
    QTRY_VERIFY(!stand);
}

void TestWindow::savesAndOpensASet() {
    openDemo({QStringLiteral("lantern_quay.mid"), QStringLiteral("SLACKW~1.MID")});
    m_session->current.edit(QStringLiteral("Set level"),
                            [](const Song& song) { return edits::setLevel(song, 1, -7); });
    QVERIFY(m_window->isWindowModified());
    QTemporaryDir folder;
    const QString path = folder.filePath(QStringLiteral("festival.cobbleway"));
    QVERIFY(support::save(*m_session, path));
    QVERIFY(!m_window->isWindowModified());
    const SongSet saved = m_session->current.set();
    m_session->files.newSet();
    QVERIFY(!m_session->current.hasSong());
    m_session->files.addPaths({path}); // as from the command line, or dropped
    QTRY_COMPARE(m_session->current.set().songs.size(), std::size_t{2});
    QVERIFY(m_session->current.set().songs == saved.songs);
    QVERIFY(m_session->current.isClean());
    QCOMPARE(m_session->current.projectPath(), path);
    QVERIFY(!support::save(*m_session, QStringLiteral("/nowhere/at/all.cobbleway")));
    m_window->findChild<QMessageBox*>()->accept();
}

void TestWindow::eachDragIsAStep() {
    openDemo();
    m_window->showPage(Step::Sounds);
    auto* pan = m_window->findChild<QSlider*>(QStringLiteral("pan"));
    QVERIFY(pan && pan->isVisible());
    const auto drag = [&](int by) {
        QStyleOptionSlider option;
        option.initFrom(pan);
        option.orientation = Qt::Horizontal;
        option.minimum = pan->minimum();
        option.maximum = pan->maximum();
        option.sliderPosition = option.sliderValue = pan->value();
        const QPoint from =
            pan->style()->subControlRect(QStyle::CC_Slider, &option, QStyle::SC_SliderHandle, pan).center();
        QTest::mousePress(pan, Qt::LeftButton, {}, from);
        for (int i = 1; i <= 5; ++i) QTest::mouseMove(pan, from + QPoint(by * i / 5, 0));
        QTest::mouseRelease(pan, Qt::LeftButton, {}, from + QPoint(by, 0));
        QCoreApplication::processEvents();
        return m_session->current.part()->mix.pan;
    };
    const double start = m_session->current.part()->mix.pan;
    const double first = drag(start > 0 ? -15 : 15), second = drag(start > 0 ? -10 : 10);
    QVERIFY(first != start && second != first);
    m_session->current.undo();
    QCOMPARE(m_session->current.part()->mix.pan, first);
    m_session->current.undo();
    QCOMPARE(m_session->current.part()->mix.pan, start);
}

void TestWindow::hundredsOfPartsAllGetTheirRows() {
    Builder many(1, 13);
    for (std::size_t t = 0; t < 13; ++t) {
        const auto port = static_cast<std::uint8_t>(t);
        many.file.addMeta(t, 0, meta::port, {&port, 1});
        for (int channel = 0; channel < 16; ++channel) many.note(channel, channel, 1, 60, 90, t);
    }
    QTemporaryDir folder;
    const QString path = folder.filePath(QStringLiteral("many.mid"));
    many.file.sortTracks();
    QVERIFY(writeFile(path.toStdString(), writeMidi(many.file)).ok());
    m_session->files.addPaths({path});
    QTRY_VERIFY(m_session->current.hasSong());
    const auto parts = static_cast<qsizetype>(m_session->current.song().parts.size());
    QCOMPARE(parts, qsizetype(13 * 16));
    m_window->showPage(Step::Practice);
    const auto rows = [&] {
        qsizetype count = 0;
        for (const Segments* segments : m_window->findChildren<Segments*>())
            count += segments->isVisibleTo(m_window.get());
        return count;
    };
    QTRY_VERIFY(rows() >= parts);
    m_window->showPage(Step::Sounds);
    m_window->action(QStringLiteral("levels"))->trigger();
    QTRY_VERIFY(m_window->findChild<QWidget*>(QStringLiteral("strip%1").arg(parts)));
    m_session->current.selectPart(static_cast<PartId>(parts));
    QTRY_VERIFY(m_window->findChild<QWidget*>(QStringLiteral("strip%1").arg(parts))->isVisible());
}

void TestWindow::aDroppedSetAsksFirst() {
    openDemo();
    QTemporaryDir folder;
    const QString other = folder.filePath(QStringLiteral("other.cobbleway"));
    QVERIFY(support::save(*m_session, other));
    m_session->current.edit(QStringLiteral("Set level"),
                            [](const Song& song) { return edits::setLevel(song, 1, -7); });
    const SongSet mine = m_session->current.set();
    int asked = 0, answer = QMessageBox::Cancel;
    m_window->askAboutChanges = [&](const auto& then) {
        ++asked;
        then(answer);
    };
    QMimeData dropped;
    dropped.setUrls({QUrl::fromLocalFile(other)});
    const auto drop = [&] {
        QDragEnterEvent enter(QPoint(300, 300), Qt::CopyAction, &dropped, Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(m_window.get(), &enter);
        QDropEvent event(QPointF(300, 300), Qt::CopyAction, &dropped, Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(m_window.get(), &event);
        return QTest::qWaitFor([&] { return !m_session->files.isBusy(); }, scaled(20000));
    };
    QVERIFY(drop());
    QCOMPARE(asked, 1);
    QVERIFY(m_session->current.set() == mine && m_session->current.canUndo() &&
            !m_session->current.isClean());
    answer = QMessageBox::Discard;
    QVERIFY(drop());
    QCOMPARE(asked, 2);
    QVERIFY(!(m_session->current.set() == mine) && m_session->current.isClean());
    QCOMPARE(m_session->current.song().part(1)->mix.levelDb, 0.0);
    // Saving is an answer too; the set comes when it is on disk.
    m_session->current.edit(QStringLiteral("Set level"),
                            [](const Song& song) { return edits::setLevel(song, 1, -3); });
    answer = QMessageBox::Save;
    m_session->files.newSet();
    QTRY_VERIFY(!m_session->current.hasSong());
    QVERIFY(support::open(*m_session, other));
    QCOMPARE(m_session->current.song().part(1)->mix.levelDb, -3.0);
    // Songs that are dropped with a set go into it; nothing is asked when nothing was changed.
    const auto songs = m_session->current.set().songs.size();
    const int before = asked;
    dropped.setUrls(
        {QUrl::fromLocalFile(QStringLiteral(DEMO_FOLDER "/TIDEMILL.MID")), QUrl::fromLocalFile(other)});
    QVERIFY(drop());
    QCOMPARE(asked, before);
    QCOMPARE(m_session->current.set().songs.size(), songs + 1);
    QCOMPARE(m_session->current.projectPath(), other);
    QVERIFY(!m_session->current.isClean());
    m_session->current.undo();
    QVERIFY(m_session->current.isClean() && m_session->current.set().songs.size() == songs);
}

void TestWindow::whatIsBeingTypedCountsBeforeSaving() {
    openDemo();
    m_window->showPage(Step::Parts);
    m_window->action(QStringLiteral("rename"))->trigger();
    QLineEdit* editor = nullptr;
    QTRY_VERIFY((editor = m_window->findChild<PartsPage*>()->rows()->findChild<QLineEdit*>()) != nullptr);
    editor->setText(QStringLiteral("Ferry bell"));
    QTRY_VERIFY(editor->hasFocus());
    int asked = 0;
    m_window->askAboutChanges = [&asked](const auto& then) {
        ++asked;
        then(QMessageBox::Cancel);
    };
    QVERIFY(!m_window->close());
    QCOMPARE(asked, 1); // the name is a change
    QCOMPARE(m_session->current.part()->name, std::string("Ferry bell"));
    m_window->askAboutChanges = [](const auto& then) { then(QMessageBox::Discard); };
}

void TestWindow::asksAboutUnsavedChanges() {
    openDemo();
    int asked = 0;
    m_window->askAboutChanges = [&asked](const auto& then) {
        ++asked;
        then(QMessageBox::Cancel);
    };
    QVERIFY(!m_window->close());
    m_window->action(QStringLiteral("new"))->trigger();
    QVERIFY(m_session->current.hasSong());
    QCOMPARE(asked, 2);
    m_window->askAboutChanges = [](const auto& then) { then(QMessageBox::Discard); };
    m_window->close();
    QTRY_VERIFY(!m_window->isVisible());
}

void TestWindow::everyActionIsInAMenu() {
    QSet<QAction*> inMenus;
    QSet<QString> shortcuts;
    std::function<void(QMenu*)> collect = [&](QMenu* menu) {
        for (QAction* action : menu->actions()) {
            inMenus << action;
            if (action->menu()) collect(action->menu());
        }
    };
    for (QAction* top : m_window->menuBar()->actions()) collect(top->menu());
    for (QAction* action : m_window->actions()) {
        QVERIFY2(inMenus.contains(action), qPrintable(action->text()));
        const QString shortcut = action->shortcut().toString();
        QVERIFY2(shortcut.isEmpty() || !shortcuts.contains(shortcut), qPrintable(shortcut));
        shortcuts << shortcut;
    }
    QVERIFY(inMenus.size() > 40);
}

void TestWindow::modelsAreSound() {
    PartsModel parts(*m_session);
    SongsModel songs(*m_session);
    ShelfModel shelf(*m_session);
    ExportGrid exports(*m_session);
    QAbstractItemModelTester a(&parts), b(&songs), c(&shelf), d(&exports);
    openDemo({QStringLiteral("lantern_quay.mid"), QStringLiteral("TIDEMILL.MID")});
    m_session->current.showSong(1);
    m_session->current.edit(QStringLiteral("x"),
                            [](const Song& song) { return edits::rename(song, 1, "Fiddler"); });
    shelf.setFilter(QStringLiteral("bass"), -1);
    shelf.setFilter({}, 16);
    m_session->current.removeSongs({0});
    m_session->current.removeSongs({0});
    QCOMPARE(parts.rowCount(), 0);
}

void TestWindow::screenReaderHearsEverything() {
    openDemo();
    // Every control that takes the keyboard has a name.
    for (int page = 0; page < 6; ++page) {
        m_window->showPage(static_cast<Step>(page));
        for (QWidget* widget : m_window->findChildren<QWidget*>()) {
            if (!widget->isVisible() || !(widget->focusPolicy() & Qt::TabFocus) ||
                widget->inherits("QScrollArea") || widget->inherits("QSpinBoxPrivate"))
                continue;
            if (widget->parentWidget() && (widget->parentWidget()->inherits("QAbstractSpinBox") ||
                                           widget->parentWidget()->inherits("QComboBox")))
                continue;
            QAccessibleInterface* access = QAccessible::queryAccessibleInterface(widget);
            QVERIFY(access);
            QVERIFY2(
                !access->text(QAccessible::Name).isEmpty(),
                qPrintable(QStringLiteral("page %1: %2 %3")
                               .arg(page + 1)
                               .arg(QLatin1String(widget->metaObject()->className()), widget->objectName())));
        }
    }
    auto* rows = named<QListView>("soundRows");
    const QString row = rows->model()->index(6, 0).data(Qt::AccessibleTextRole).toString();
    for (const char* word :
         {"Guitar", "asks for 25", "match same", "plays with", "400 notes", "bass on a guitar"})
        QVERIFY2(row.contains(QLatin1String(word)), qPrintable(row));
    QAccessibleInterface* strip = QAccessible::queryAccessibleInterface(m_window->findChild<StripView*>());
    QCOMPARE(strip->childCount(), 6);
    QCOMPARE(strip->child(2)->text(QAccessible::Name), QStringLiteral("Lanterns lit, from bar 25"));
    QVERIFY(strip->text(QAccessible::Value).contains(QStringLiteral("bar 1")));
    strip->child(4)->actionInterface()->doAction(QAccessibleActionInterface::pressAction());
    QTRY_COMPARE(m_session->current.song().tempo->position(m_session->transport.place()).bar, 57);
    m_window->showPage(Step::Parts);
    QAccessibleInterface* fan = QAccessible::queryAccessibleInterface(m_window->findChild<FanPicture*>());
    QCOMPARE(fan->childCount(), 10);
    fan->child(9)->actionInterface()->doAction(QAccessibleActionInterface::pressAction());
    QCOMPARE(m_session->current.part()->name, std::string("Drums"));
    QVERIFY(fan->child(9)->state().selected);
    QVERIFY(QAccessible::queryAccessibleInterface(m_window->findChild<NotesPicture*>())
                ->text(QAccessible::Value)
                .contains(QStringLiteral("bars 1 to 8")));
}

void TestWindow::nothingIsClippedInASmallWindow() {
    openDemo();
    m_window->resize(1024, 700);
    for (const ThemeChoice choice : {ThemeChoice::Light, ThemeChoice::Dark}) {
        applyTheme(choice);
        for (int page = 0; page < 6; ++page) {
            m_window->showPage(static_cast<Step>(page));
            QTest::qWait(30);
            QCOMPARE(m_window->size(), QSize(1024, 700));
            for (QAbstractButton* b : m_window->findChildren<QAbstractButton*>()) {
                if (!b->isVisible() || b->text().isEmpty() || b->inherits("cobbleway::RailStep")) continue;
                const auto* tool = qobject_cast<QToolButton*>(b);
                if (tool && tool->toolButtonStyle() == Qt::ToolButtonIconOnly) continue;
                const QString where = QStringLiteral("page %1: %2 has %3, wants %4")
                                          .arg(page + 1)
                                          .arg(b->text())
                                          .arg(b->width())
                                          .arg(b->sizeHint().width());
                QVERIFY2(b->width() >= b->sizeHint().width() ||
                             b->property("look").toString() == QStringLiteral("snags"),
                         qPrintable(where));
                if (!b->visibleRegion().isEmpty())
                    QVERIFY2(m_window->rect().contains(QRect(b->mapTo(m_window.get(), QPoint()), b->size())),
                             qPrintable(where));
            }
            for (QLabel* label : m_window->findChildren<QLabel*>()) {
                if (!label->isVisible() || label->text().isEmpty() || label->wordWrap() ||
                    label->sizePolicy().horizontalPolicy() == QSizePolicy::Ignored)
                    continue;
                QVERIFY2(label->width() + 1 >= std::min(label->sizeHint().width(), label->maximumWidth()) ||
                             label->property("elides").toBool(),
                         qPrintable(QStringLiteral("page %1: %2").arg(page + 1).arg(label->text())));
            }
        }
    }
    applyTheme(ThemeChoice::Light);
}

void TestWindow::propertyRandomUseThenUndoAll() {
    openDemo({QStringLiteral("pilots-evening-song.kar")});
    const SongSet start = m_session->current.set();
    const QStringList ids = {
        QStringLiteral("octaveUp"), QStringLiteral("softer"),   QStringLiteral("inFront"),
        QStringLiteral("without"),  QStringLiteral("moveDown"), QStringLiteral("nextPart"),
        QStringLiteral("keyUp"),    QStringLiteral("fullBand"), QStringLiteral("previousPart"),
        QStringLiteral("fixSafe"),  QStringLiteral("play"),     QStringLiteral("loop"),
        QStringLiteral("undo"),     QStringLiteral("page3"),    QStringLiteral("page4"),
        QStringLiteral("page5")};
    std::mt19937 random(2);
    for (int i = 0; i < 120; ++i)
        m_window->action(ids[static_cast<qsizetype>(random() % static_cast<unsigned>(ids.size()))])
            ->trigger();
    while (m_session->current.canUndo() && !m_session->current.undoName().startsWith(QStringLiteral("Add")))
        m_session->current.undo();
    if (m_session->current.set().songs.empty()) m_session->current.redo();
    QVERIFY(m_session->current.set() == start);
}

QTEST_MAIN(TestWindow)
#include "tst_window.moc"
