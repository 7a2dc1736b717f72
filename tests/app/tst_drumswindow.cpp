/// The Drums page through the real window, with the mouse and with keys alone.
#include "app/drive.h"

#include "app/pages/drumrow.h"
#include "app/pages/drumspage.h"
#include "app/widgets/kitpicture.h"
#include "app/widgets/plots.h"
#include "app/widgets/snagdrawer.h"
#include "files/notenames.h"
#include "song/drums/beat.h"
#include "song/drums/drumedits.h"
#include "song/shape/edits.h"

#include <QAbstractItemModelTester>
#include <QAccessible>
#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QMimeData>
#include <QSpinBox>
#include <QTemporaryDir>

using namespace support;

namespace {

Key key(int number) { return Key{static_cast<std::uint8_t>(number)}; }

} // namespace

class TestDrumsWindow : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void initTestCase() {
        qputenv("COBBLEWAY_LV2_PATH", "/no/plug-ins");
        prepareApplication();
    }
    void init() {
        m = std::make_unique<Driver>();
        QVERIFY(m->ok());
        QVERIFY(m->openDemo("lantern_quay.mid"));
        m->window().showPage(Step::Drums);
        QTRY_VERIFY(m->session().planner.isPlanned());
    }
    void cleanup() { m.reset(); }

    void showsTheDrumsOfTheSong();
    void rowsAreSentences();
    void aTargetIsChosenFromTheList();
    void trimsByKeysWheelAndNumber();
    void keysAloneDoIt();
    void aRowIsDraggedOntoAnother();
    void namesAreTyped();
    void namesAreLoadedAndSaved();
    void aListIsBroughtOntoTheKit();
    void kitsAreChosenWhilePlaying();
    void silentNotesAreFitted();
    void onlyTheSelectedNotesAreHeard();
    void theBarsOfANoteAreLooped();
    void aPieceBecomesAPartAndGoesBack();
    void theKitIsPlayed();
    void severalDrumParts();
    void aSongWithoutDrums();
    void aBeatIsAdded();
    void drumsOnAKeyboardPartComeBack();
    void joinedTracksBecomePartsAgain();
    void publishedNamesAreTaken();
    void everythingIsUndone();

  private:
    DrumsPage* page() { return m->window().drumsPage(); }
    QAbstractItemModel& rows() { return *page()->rows()->model(); }
    QString said(int row) { return rows().index(row, 0).data(Qt::AccessibleTextRole).toString(); }
    int rowOf(int number) {
        for (int row = 0; row < rows().rowCount(); ++row)
            if (said(row).startsWith(QString::number(number) + QLatin1Char(' '))) return row;
        return -1;
    }
    bool choose(int number) {
        const int row = rowOf(number);
        if (row >= 0) page()->rows()->setCurrentIndex(rows().index(row, 0));
        return row >= 0;
    }
    const Part& drums() { return *m->song().part(page()->part()); }
    bool order(const QString& text) { // one of the segments
        for (auto* b : page()->findChildren<QAbstractButton*>())
            if (b->text() == text && b->isVisible() && !qobject_cast<QPushButton*>(b))
                return QTest::mouseClick(b, Qt::LeftButton), true;
        return false;
    }
    template <class T> T* control(const char* name) { return page()->findChild<T*>(QLatin1String(name)); }
    void press(int k, Qt::KeyboardModifiers with = Qt::NoModifier) {
        QTest::keyClick(page()->rows(), static_cast<Qt::Key>(k), with);
    }
    std::unique_ptr<Driver> m;
};

void TestDrumsWindow::showsTheDrumsOfTheSong() {
    const QAbstractItemModelTester tester(&rows());
    QCOMPARE(drums().name, std::string("Drums"));
    QCOMPARE(m->session().current.selectedPart(), page()->part()); // what the keys of parts act on
    QCOMPARE(rows().rowCount(), 12);
    int hits = 0;
    for (const Note& n : m->session().findings.heard(page()->part())->notes) hits += n.velocity.value > 0;
    QVERIFY(hits > 1000);
    // All keys, and back; the current one stays.
    QVERIFY(choose(42));
    QTest::mouseClick(control<QCheckBox>("allKeys"), Qt::LeftButton);
    QCOMPARE(rows().rowCount(), 128);
    QVERIFY(said(page()->rows()->currentIndex().row()).startsWith(QLatin1String("42 ")));
    QTest::mouseClick(control<QCheckBox>("allKeys"), Qt::LeftButton);
    QCOMPARE(rows().rowCount(), 12);
    // In the order of hits, of pieces, of keys.
    QVERIFY(order(QStringLiteral("Hits")));
    QVERIFY(said(0).startsWith(QLatin1String("42 ")));
    QVERIFY(order(QStringLiteral("Piece")));
    QVERIFY(said(0).startsWith(QLatin1String("36 ")));
    QVERIFY(said(rows().rowCount() - 1).startsWith(QLatin1String("54 ")));
    QVERIFY(order(QStringLiteral("Key")));
}

void TestDrumsWindow::rowsAreSentences() {
    QVERIFY(choose(42));
    m->session().current.edit(QStringLiteral("x"), [&](const Song& s) {
        return edits::setDrumTrim(s, page()->part(), {key(42)}, {1, -28, 0});
    });
    const QString text = said(rowOf(42));
    QVERIFY2(text.contains(QLatin1String("440 hits")) && text.contains(QLatin1String("plays 42")) &&
                 text.endsWith(QLatin1String("28 softer")),
             qPrintable(text));
    QAccessibleInterface* list = QAccessible::queryAccessibleInterface(page()->rows());
    QVERIFY(list && list->childCount() >= 12);
    QVERIFY(list->child(rowOf(42))->text(QAccessible::Name).contains(QLatin1String("28 softer")));
}

void TestDrumsWindow::aTargetIsChosenFromTheList() {
    QVERIFY(choose(37));
    auto* plays = control<QComboBox>("plays");
    const int at = plays->findData(75);
    QVERIFY(at >= 0);
    plays->setCurrentIndex(at);
    Q_EMIT plays->activated(at);
    QCOMPARE(int(drums().recipe.drumPlan(key(37)).target->value), 75);
    QVERIFY(said(rowOf(37)).contains(QLatin1String("plays 75")));
    // Several rows at once.
    page()->rows()->selectAll();
    QCOMPARE(page()->selectedKeys().size(), std::size_t{12});
    Q_EMIT plays->activated(plays->findData(36));
    for (const DrumNote& n :
         m->session().findings.derived()->drums(m->song(), drums(), m->session().sounds.catalogue())->notes)
        QCOMPARE(int(n.plays.value), 36);
    m->act("undo");
    QCOMPARE(int(drums().recipe.drumMap.size()), 1);
}

void TestDrumsWindow::trimsByKeysWheelAndNumber() {
    QVERIFY(choose(42));
    control<QSpinBox>("louder")->setValue(-20);
    QCOMPARE(drums().recipe.drumPlan(key(42)).trim.offset, -20);
    press(Qt::Key_Left);
    press(Qt::Key_Left);
    QCOMPARE(drums().recipe.drumPlan(key(42)).trim.offset, -22);
    press(Qt::Key_Right, Qt::ShiftModifier);
    QCOMPARE(drums().recipe.drumPlan(key(42)).trim.offset, -12);
    QCOMPARE(control<QSpinBox>("louder")->value(), -12);
    control<QSpinBox>("spread")->setValue(50);
    QCOMPARE(drums().recipe.drumPlan(key(42)).trim.compress, 0.5);
    const QString plot = page()->findChild<VelocityHistogram*>()->surfaceValue();
    QVERIFY2(plot.contains(QLatin1String("before")), qPrintable(plot));
    // The wheel over another row's loudness trims that row.
    const QRect row = page()->rows()->visualRect(rows().index(rowOf(38), 0));
    const QPointF at = DrumColumns(QRectF(row)).loudness.center();
    QWheelEvent wheel(at, page()->rows()->viewport()->mapToGlobal(at), {}, {0, -120}, Qt::NoButton,
                      Qt::NoModifier, Qt::NoScrollPhase, false);
    QApplication::sendEvent(page()->rows()->viewport(), &wheel);
    QCOMPARE(drums().recipe.drumPlan(key(38)).trim.offset, -2);
    QCOMPARE(drums().recipe.drumPlan(key(42)).trim.offset, -12);
}

/// From the key that shows the page to a trimmed, renamed, moved note, with no mouse.
void TestDrumsWindow::keysAloneDoIt() {
    m->window().showPage(Step::Songs);
    QTest::keyClick(&m->window(), Qt::Key_4, Qt::ControlModifier);
    QCOMPARE(m->window().page(), Step::Drums);
    page()->rows()->setFocus();
    press(Qt::Key_Home);
    press(Qt::Key_Down);
    press(Qt::Key_Down); // 38
    QVERIFY(said(page()->rows()->currentIndex().row()).startsWith(QLatin1String("38 ")));
    press(Qt::Key_Left, Qt::ShiftModifier);
    QCOMPARE(drums().recipe.drumPlan(key(38)).trim.offset, -10);
    QTest::keyClick(&m->window(), Qt::Key_Delete, Qt::ControlModifier);
    QVERIFY(drums().recipe.drumPlan(key(38)).off);
    QVERIFY(said(page()->rows()->currentIndex().row()).contains(QLatin1String("left out")));
    QTest::keyClick(&m->window(), Qt::Key_F2); // the name
    QLineEdit* editor = nullptr;
    QTRY_VERIFY((editor = qobject_cast<QLineEdit*>(QApplication::focusWidget())) != nullptr);
    QTest::keyClicks(editor, QStringLiteral("Clack"));
    QTest::keyClick(editor, Qt::Key_Return);
    QTRY_VERIFY(drums().keyNames.contains(38));
    QCOMPARE(drums().keyNames.at(38), std::string("Clack"));
    auto* plays = control<QComboBox>("plays");
    plays->setFocus();
    QTest::keyClick(plays, Qt::Key_Down);
    QTRY_VERIFY(drums().recipe.drumPlan(key(38)).target);
}

void TestDrumsWindow::aRowIsDraggedOntoAnother() {
    const QModelIndex from = rows().index(rowOf(37), 0), onto = rows().index(rowOf(36), 0);
    const std::unique_ptr<QMimeData> dragged(rows().mimeData({from}));
    QVERIFY(rows().canDropMimeData(dragged.get(), Qt::MoveAction, -1, -1, onto));
    rows().dropMimeData(dragged.get(), Qt::MoveAction, -1, -1, onto);
    QCOMPARE(int(drums().recipe.drumPlan(key(37)).target->value), 36);
    QCOMPARE(rows().rowCount(), 12);
}

void TestDrumsWindow::namesAreTyped() {
    QVERIFY(choose(36));
    auto* name = control<QLineEdit>("drumName");
    name->setFocus();
    name->selectAll();
    QTest::keyClicks(name, QStringLiteral("Bombo"));
    QTest::keyClick(name, Qt::Key_Return);
    QVERIFY(drums().keyNames.contains(36));
    QCOMPARE(drums().keyNames.at(36), std::string("Bombo"));
    QVERIFY(said(rowOf(36)).startsWith(QLatin1String("36 Bombo")));
    QVERIFY(rows().index(rowOf(36), 0).data(Qt::ToolTipRole).toString().contains(QLatin1String("yours")));
}

void TestDrumsWindow::namesAreLoadedAndSaved() {
    QTemporaryDir folder;
    const QString in = folder.filePath(QStringLiteral("in.txt")),
                  out = folder.filePath(QStringLiteral("out.csv"));
    QVERIFY(writeFile(in.toStdString(), std::string("36 Thump\n38 Cr\u200Back\nnonsense\n")));
    m->window().showNames(in);
    QTRY_VERIFY(QApplication::activeModalWidget());
    QWidget* dialog = QApplication::activeModalWidget();
    QCOMPARE(dialog->findChild<QListWidget*>(QStringLiteral("names"))->count(), 2);
    QCOMPARE(dialog->findChild<QListWidget*>(QStringLiteral("repaired"))->count(), 2);
    QVERIFY(Driver::click(dialog, QStringLiteral("Take the names")));
    QTRY_COMPARE(drums().keyNames.size(), std::size_t{2});
    QCOMPARE(drums().keyNames.at(38), std::string("Crack"));
    m->window().writeNames(out, false);
    const auto saved = readNames(out.toStdString());
    QVERIFY(saved);
    QCOMPARE(saved.value().format, NameFormat::Csv);
    QCOMPARE(saved.value().lists[0].names.size(), std::size_t{12});
    QCOMPARE(saved.value().lists[0].names.at(36), std::string("Thump"));
    m->window().writeNames(folder.filePath(QStringLiteral("all.midnam")), true);
    QCOMPARE(
        readNames(folder.filePath(QStringLiteral("all.midnam")).toStdString()).value().lists[0].names.size(),
        std::size_t{128});
    // A file without names is told, and nothing changes.
    QVERIFY(writeFile(in.toStdString(), std::string("hello\n")));
    QSignalSpy problems(&m->session().messages, &Messages::problem);
    m->window().showNames(in);
    QTRY_COMPARE(problems.size(), 1);
    QTRY_VERIFY(QApplication::activeModalWidget());
    QApplication::activeModalWidget()->close();
    QCOMPARE(drums().keyNames.size(), std::size_t{2});
}

void TestDrumsWindow::aListIsBroughtOntoTheKit() {
    Builder b;
    for (int i = 0; i < 16; ++i) b.note(9, i * 0.5, 0.1, 48).note(9, i * 0.5 + 0.25, 0.1, 50);
    b.file.sortTracks();
    QVERIFY(m->openSong(b.file));
    m->session().current.showSong(1);
    QTemporaryDir folder;
    const QString in = folder.filePath(QStringLiteral("foreign.txt"));
    QVERIFY(writeFile(in.toStdString(), std::string("48 Bombo\n50 Caja\n")));
    m->window().showNames(in);
    QTRY_VERIFY(QApplication::activeModalWidget());
    QWidget* dialog = QApplication::activeModalWidget();
    QTest::mouseClick(dialog->findChild<QCheckBox*>(QStringLiteral("playByNames")), Qt::LeftButton, {},
                      {8, 8});
    QVERIFY(dialog->findChild<QCheckBox*>(QStringLiteral("playByNames"))->isChecked());
    QVERIFY(Driver::click(dialog, QStringLiteral("Take the names")));
    QTRY_COMPARE(drums().recipe.drumMap.size(), std::size_t{2});
    QCOMPARE(int(drums().recipe.drumPlan(key(48)).target->value), 36);
    QCOMPARE(int(drums().recipe.drumPlan(key(50)).target->value), 38);
    m->act("undo"); // names and targets are one step
    QVERIFY(drums().recipe.drumMap.empty() && drums().keyNames.empty());
}

void TestDrumsWindow::kitsAreChosenWhilePlaying() {
    m->act("play");
    QTRY_VERIFY(m->session().transport.isPlaying());
    auto* kits = control<QComboBox>("kits");
    QVERIFY(kits->count() > 2);
    QVERIFY(kits->itemText(1).contains(QLatin1String("all hits")));
    int brush = -1;
    for (int i = 1; i < kits->count(); ++i)
        if (kits->itemText(i).startsWith(QLatin1String("Brush"))) brush = i;
    QVERIFY(brush > 0);
    QSignalSpy ready(&m->session().planner, &Planner::planReady);
    Q_EMIT kits->activated(brush);
    QCOMPARE(drums().sound.chosen->program, 40);
    QVERIFY(kits->currentText().startsWith(QLatin1String("Brush")));
    QTRY_VERIFY(!ready.isEmpty());
    QVERIFY(m->session().transport.isPlaying());
    Q_EMIT kits->activated(0);
    QVERIFY(!drums().sound.chosen);
    m->act("play");
}

void TestDrumsWindow::silentNotesAreFitted() {
    m->session().current.edit(QStringLiteral("x"), [&](const Song& s) {
        return edits::setDrumTarget(s, page()->part(), {key(54)}, key(10));
    });
    QVERIFY(choose(54));
    QVERIFY(said(rowOf(54)).contains(QLatin1String("no sound in this kit")));
    QVERIFY(control<QLabel>("silentNote")->isVisible());
    auto* instead = control<QPushButton>("instead");
    QTest::mouseClick(instead, Qt::LeftButton);
    QVERIFY(!said(rowOf(54)).contains(QLatin1String("no sound")));
    QVERIFY(!instead->isVisible());
    m->act("undo");
    m->act("fitKit");
    QVERIFY(!said(rowOf(54)).contains(QLatin1String("no sound")));
    for (const Snag& snag : m->session().findings.snags()) QVERIFY(snag.kind != "silent-drums");
}

void TestDrumsWindow::onlyTheSelectedNotesAreHeard() {
    QVERIFY(choose(38));
    const Song before = m->song();
    m->act("onlyDrum");
    QVERIFY(m->song() == before); // the song is as it was
    const Song& heard = m->session().sounds.heardSong();
    std::set<int> keys;
    for (const Note& n : realise(heard, *heard.part(page()->part())).notes) keys.insert(n.key.value);
    QCOMPARE(keys, std::set<int>{38});
    for (const Part& part : heard.parts) QCOMPARE(part.mix.role == Role::Off, part.id != page()->part());
    QVERIFY(m->window().action(QStringLiteral("onlyDrum"))->isChecked());
    QVERIFY(choose(36)); // follows the selection
    keys.clear();
    for (const Note& n :
         realise(m->session().sounds.heardSong(), *m->session().sounds.heardSong().part(page()->part()))
             .notes)
        keys.insert(n.key.value);
    QCOMPARE(keys, std::set<int>{36});
    m->window().showPage(Step::Parts); // and ends with the page
    QVERIFY(m->session().sounds.heardSong() == m->song());
}

void TestDrumsWindow::theBarsOfANoteAreLooped() {
    QVERIFY(choose(51));
    m->act("loopDrum");
    const Loop loop = m->session().transport.loop();
    QVERIFY(loop.on);
    int within = 0;
    for (const Note& n : m->session().findings.heard(page()->part())->notes)
        within += n.key.value == 51 && n.start >= loop.start && n.start < loop.end;
    QVERIFY(within > 0);
    m->act("loopDrum"); // the next stretch, or the only one again
    QVERIFY(m->session().transport.loop().on);
}

void TestDrumsWindow::aPieceBecomesAPartAndGoesBack() {
    const auto parts = m->song().parts.size();
    const auto heard = notesOf(m->song(), drums().source).size();
    QVERIFY(choose(42));
    QVERIFY(!m->window().action(QStringLiteral("pieceBack"))->isVisible());
    QVERIFY(Driver::click(page(), QStringLiteral("Hats")));
    QCOMPARE(page()->selectedKeys(), (std::vector<Key>{key(42), key(44)}));
    m->act("pieceApart");
    QCOMPARE(m->song().parts.size(), parts + 1);
    auto* which = control<QComboBox>("drumParts");
    QVERIFY(which->isVisible());
    QCOMPARE(which->count(), 2);
    Q_EMIT which->activated(1);
    QCOMPARE(drums().name, std::string("Drums hats"));
    QCOMPARE(rows().rowCount(), 2);
    m->act("pieceBack");
    QCOMPARE(m->song().parts.size(), parts);
    QCOMPARE(drums().name, std::string("Drums"));
    QCOMPARE(notesOf(m->song(), drums().source).size(), heard);
}

void TestDrumsWindow::theKitIsPlayed() {
    auto* kit = page()->findChild<KitPicture*>();
    QSignalSpy struck(kit, &KitPicture::struck);
    const auto stones = kit->surfaceRows();
    const auto snare = std::find_if(stones.begin(), stones.end(), [](const SurfaceRow& row) {
        return row.name.startsWith(QLatin1String("38 "));
    });
    QVERIFY(snare != stones.end());
    QTest::mouseClick(kit, Qt::LeftButton, {}, snare->rect.center());
    QCOMPARE(struck.size(), 1);
    QCOMPARE(struck[0][0].toInt(), 38);
    QVERIFY(said(page()->rows()->currentIndex().row()).startsWith(QLatin1String("38 ")));
    // It is heard, though nothing plays.
    QTRY_VERIFY(m->session().meters.part(page()->part()) > 0.001);
    kit->setFocus();
    QTest::keyClick(kit, Qt::Key_Right);
    QTest::keyClick(kit, Qt::Key_Return);
    QCOMPARE(struck.size(), 2);
    QVERIFY(struck[1][0].toInt() != 38);
}

void TestDrumsWindow::severalDrumParts() {
    QVERIFY(m->openDemo("SLACKW~1.MID"));
    m->session().current.showSong(1);
    auto* which = control<QComboBox>("drumParts");
    QVERIFY(which->isVisible());
    QVERIFY(which->count() >= 2);
    const PartId first = page()->part();
    Q_EMIT which->activated(1);
    QVERIFY(page()->part() != first);
    QCOMPARE(m->session().current.selectedPart(), page()->part());
    // A pitched part that is selected leaves the list as it is, at the first kit.
    m->session().current.selectPart(m->song().parts[0].id);
    QCOMPARE(page()->part(), first);
}

void TestDrumsWindow::aSongWithoutDrums() {
    QVERIFY(m->openDemo("pilots-evening-song.kar"));
    m->session().current.showSong(1);
    QCOMPARE(page()->part(), 0);
    auto* nothing = control<QLabel>("noDrums");
    QVERIFY(nothing->isVisible());
    QVERIFY(nothing->text().contains(QLatin1String("beat")));
    QCOMPARE(rows().rowCount(), 0);
    QVERIFY(!m->window().action(QStringLiteral("hearDrum"))->isEnabled());
    m->session().files.newSet();
    QTRY_VERIFY(!m->session().current.hasSong());
    QVERIFY(nothing->isVisible());
}

void TestDrumsWindow::aBeatIsAdded() {
    QVERIFY(m->openDemo("pilots-evening-song.kar"));
    m->session().current.showSong(1);
    const auto parts = m->song().parts.size();
    QDialog* dialog = m->dialogOf("addBeat");
    QVERIFY(dialog);
    dialog->findChild<QListWidget*>(QStringLiteral("styles"))->setCurrentRow(5);
    QVERIFY(Driver::click(dialog, QStringLiteral("Add the beat")));
    QTRY_COMPARE(m->song().parts.size(), parts + 1);
    QCOMPARE(drums().name, std::string("Beat"));
    QTRY_COMPARE(rows().rowCount(), 2); // the wood blocks
    m->act("undo");
    QCOMPARE(m->song().parts.size(), parts);
}

void TestDrumsWindow::drumsOnAKeyboardPartComeBack() {
    Builder b;
    for (int i = 0; i < 64; ++i) {
        b.note(2, i * 0.25, 0.1, 42, 60);
        if (i % 4 == 0) b.note(2, i * 0.25, 0.1, 36, 100);
        if (i % 4 == 2) b.note(2, i * 0.25, 0.1, 38, 100);
    }
    b.file.sortTracks();
    QVERIFY(m->openSong(b.file));
    m->session().current.showSong(1);
    QCOMPARE(page()->part(), 0);
    const QString text = control<QLabel>("noDrums")->text();
    QVERIFY2(text.contains(QLatin1String("seems to be drums")), qPrintable(text));
    QVERIFY(Driver::click(page(), QStringLiteral("Make them drums")));
    QVERIFY(page()->part() != 0);
    QCOMPARE(drums().source.channel, drumChannel);
    QCOMPARE(rows().rowCount(), 3);
    QVERIFY(!m->window().action(QStringLiteral("takeOut"))->isEnabled()); // it is of one track
}

void TestDrumsWindow::joinedTracksBecomePartsAgain() {
    Builder b(1, 3);
    for (int i = 0; i < 64; ++i) b.note(9, i * 0.25, 0.1, 42, 60, 1).note(9, i * 0.25, 0.1, 36, 100, 2);
    b.file.sortTracks();
    QVERIFY(m->openSong(b.file));
    m->session().current.showSong(1);
    const Song before = m->song();
    QCOMPARE(control<QComboBox>("drumParts")->count(), 2);
    m->session().current.edit(QStringLiteral("Join"), [](const Song& s) {
        return edits::drumsBack(s, {1, 2});
    });
    QCOMPARE(rows().rowCount(), 2);
    QDialog* dialog = m->dialogOf("takeOut");
    QVERIFY(dialog);
    auto* origins = dialog->findChild<QListWidget*>(QStringLiteral("origins"));
    QCOMPARE(origins->count(), 2);
    QVERIFY(!dialog->findChild<QPushButton*>(QStringLiteral("take"))->isEnabled());
    origins->item(1)->setCheckState(Qt::Checked);
    QVERIFY(Driver::click(dialog, QStringLiteral("Make them parts")));
    QTRY_COMPARE(m->song().parts.size(), std::size_t{2});
    for (const Part& part : m->song().parts)
        QCOMPARE(
            realise(m->song(), part).notes,
            realise(before, *before.part(part.source.events == before.parts[0].source.events ? 1 : 2)).notes);
}

void TestDrumsWindow::publishedNamesAreTaken() {
    QAction* brush = nullptr;
    for (auto* action : m->window().findChildren<QAction*>())
        if (action->text() == QLatin1String("Orchestra kit")) brush = action;
    QVERIFY(brush);
    brush->trigger();
    QCOMPARE(drums().keyNames.at(41), std::string("Timpani F"));
    QVERIFY(said(rowOf(43)).contains(QLatin1String("Timpani G")));
    m->act("undo");
    QVERIFY(drums().keyNames.empty());
}

void TestDrumsWindow::everythingIsUndone() {
    const Song before = m->song();
    QVERIFY(choose(42));
    press(Qt::Key_Left);
    m->act("leaveOut");
    m->act("evenHits");
    m->act("pieceApart");
    m->act("pieceBack");
    QVERIFY(!(m->song() == before));
    for (int i = 0; i < 20 && !(m->song() == before); ++i) m->act("undo");
    QVERIFY(m->song() == before);
}

QTEST_MAIN(TestDrumsWindow)
#include "tst_drumswindow.moc"
