/// Splitting, joining and shaping through the real window, by mouse and keyboard, on the offscreen platform.
#include "app/drive.h"
#include "app/widgets/wordsstrip.h"

#include "app/pages/eventsview.h"
#include "app/pages/exportpage.h"
#include "app/pages/fanpicture.h"
#include "app/pages/partspage.h"
#include "app/widgets/plots.h"
#include "app/widgets/rail.h"
#include "app/widgets/snagdrawer.h"
#include "song/heard/lyrics.h"
#include "song/out/tomidi.h"
#include "song/shape/edits.h"

#include <QAbstractItemModelTester>
#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QTableView>
#include <QTreeWidget>

using namespace support;

class TestShapingWindow : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void initTestCase() { prepareApplication(); }
    void init() {
        m = std::make_unique<Driver>();
        QVERIFY(m->ok());
    }
    void cleanup() { m.reset(); }

    void everyWayOfSplitting_data();
    void everyWayOfSplitting();
    void splitButtonsBelowTheRows();
    void aSplitThatGivesNothingSaysSo();
    void pitchIsCutByKeyboard();
    void joinShowsClashesAndJoins();
    void eventsAreFilteredChangedDeletedMoved();
    void controllersKeptDroppedThinned();
    void pitchAndVelocity();
    void drumsBothWays();
    void tempoAndBars();
    void sections();
    void encodingWithPreview();
    void tracksOfTypeTwoBecomeSongs();
    void lanesZoomAndScroll();
    void drawerGroupsByStepAndFixesInOneStep();
    void oneAnswerForFiveParts();
    void aFixIsHeardBeforeItIsTaken();
    void midiOptionsAndPartFiles();
    void wordsAreShown();
    void everythingIsUndone();

  private:
    std::unique_ptr<Driver> m;
};

void TestShapingWindow::everyWayOfSplitting_data() {
    QTest::addColumn<int>("way"); // row of the dialog
    QTest::addColumn<QStringList>("parts");
    QTest::newRow("instrument change") << 1 << QStringList{"Two hands, trumpet", "Two hands, flute"};
    QTest::newRow("pitch") << 2 << QStringList{"Two hands high", "Two hands low"};
    QTest::newRow("lines") << 3 << QStringList{"Two hands top", "Two hands bottom"};
    QTest::newRow("melody, middle, bass")
        << 4 << QStringList{"Two hands melody", "Two hands middle", "Two hands bass"};
    QTest::newRow("section") << 6 << QStringList{"Two hands, Quay", "Two hands, Lanterns"};
    QTest::newRow("place") << 7 << QStringList{"Two hands", "Two hands from bar 3"};
}

void TestShapingWindow::everyWayOfSplitting() {
    QFETCH(int, way);
    QFETCH(QStringList, parts);
    Builder b(1);
    b.file.addText(0, 0, meta::trackName, "Two hands");
    b.program(0, 0, 56);
    for (int i = 0; i < 8; ++i) b.note(0, i, 0.5, 40 + i % 3).note(0, i, 0.5, 72 + i % 3);
    b.program(0, 3.9, 73);
    b.file.addText(0, 0, meta::marker, "Quay");
    b.file.addText(0, Builder::at(4), meta::marker, "Lanterns");
    b.file.sortTracks();
    QVERIFY(m->openSong(b.file));
    m->session().transport.seek(Builder::at(4)); // bar 3 at 120 quarters a minute
    QTRY_COMPARE(m->session().transport.place(), Builder::at(4));
    QDialog* dialog = m->dialogOf("split");
    QVERIFY(dialog);
    auto* ways = dialog->findChild<QListWidget*>(QStringLiteral("ways"));
    ways->setFocus();
    QTest::keyClick(ways, Qt::Key_Home);
    for (int i = 0; i < way; ++i) QTest::keyClick(ways, Qt::Key_Down);
    QCOMPARE(ways->currentRow(), way);
    auto* result = dialog->findChild<QListWidget*>(QStringLiteral("result"));
    QCOMPARE(result->count(), static_cast<int>(parts.size()));
    for (int i = 0; i < result->count(); ++i)
        QVERIFY2(result->item(i)->text().startsWith(parts[i]), qPrintable(result->item(i)->text()));
    QVERIFY(Driver::click(dialog, QStringLiteral("Split")));
    QTRY_COMPARE(m->song().parts.size(), std::size_t(parts.size()));
    for (int i = 0; i < parts.size(); ++i)
        QCOMPARE(m->song().parts[std::size_t(i)].name, parts[i].toStdString());
    m->act("undo");
    QCOMPARE(m->song().parts.size(), std::size_t{1});
}

void TestShapingWindow::splitButtonsBelowTheRows() {
    QVERIFY(m->openDemo("lantern_quay.mid"));
    m->window().showPage(Step::Parts);
    QVERIFY(m->select("Drums"));
    QVERIFY(Driver::click(&m->window(), QStringLiteral("piece of the kit")));
    QVERIFY(m->song().parts.size() > 12);
    m->act("undo");
    QVERIFY(m->select("Accordion left"));
    QVERIFY(Driver::click(&m->window(), QStringLiteral("top and bottom line")));
    QCOMPARE(m->song().parts.size(), std::size_t{11});
    QCOMPARE(m->partNames()[3], std::string("Accordion left top"));
    // A single program: that way is not offered.
    QVERIFY(!m->window().action(QStringLiteral("splitProgram"))->isEnabled());
    // The picture of the file fans one stone out to both.
    for (const SurfaceRow& row : m->window().findChild<FanPicture*>()->surfaceRows())
        if (row.name.contains(QStringLiteral("Accordion left top")))
            QVERIFY(row.name.contains(QStringLiteral("Accordion left bottom")));
}

void TestShapingWindow::aSplitThatGivesNothingSaysSo() {
    QVERIFY(m->openDemo("lantern_quay.mid"));
    QVERIFY(m->select("Glass bells"));
    QSignalSpy problem(&m->session().messages, &Messages::problem);
    m->session().current.split(QStringLiteral("x"),
                               [](const Song& s, const Part& p) { return splitByProgram(s, p); });
    QCOMPARE(problem.count(), 1);
    QVERIFY(problem[0][1].toString().contains(QStringLiteral("Glass bells")));
    if (QWidget* box = QApplication::activeModalWidget()) box->close();
    QDialog* dialog = m->dialogOf("split");
    QVERIFY(dialog);
    QVERIFY(!dialog->findChild<QPushButton*>(QStringLiteral("take"))->isEnabled());
    dialog->reject();
}

void TestShapingWindow::pitchIsCutByKeyboard() {
    QVERIFY(m->openDemo("lantern_quay.mid"));
    QVERIFY(m->select("Accordion left"));
    QDialog* dialog = m->dialogOf("splitPitch");
    QVERIFY(dialog);
    auto* histogram = dialog->findChild<PitchHistogram*>();
    const int before = histogram->cut();
    histogram->setFocus();
    QTest::keyClick(histogram, Qt::Key_Right);
    QTest::keyClick(histogram, Qt::Key_Right);
    QCOMPARE(histogram->cut(), before + 2);
    QVERIFY(histogram->surfaceValue().startsWith(QStringLiteral("cut below")));
    QTest::mouseClick(histogram, Qt::LeftButton, {}, QPoint(histogram->width() / 2, 60));
    QVERIFY(std::abs(histogram->cut() - 64) <= 2);
    dialog->reject();
}

void TestShapingWindow::joinShowsClashesAndJoins() {
    QVERIFY(m->openDemo("lantern_quay.mid"));
    QVERIFY(m->select("Lead cornet"));
    QDialog* dialog = m->dialogOf("join");
    QVERIFY(dialog);
    auto* parts = dialog->findChild<QListWidget*>(QStringLiteral("joinParts"));
    auto* clashes = dialog->findChild<QListWidget*>(QStringLiteral("clashes"));
    auto* take = dialog->findChild<QPushButton*>(QStringLiteral("take"));
    QVERIFY(!take->isEnabled());
    parts->setFocus();
    parts->setCurrentRow(0); // Second cornet
    QTest::keyClick(parts, Qt::Key_Space);
    QTRY_VERIFY(take->isEnabled());
    QVERIFY(clashes->count() >= 1);
    QString said;
    for (int i = 0; i < clashes->count(); ++i) said += clashes->item(i)->text();
    QVERIFY2(said.contains(QStringLiteral("volumes")) && said.contains(QStringLiteral("→")),
             qPrintable(said));
    dialog->findChild<QComboBox*>()->setCurrentIndex(2); // keep both
    QTRY_VERIFY(clashes->item(clashes->count() - 1)->text().size() > 5);
    const auto notes =
        m->session().findings.heard(1)->notes.size() + m->session().findings.heard(2)->notes.size();
    QTest::keyClick(dialog, Qt::Key_Return);
    QTRY_COMPARE(m->song().parts.size(), std::size_t{9});
    QCOMPARE(m->session().findings.heard(m->session().current.selectedPart())->notes.size(), notes);
    QCOMPARE(m->session().current.part()->name, std::string("Lead cornet"));
    // The channels of the file take it apart again.
    QVERIFY(m->window().action(QStringLiteral("splitChannel"))->isEnabled());
    m->act("splitChannel");
    QCOMPARE(m->song().parts.size(), std::size_t{10});
}

void TestShapingWindow::eventsAreFilteredChangedDeletedMoved() {
    QVERIFY(m->openDemo("lantern_quay.mid"));
    QVERIFY(m->select("Harbour strings"));
    m->act("events");
    auto* view = m->window().partsPage()->events();
    QTRY_VERIFY(view->isVisible());
    EventsModel* model = view->model();
    const QAbstractItemModelTester tester(model, QAbstractItemModelTester::FailureReportingMode::QtTest);
    QCOMPARE(static_cast<std::size_t>(model->rowCount()), m->session().current.part()->source.events->size());
    // Filter by kind, then by controller.
    auto* kind = view->findChild<QComboBox*>(QStringLiteral("eventKind"));
    kind->setCurrentIndex(kind->findText(QStringLiteral("note")));
    QCOMPARE(static_cast<std::size_t>(model->rowCount()),
             m->session().findings.heard(m->session().current.selectedPart())->notes.size());
    kind->setCurrentIndex(0);
    auto* controller = view->findChild<QComboBox*>(QStringLiteral("eventController"));
    controller->setCurrentIndex(controller->findData(7));
    const int volumes = model->rowCount();
    QVERIFY(volumes > 5);
    // Change a value in its cell.
    QTableView* table = view->table();
    const QModelIndex cell = model->index(1, EventsModel::Value);
    table->setCurrentIndex(cell);
    table->edit(cell);
    auto* editor = table->findChild<QSpinBox*>();
    QVERIFY(editor);
    editor->setValue(33);
    QTest::keyClick(editor, Qt::Key_Return);
    QTRY_COMPARE(model->index(1, EventsModel::Value).data().toInt(), 33);
    QCOMPARE(m->song().made.size(), std::size_t{1});
    // Delete two rows by key.
    table->setFocus();
    table->selectRow(2);
    QTest::keyClick(table, Qt::Key_Down, Qt::ShiftModifier);
    QTest::keyClick(table, Qt::Key_Delete);
    QTRY_COMPARE(model->rowCount(), volumes - 2);
    // Move the notes of the first bars to a part of their own.
    QVERIFY(Driver::click(view, QStringLiteral("Show all")));
    kind->setCurrentIndex(kind->findText(QStringLiteral("note")));
    view->findChild<QSpinBox*>(QStringLiteral("toBar"))->setValue(28);
    QVERIFY(model->rowCount() > 0);
    const int moved = model->rowCount();
    table->selectAll();
    view->findChild<QLineEdit*>(QStringLiteral("newPartName"))->setText(QStringLiteral("Strings at dusk"));
    QVERIFY(Driver::click(view, QStringLiteral("Move there")));
    QTRY_VERIFY(m->select("Strings at dusk"));
    const auto notes = [this] {
        return static_cast<int>(
            m->session().findings.heard(m->session().current.selectedPart())->notes.size());
    };
    QCOMPARE(notes(), moved);
    // Two of them go to a part that is there: the list names it.
    auto* target = view->findChild<QComboBox*>(QStringLiteral("moveTarget"));
    QTRY_VERIFY(target->findText(QStringLiteral("Harbour strings")) >= 0);
    QCOMPARE(target->findText(QStringLiteral("Strings at dusk")), -1); // itself
    QVERIFY(m->select("Harbour strings"));
    const int there = notes();
    QVERIFY(m->select("Strings at dusk"));
    kind->setCurrentIndex(kind->findText(QStringLiteral("note")));
    target->setCurrentIndex(target->findText(QStringLiteral("Harbour strings")));
    table->setFocus();
    table->selectRow(0);
    QTest::keyClick(table, Qt::Key_Down, Qt::ShiftModifier);
    QVERIFY(Driver::click(view, QStringLiteral("Move there")));
    QTRY_COMPARE(notes(), moved - 2);
    QVERIFY(m->select("Harbour strings"));
    QCOMPARE(notes(), there + 2);
    QTest::keyClick(view, Qt::Key_Escape);
    QTRY_VERIFY(!view->isVisible());
}

void TestShapingWindow::controllersKeptDroppedThinned() {
    QVERIFY(m->openDemo("lantern_quay.mid"));
    QVERIFY(m->select("Harbour strings"));
    QDialog* dialog = m->dialogOf("controllers");
    QVERIFY(dialog);
    auto* list = dialog->findChild<QTreeWidget*>(QStringLiteral("controllers"));
    auto* what = dialog->findChild<QComboBox*>(QStringLiteral("what"));
    QCOMPARE(list->topLevelItem(0)->text(0), QStringLiteral("volume (7)"));
    QCOMPARE(list->topLevelItem(0)->text(3), QStringLiteral("yes"));
    what->setCurrentIndex(3); // thin
    Q_EMIT what->activated(3);
    QTRY_VERIFY(m->session().current.part()->recipe.controllers.contains(7));
    dialog->findChild<QSpinBox*>(QStringLiteral("tolerance"))->setValue(6);
    QTRY_COMPARE(m->session().current.part()->recipe.controllers.at(7).tolerance, 6);
    QVERIFY(list->topLevelItem(0)->text(4).startsWith(QStringLiteral("thinned to")));
    what->setCurrentIndex(1);
    Q_EMIT what->activated(1);
    QTRY_VERIFY(m->session().current.part()->recipe.drops(7));
    m->session().current.endGesture(); // time passes
    what->setCurrentIndex(0);
    Q_EMIT what->activated(0);
    QTRY_VERIFY(m->session().current.part()->recipe.controllers.empty());
    what->setCurrentIndex(2); // it moves: it cannot become the level
    Q_EMIT what->activated(2);
    QVERIFY(m->session().current.part()->recipe.controllers.empty());
    dialog->reject();
    m->act("undo");
    QVERIFY(m->session().current.part()->recipe.drops(7));
    m->act("undo"); // what was gone through before is one step
    QVERIFY(m->session().current.part()->recipe.controllers.empty());
    // Going through the choices and back leaves nothing to undo.
    const QString last = m->session().current.undoName();
    dialog = m->dialogOf("controllers");
    QVERIFY(dialog);
    what = dialog->findChild<QComboBox*>(QStringLiteral("what"));
    what->setFocus();
    QTest::keyClick(what, Qt::Key_Down);
    QTRY_VERIFY(m->session().current.part()->recipe.drops(7));
    QTest::keyClick(what, Qt::Key_Up);
    QTRY_VERIFY(m->session().current.part()->recipe.controllers.empty());
    QCOMPARE(m->session().current.undoName(), last);
    dialog->reject();
}

void TestShapingWindow::pitchAndVelocity() {
    QVERIFY(m->openDemo("lantern_quay.mid"));
    QVERIFY(m->select("Clarinets"));
    const auto before = m->session().findings.heard(m->session().current.selectedPart())->notes;
    QDialog* dialog = m->dialogOf("pitchVelocity");
    QVERIFY(dialog);
    dialog->findChild<QSpinBox*>(QStringLiteral("semitones"))->setValue(-2);
    QTRY_COMPARE(m->session().current.part()->recipe.semitones, -2);
    QCOMPARE(int(m->session().findings.heard(m->session().current.selectedPart())->notes[0].key.value),
             before[0].key.value - 2);
    auto* instrument = dialog->findChild<QComboBox*>(QStringLiteral("instrument"));
    QCOMPARE(instrument->currentData().toInt(), -2); // a clarinet's, by the part's name
    instrument->setCurrentIndex(instrument->findData(-7));
    dialog->findChild<QPushButton*>(QStringLiteral("toSounding"))->click(); // one step from where it is
    QTRY_COMPARE(m->session().current.part()->recipe.semitones, -9);
    dialog->findChild<QPushButton*>(QStringLiteral("toWritten"))->click();
    QTRY_COMPARE(m->session().current.part()->recipe.semitones, -2);
    dialog->findChild<QSpinBox*>(QStringLiteral("scale"))->setValue(50);
    QTRY_COMPARE(m->session().current.part()->recipe.velocity.scale, 0.5);
    QCOMPARE(int(m->session().findings.heard(m->session().current.selectedPart())->notes[0].velocity.value),
             static_cast<int>(std::lround(before[0].velocity.value * 0.5)));
    dialog->reject();
    m->act("undo");
    QCOMPARE(m->session().current.part()->recipe.velocity, VelocityShape{});
}

void TestShapingWindow::drumsBothWays() {
    QVERIFY(m->openDemo("lantern_quay.mid"));
    m->window().showPage(Step::Parts);
    QVERIFY(m->select("Tuba"));
    QVERIFY(Driver::click(&m->window(), QStringLiteral("Make drums")));
    QVERIFY(m->session().current.part()->source.drums);
    QVERIFY(Driver::click(&m->window(), QStringLiteral("Make pitched")));
    QVERIFY(!m->session().current.part()->source.drums);
    m->act("fixProgram");
    QVERIFY(!m->session().current.part()->sound.followsPrograms);
    QVERIFY(m->window().action(QStringLiteral("followPrograms"))->isEnabled());
    m->act("followPrograms");
    QVERIFY(m->session().current.part()->sound.followsPrograms);
}

void TestShapingWindow::tempoAndBars() {
    QVERIFY(m->openDemo("lantern_quay.mid"));
    QDialog* dialog = m->dialogOf("tempo");
    QVERIFY(dialog);
    const auto spin = [&](const char* name) { return dialog->findChild<QSpinBox*>(QLatin1String(name)); };
    const auto press = [&](const char* name) {
        QTest::mouseClick(dialog->findChild<QPushButton*>(QLatin1String(name)), Qt::LeftButton);
    };
    spin("tempoBar")->setValue(9);
    dialog->findChild<QDoubleSpinBox*>(QStringLiteral("bpm"))->setValue(90);
    press("setTempo");
    QTRY_VERIFY(std::abs(m->song().tempo->bpm(m->song().tempo->barStart(9)) - 90) < 0.01);
    spin("tempoPercent")->setValue(50);
    press("scaleTempo");
    QTRY_VERIFY(std::abs(m->song().tempo->bpm(m->song().tempo->barStart(9)) - 45) < 0.01);
    press("steadyTempo");
    QTRY_COMPARE(m->song().tempo->tempos().size(), std::size_t{1});
    spin("metreBar")->setValue(1);
    spin("beats")->setValue(3);
    press("setMetre");
    QTRY_COMPARE(m->song().tempo->metre(0).numerator, 3);
    spin("pickUp")->setValue(1);
    press("setPickUp");
    QTRY_COMPARE(m->song().tempo->position(m->song().tempo->quarter()).bar, 2);
    auto* changes = dialog->findChild<QTreeWidget*>(QStringLiteral("tempoChanges"));
    QCOMPARE(changes->topLevelItemCount(), 1);
    dialog->reject();
    for (int i = 0; i < 5; ++i) m->act("undo");
    QVERIFY(!m->song().tempoEdited);
}

void TestShapingWindow::sections() {
    QVERIFY(m->openDemo("lantern_quay.mid"));
    const auto before = m->song().sections.size();
    QDialog* dialog = m->dialogOf("sections");
    QVERIFY(dialog);
    auto* list = dialog->findChild<QTreeWidget*>(QStringLiteral("sections"));
    auto* name = dialog->findChild<QLineEdit*>(QStringLiteral("sectionName"));
    auto* bar = dialog->findChild<QSpinBox*>(QStringLiteral("sectionBar"));
    const auto press = [&](const char* id) {
        QTest::mouseClick(dialog->findChild<QPushButton*>(QLatin1String(id)), Qt::LeftButton);
    };
    name->setText(QStringLiteral("Rope walk"));
    bar->setValue(13);
    press("addSection");
    QTRY_COMPARE(m->song().sections.size(), before + 1);
    QCOMPARE(list->currentItem()->text(0), QStringLiteral("Rope walk"));
    name->setText(QStringLiteral("Net loft"));
    press("renameSection");
    QTRY_COMPARE(list->currentItem()->text(0), QStringLiteral("Net loft"));
    bar->setValue(15);
    press("moveSection");
    QTRY_COMPARE(list->currentItem()->text(1), QStringLiteral("15"));
    press("removeSection");
    QTRY_COMPARE(m->song().sections.size(), before);
    dialog->reject();
    const Tick there = m->song().tempo->barStart(20);
    m->session().transport.seek(there);
    QTRY_COMPARE(m->session().transport.place(), there);
    m->act("sectionHere");
    QCOMPARE(m->song().sections.size(), before + 1);
}

void TestShapingWindow::encodingWithPreview() {
    QVERIFY(m->openDemo("SLACKW~1.MID"));
    QDialog* dialog = m->dialogOf("encoding");
    QVERIFY(dialog);
    auto* encodings = dialog->findChild<QListWidget*>(QStringLiteral("encodings"));
    auto* texts = dialog->findChild<QListWidget*>(QStringLiteral("texts"));
    QCOMPARE(encodings->currentItem()->text(), QStringLiteral("Japanese (Shift-JIS)"));
    const QString right = texts->item(1)->text();
    for (int i = 0; i < encodings->count(); ++i)
        if (encodings->item(i)->text() == QStringLiteral("Western European (Windows)"))
            encodings->setCurrentRow(i);
    QVERIFY(texts->item(1)->text() != right);
    QVERIFY(Driver::click(dialog, QStringLiteral("Use this encoding")));
    QTRY_COMPARE(m->song().encoding, std::string("WINDOWS-1252"));
    m->act("undo");
    QCOMPARE(m->song().encoding, std::string("SHIFT_JIS"));
}

void TestShapingWindow::tracksOfTypeTwoBecomeSongs() {
    MidiFile file;
    file.type = 2;
    file.division.ticksPerQuarter = 96;
    file.tracks.resize(3);
    for (std::size_t t = 0; t < 3; ++t) {
        file.addChannel(t, 0, 0x90, static_cast<std::uint8_t>(60 + t), 80);
        file.addChannel(t, 96, 0x80, static_cast<std::uint8_t>(60 + t), 64);
    }
    file.sortTracks();
    QVERIFY(m->openSong(file));
    QVERIFY(m->window().action(QStringLiteral("tracksToSongs"))->isEnabled());
    m->act("tracksToSongs");
    QCOMPARE(m->session().current.set().songs.size(), std::size_t{3});
    QVERIFY(!m->window().action(QStringLiteral("tracksToSongs"))->isEnabled());
    m->act("undo");
    QCOMPARE(m->session().current.set().songs.size(), std::size_t{1});
}

void TestShapingWindow::lanesZoomAndScroll() {
    QVERIFY(m->openDemo("lantern_quay.mid"));
    m->window().showPage(Step::Parts);
    LaneZoom* zoom = m->window().partsPage()->zoom();
    const LaneRange all = zoom->range();
    QCOMPARE(all.from, Tick{0});
    QWidget* rows = m->window().partsPage()->rows()->viewport();
    QWheelEvent in(QPointF(500, 100), rows->mapToGlobal(QPointF(500, 100)), {}, QPoint(0, 480), {},
                   Qt::ControlModifier, Qt::NoScrollPhase, false);
    QCoreApplication::sendEvent(rows, &in);
    QVERIFY(zoom->isZoomed());
    const LaneRange near = zoom->range();
    QVERIFY(near.to - near.from < all.to - all.from && near.from > 0);
    QWheelEvent aside(QPointF(500, 100), rows->mapToGlobal(QPointF(500, 100)), {}, QPoint(0, -120), {},
                      Qt::ShiftModifier, Qt::NoScrollPhase, false);
    QCoreApplication::sendEvent(rows, &aside);
    QVERIFY(zoom->range().from > near.from);
    m->act("zoomIn");
    m->act("zoomOut");
    m->act("zoomAll");
    QVERIFY(!zoom->isZoomed());
}

void TestShapingWindow::drawerGroupsByStepAndFixesInOneStep() {
    Builder b(1, 3);
    b.file.tracks[0].events.clear(); // no tempo: a snag of the step Songs
    b.program(0, 0, 1).cc(0, 0, 7, 90).note(0, 0, 1, 60).note(0, 0, 2, 60);
    b.program(0, 0, 56, 1).cc(0, 0, 7, 70, 1).note(0, 2, 1, 60, 90, 1);
    QVERIFY(m->openSong(b.file));
    auto* rail = m->window().findChild<Rail*>();
    const auto open = [&](int step) {
        int count = 0;
        for (const Snag& snag : m->session().findings.snags()) count += static_cast<int>(snag.step) == step;
        return count;
    };
    QVERIFY(open(0) >= 1 && open(1) >= 3);
    m->act("snags");
    auto* drawer = m->window().findChild<SnagDrawer*>();
    QTRY_VERIFY(drawer->isVisible());
    QStringList steps;
    for (QLabel* label : drawer->findChildren<QLabel*>())
        if (label->text() == QStringLiteral("Songs") || label->text() == QStringLiteral("Parts"))
            steps << label->text();
    QVERIFY(steps.contains(QStringLiteral("Songs")) && steps.contains(QStringLiteral("Parts")));
    int safe = 0;
    for (QPushButton* fix : drawer->findChildren<QPushButton*>())
        safe += fix->accessibleDescription().startsWith(QStringLiteral("Safe"));
    QVERIFY(safe >= 2);
    const int before = open(1);
    QVERIFY(Driver::click(drawer, QStringLiteral("Apply all safe fixes")));
    QTRY_VERIFY(open(1) < before);
    QVERIFY(rail->isVisible());
    QVERIFY(m->song().parts[0].source.channel != m->song().parts[1].source.channel); // channels apart: safe
    QCOMPARE(m->song().parts[0].recipe.unisons, Unisons::KeepBoth); // doubled notes: the person's to decide
    m->act("undo");
    QCOMPARE(open(1), before); // all of it was one step
}

namespace {

/// Five parts whose notes are all struck twice, and a sixth that is fine.
Builder fiveWithDoubledNotes() {
    Builder b(1, 7);
    for (std::uint8_t c = 0; c < 6; ++c) {
        b.file.addText(c, 0, meta::trackName, "Voice " + std::string(1, static_cast<char>('A' + c)));
        b.program(c, 0, 52, c);
        for (int i = 0; i < 16; ++i) {
            const auto key = static_cast<std::uint8_t>(60 + c);
            const int times = c < 5 ? 2 : 1;
            for (int n = 0; n < times; ++n)
                b.file.addChannel(c, i * 480, static_cast<std::uint8_t>(0x90 | c), key, 90);
            for (int n = 0; n < times; ++n)
                b.file.addChannel(c, i * 480 + 384, static_cast<std::uint8_t>(0x80 | c), key, 64);
        }
    }
    return b;
}

} // namespace

void TestShapingWindow::oneAnswerForFiveParts() {
    QVERIFY(m->openSong(fiveWithDoubledNotes().file));
    m->act("snags");
    auto* drawer = m->window().findChild<SnagDrawer*>();
    QTRY_VERIFY(drawer->isVisible());
    int headings = 0, rows = 0;
    for (QLabel* label : drawer->findChildren<QLabel*>())
        headings +=
            label->text() == QStringLiteral("5 parts have notes that are struck twice at the same moment.");
    for (QFrame* frame : drawer->findChildren<QFrame*>())
        if (frame->property("look") == QStringLiteral("snagRow"))
            rows += frame->accessibleName().contains(QStringLiteral("struck twice"));
    QCOMPARE(headings, 1); // once for all
    QCOMPARE(rows, 5);
    // Enter on a row selects its part.
    for (QFrame* frame : drawer->findChildren<QFrame*>())
        if (frame->accessibleName().contains(QStringLiteral("Voice D")))
            QTest::keyClick(frame, Qt::Key_Return);
    QCOMPARE(m->session().current.part()->name, std::string("Voice D"));
    const auto keptOne = [&] {
        return std::count_if(m->song().parts.begin(), m->song().parts.end(),
                             [](const Part& p) { return p.recipe.unisons == Unisons::KeepOne; });
    };
    for (QPushButton* all : drawer->findChildren<QPushButton*>())
        if (all->accessibleName() == QStringLiteral("All 5: Keep one of each")) {
            QTest::mouseClick(all, Qt::LeftButton);
            break;
        }
    QCOMPARE(keptOne(), 5);
    m->act("undo");
    QCOMPARE(keptOne(), 0);
    QTRY_COMPARE(m->session().findings.snags().size(), std::size_t{5});
    QTest::qWait(20);
    for (QFrame* frame : drawer->findChildren<QFrame*>())
        if (frame->property("look") == QStringLiteral("snagRow") &&
            frame->accessibleName().contains(QStringLiteral("Voice B"))) {
            frame->findChild<QPushButton*>()->click();
            break;
        }
    QCOMPARE(keptOne(), 1);
    QCOMPARE(m->song().parts[1].recipe.unisons, Unisons::KeepOne);
    QTest::qWait(20);
    QVERIFY(Driver::click(drawer, QStringLiteral("Leave all as they are")));
    QVERIFY(m->session().findings.snags().empty());
    QCOMPARE(keptOne(), 1);
}

void TestShapingWindow::aFixIsHeardBeforeItIsTaken() {
    QVERIFY(m->openSong(fiveWithDoubledNotes().file));
    m->act("snags");
    const Song before = m->song();
    const auto heardNotes = [&] {
        const Song& heard = m->session().sounds.heardSong();
        return realise(heard, heard.parts[0]).notes.size();
    };
    QCOMPARE(heardNotes(), std::size_t{32});
    m->act("hearDifference"); // plays as it is
    QVERIFY(m->session().transport.isPlaying());
    QVERIFY(m->session().transport.loop().on);
    QCOMPARE(heardNotes(), std::size_t{32});
    m->act("hearDifference");
    QCOMPARE(heardNotes(), std::size_t{16});
    QVERIFY(m->song() == before); // only heard
    m->act("hearDifference");
    QCOMPARE(heardNotes(), std::size_t{32});
    m->act("hearDifference");
    QCOMPARE(heardNotes(), std::size_t{16});
    m->act("snags"); // closed: all is as before
    QCOMPARE(heardNotes(), std::size_t{32});
    QVERIFY(!m->session().transport.isPlaying());
    QVERIFY(!m->session().transport.loop().on);
    QVERIFY(!m->session().current.canUndo() ||
            m->session().current.undoName().contains(QStringLiteral("Add")));
}

void TestShapingWindow::midiOptionsAndPartFiles() {
    QTemporaryDir folder;
    QVERIFY(m->openDemo("lantern_quay.mid"));
    QVERIFY(m->select("Clarinets"));
    m->session().current.edit(QStringLiteral("x"), [id = m->session().current.selectedPart()](const Song& s) {
        return edits::setSemitones(s, id, 5);
    });
    m->window().showPage(Step::Export);
    auto* page = m->window().exportPage();
    page->setFolder(folder.path());
    std::vector<std::filesystem::path> asked;
    page->askAboutExisting = [&asked](const auto& there, const auto& then) {
        asked = there;
        then(Existing::Replace);
    };
    auto* writtenIn = page->findChild<QCheckBox*>(QStringLiteral("writtenIn"));
    QTRY_VERIFY(writtenIn->isChecked());
    const PartId id = m->session().current.selectedPart();
    page->tickOnly(
        [id](const ExportItem& item) { return item.kind == ExportItem::Kind::MidiPart && item.part == id; });
    const auto writeAndRead = [&] {
        page->write();
        if (!QTest::qWaitFor([&] { return !page->isWriting(); }, scaled(20000))) return Song{};
        return songOf(fileBytes(folder.filePath(QStringLiteral("Lantern Quay - Clarinets.mid"))));
    };
    const Song in = writeAndRead();
    QCOMPARE(in.parts.size(), std::size_t{1});
    QTest::mouseClick(writtenIn, Qt::LeftButton, {}, QPoint(8, writtenIn->height() / 2));
    QTRY_VERIFY(!m->song().midi.writtenIn);
    QVERIFY(asked.empty());
    const Song out = writeAndRead();
    QCOMPARE(asked.size(), std::size_t{1}); // nothing is replaced unasked
    // One that gets a number is shown by the name that it has.
    page->askAboutExisting = [](const auto&, const auto& then) { then(Existing::Number); };
    (void)writeAndRead();
    QStringList names;
    const QModelIndex song = page->model()->songIndex(0);
    for (const auto& told : page->model()->toldIn(song)) names << told.fileName;
    QVERIFY(names.contains(QStringLiteral("Lantern Quay - Clarinets 2.mid")));
    QCOMPARE(realise(in, in.parts[0]).notes[0].key.value, realise(out, out.parts[0]).notes[0].key.value + 5);
    // What a MIDI file cannot hold is said before it is written.
    QTest::mouseClick(writtenIn, Qt::LeftButton, {}, QPoint(8, writtenIn->height() / 2));
    m->act("inFront");
    auto* lost = page->findChild<QLabel*>(QStringLiteral("notCarriedOver"));
    QTRY_VERIFY(lost->isVisible() && lost->text().contains(QStringLiteral("as they stand")));
}

void TestShapingWindow::wordsAreShown() {
    QVERIFY(m->openDemo("pilots-evening-song.kar"));
    m->window().showPage(Step::Practice);
    auto* words = m->window().findChild<WordsStrip*>(QStringLiteral("words"));
    QTRY_VERIFY(words->isVisible());
    const QString first = words->line();
    QVERIFY(!first.isEmpty() && !words->nextLine().isEmpty());
    const auto lines = lyricLines(m->song());
    // The syllable that is sung is lit.
    m->session().transport.seek(lines[0].syllables[1].tick);
    QTRY_COMPARE(words->litSyllable(), QString::fromStdString(lines[0].syllables[1].text).trimmed());
    QCOMPARE(words->line(), first);
    m->session().transport.seek(m->song().end - 10);
    QTRY_VERIFY(words->line() != first);
    QCOMPARE(words->nextLine(), QString()); // it is the last
}

void TestShapingWindow::everythingIsUndone() {
    QVERIFY(m->openDemo("TIDEMILL.MID"));
    const Song start = m->song();
    QVERIFY(m->select("Drums"));
    m->act("splitPiece");
    m->act("makePitched");
    m->act("sectionHere");
    QVERIFY(m->select("Fiddle"));
    m->act("splitLines");
    m->act("fixProgram");
    QVERIFY(!(m->song() == start));
    while (m->session().current.canUndo() && m->session().current.set().songs.size() == 1 &&
           !(m->song() == start))
        m->act("undo");
    QVERIFY(m->song() == start);
}

QTEST_MAIN(TestShapingWindow)
#include "tst_shapingwindow.moc"
