/// What a screen reader is told: everything that leaves through Qt's accessibility while the window is used.
#include "app/drive.h"

#include "app/dialogs/joindialog.h"
#include "app/narrator.h"
#include "app/pages/drumspage.h"
#include "app/pages/exportgrid.h"
#include "app/pages/partspage.h"
#include "app/pages/shelf.h"
#include "app/pages/soundspage.h"
#include "app/session/settings.h"
#include "app/widgets/fieldkeys.h"
#include "app/widgets/head.h"
#include "app/widgets/notespicture.h"
#include "app/widgets/plots.h"
#include "app/widgets/rail.h"
#include "app/widgets/snagdrawer.h"
#include "app/widgets/songstrip.h"
#include "song/shape/edits.h"

#include <QAccessible>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QKeySequenceEdit>
#include <QLineEdit>
#include <QListWidget>
#include <QMenu>
#include <QMenuBar>
#include <QRegularExpression>
#include <QSlider>
#include <QSpinBox>
#include <QTableView>
#include <QToolButton>
#include <QTreeView>
#include <QTreeWidget>

using namespace support;

namespace {

/// What has left: notices by their text, and who said that it has the focus.
struct Left {
    QStringList notices;
    QList<std::pair<QObject*, QString>> focus; ///< the widget, and the name of the row
};
Left left;

void record(QAccessibleEvent* event) {
    QAccessibleInterface* access = event->accessibleInterface();
    if (!access) return;
    if (event->type() == QAccessible::ObjectShow && access->role() == QAccessible::Notification)
        left.notices << access->text(QAccessible::Name);
    if (event->type() != QAccessible::Focus) return;
    left.focus.append({event->object(), access->text(QAccessible::Name)});
}

} // namespace

class TestTold : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void initTestCase() {
        qputenv("COBBLEWAY_LV2_PATH", "/no/plug-ins");
        prepareApplication();
        QAccessible::installUpdateHandler(record);
    }
    void cleanupTestCase() { QAccessible::installUpdateHandler(nullptr); }
    void init() {
        m = std::make_unique<Driver>();
        QVERIFY(m->ok());
        m->window().activateWindow();
        QVERIFY(QTest::qWaitForWindowActive(&m->window()));
        QVERIFY2(QTest::qWaitFor([] { return QAccessible::isActive(); }, scaled(10000)),
                 "run it by with-reader.sh");
        QVERIFY(m->openDemo("lantern_quay.mid"));
        QTRY_VERIFY(m->session().planner.isPlanned());
        QTest::qWait(50);
        left = {};
    }
    void cleanup() { m.reset(); }

    void announcementsLeaveAndTheWindowIsNotDescribed();
    void deedsAreTold_data();
    void deedsAreTold();
    void theLoopThePaceAndThePlace();
    void pagesAreToldAndTakeTheFocus();
    void undoingIsToldOnce();
    void hiddenListsAreQuiet();
    void searchIsNotInterrupted();
    void aListSpeaksItsRowWhenItGetsTheFocus();
    void eventsAreSentences();
    void ticksAreTold();
    void numbersOfPaintedViews();
    void slidersTellTheirUnit();
    void togglingDoesWhatAClickDoes();
    void textsCanBeRead();
    void songsAreSentences();
    void thePlaceIsNotToldWhilePlaying();
    void tabLeavesTheEvents();
    void undoWorksInFields();
    void fieldsKeepTheirKeys();
    void changesInWords();
    void gridsAreFewTabStops();
    void menusAreShortAndTheirLettersClear();
    void keysAreFoundAndChanged();
    void menusComeByKeys();
    void playingAndUndoingInDialogs();
    void theWholeJobInFortyKeys();

  private:
    bool told(const QString& text) {
        return QTest::qWaitFor(
            [&] {
                return std::any_of(left.notices.begin(), left.notices.end(),
                                   [&](const QString& notice) { return notice.contains(text); });
            },
            2000);
    }
    QString all() { return left.notices.join(QLatin1String(" | ")); }
    std::unique_ptr<Driver> m;
};

void TestTold::announcementsLeaveAndTheWindowIsNotDescribed() {
    announce(&m->window(), QStringLiteral("Hello"));
    QVERIFY(told(QStringLiteral("Hello")));
    announce(&m->window(), QStringLiteral("Hello")); // the same again is told again
    QCOMPARE(left.notices.count(QStringLiteral("Hello")), 2);
    QVERIFY(m->window().accessibleDescription().isEmpty());
    QTRY_VERIFY(!m->window().findChild<QWidget*>(QStringLiteral("notice"))->isVisible());
}

void TestTold::deedsAreTold_data() {
    QTest::addColumn<QString>("action");
    QTest::addColumn<QString>("text");
    const auto row = [](const char* action, const char* text) {
        QTest::newRow(action) << QString::fromLatin1(action) << QString::fromUtf8(text);
    };
    row("inFront", "Clarinets in front");
    row("alone", "Clarinets alone");
    row("without", "all but Clarinets");
    row("louder", "Clarinets, level +1 dB");
    row("softer", "Clarinets, level −1 dB");
    row("octaveUp", "Clarinets, one octave up");
    row("octaveDown", "Clarinets, one octave down");
    row("moveUp", "Clarinets is now part 2 of 10");
    row("keyUp", "key +1 semitones");
    row("nextPart", "Accordion left, plays with Accordion");
    row("splitLines", "is now 2 parts");
    row("loop", "Loop, bars");
    row("faster", "Pace 105 percent");
    row("nextBar", "bar 2, beat 1");
    row("nextSection", "Quayside");
    row("sayPlace", "bar 1, beat 1");
    row("mute", "Clarinets, muted");
    row("lead", "Clarinets in front");
    row("off", "all but Clarinets");
}

void TestTold::deedsAreTold() {
    QFETCH(QString, action);
    QFETCH(QString, text);
    m->select("Clarinets");
    QTest::qWait(30);
    left = {};
    if (!m->window().action(action)) QSKIP("there is no such action");
    m->act(action.toLatin1().constData());
    QVERIFY2(told(text), qPrintable(all()));
}

void TestTold::theLoopThePaceAndThePlace() {
    const auto bar = [&](int number) { return m->song().tempo->barStart(number); };
    m->session().transport.setLoop({bar(9), bar(13), true});
    QVERIFY2(told(QStringLiteral("Loop, bars 9 to 12")), qPrintable(all()));
    m->act("loop");
    QVERIFY2(told(QStringLiteral("Loop off")), qPrintable(all()));
    m->session().transport.setPace(80);
    QVERIFY2(told(QStringLiteral("Pace 80 percent")), qPrintable(all()));
    // A drag is told when it has come to rest.
    left = {};
    for (int i = 1; i < 20; ++i) m->session().transport.seek(bar(i));
    QVERIFY2(told(QStringLiteral("bar 19, beat 1")), qPrintable(all()));
    QCOMPARE(left.notices.size(), 1);
}

void TestTold::pagesAreToldAndTakeTheFocus() {
    const std::pair<int, const char*> pages[] = {{2, "Parts"},    {3, "Sounds"}, {4, "Drums"},
                                                 {5, "Practice"}, {6, "Export"}, {1, "Songs"}};
    for (const auto& [number, name] : pages) {
        left = {};
        QTest::keyClick(&m->window(), static_cast<Qt::Key>(Qt::Key_0 + number), Qt::ControlModifier);
        QVERIFY2(told(QStringLiteral("Page ") + QLatin1String(name)), qPrintable(all()));
        QWidget* focus = QApplication::focusWidget();
        QVERIFY2(focus && (qobject_cast<QAbstractItemView*>(focus) || qobject_cast<NotesPicture*>(focus)),
                 name);
        QVERIFY(focus->isVisible());
    }
}

void TestTold::undoingIsToldOnce() {
    m->select("Clarinets");
    m->act("inFront");
    QTest::qWait(50);
    left = {};
    m->act("undo");
    QVERIFY(told(QStringLiteral("Undone: In front")));
    QTest::qWait(50);
    QCOMPARE(left.notices.size(), 1);
}

void TestTold::hiddenListsAreQuiet() {
    m->window().findChild<StripView*>()->setFocus();
    QTest::qWait(30);
    left = {};
    for (const Part& part : m->song().parts) m->session().current.selectPart(part.id);
    m->act("splitLines");
    m->act("undo");
    QTest::qWait(50);
    for (const auto& [object, name] : left.focus)
        QVERIFY2(object == m->window().findChild<StripView*>(), qPrintable(name));
}

void TestTold::searchIsNotInterrupted() {
    m->window().showPage(Step::Sounds);
    QLineEdit* search = m->window().soundsPage()->shelf()->search();
    search->setFocus();
    QTest::qWait(30);
    left = {};
    QTest::keyClicks(search, QStringLiteral("flute"));
    QTest::qWait(50);
    for (const auto& [object, name] : left.focus) QVERIFY2(object == search, qPrintable(name));
}

void TestTold::aListSpeaksItsRowWhenItGetsTheFocus() {
    m->select("Tuba");
    m->window().showPage(Step::Parts);
    m->window().findChild<StripView*>()->setFocus();
    QTest::qWait(30);
    left = {};
    QListView* rows = m->window().partsPage()->rows();
    rows->setFocus();
    QTRY_VERIFY(!left.focus.isEmpty() && left.focus.last().second.contains(QLatin1String("Tuba")));
    left = {};
    QTest::keyClick(rows, Qt::Key_Down);
    QTRY_VERIFY(!left.focus.isEmpty() && left.focus.last().second.contains(QLatin1String("Glass bells")));
    QCOMPARE(left.focus.size(), 1); // once
}

void TestTold::eventsAreSentences() {
    m->select("Clarinets");
    m->act("events");
    auto* table = m->window().findChild<QTableView*>(QStringLiteral("eventTable"));
    QTRY_VERIFY(table && table->isVisible() && table->model()->rowCount() > 10);
    auto* kinds = m->window().findChild<QComboBox*>(QStringLiteral("eventKind"));
    kinds->setCurrentIndex(kinds->findText(QStringLiteral("note")));
    const QString said = table->model()->index(0, 0).data(Qt::AccessibleTextRole).toString();
    static const QRegularExpression sentence(
        QStringLiteral("^note [A-G]#?\\d, bar \\d+, beat \\d( and \\d+ ticks)?, value \\d+$"));
    QVERIFY2(sentence.match(said).hasMatch(), qPrintable(said));
    table->setFocus();
    left = {};
    QTest::keyClick(table, Qt::Key_Down);
    QTRY_VERIFY(!left.focus.isEmpty());
    QVERIFY2(sentence.match(left.focus.last().second).hasMatch(), qPrintable(left.focus.last().second));
}

void TestTold::ticksAreTold() {
    m->window().showPage(Step::Export);
    auto* list = m->window().findChild<QTreeView*>(QStringLiteral("exportList"));
    list->setFocus();
    const QModelIndex cell = list->model()->index(1, ExportGrid::Midi, list->rootIndex());
    list->setCurrentIndex(cell);
    const auto said = [&] { return cell.data(Qt::AccessibleTextRole).toString(); };
    const bool ticked = said().startsWith(QLatin1String("ticked"));
    QVERIFY2(said().contains(QLatin1String("Whole song, MIDI")), qPrintable(said()));
    QVERIFY(!said().endsWith(QLatin1String(", ")));
    QTest::keyClick(list, Qt::Key_Space);
    QVERIFY2(said().startsWith(ticked ? QLatin1String("not ticked") : QLatin1String("ticked")),
             qPrintable(said()));
    QVERIFY(told(ticked ? QStringLiteral("not ticked") : QStringLiteral("ticked")));
    QDialog* dialog = m->dialogOf("join");
    QVERIFY(dialog);
    auto* parts = dialog->findChild<QListWidget*>(QStringLiteral("joinParts"));
    parts->setFocus();
    parts->setCurrentRow(1);
    left = {};
    QTest::keyClick(parts, Qt::Key_Space);
    QVERIFY(told(QStringLiteral("ticked")));
    QVERIFY(parts->item(1)->data(Qt::AccessibleTextRole).toString().startsWith(QLatin1String("ticked, ")));
    QVERIFY(
        parts->item(0)->data(Qt::AccessibleTextRole).toString().startsWith(QLatin1String("not ticked, ")));
    dialog->reject();
}

void TestTold::numbersOfPaintedViews() {
    auto* strip = m->window().findChild<StripView*>();
    QAccessibleInterface* access = QAccessible::queryAccessibleInterface(strip);
    QVERIFY(access->valueInterface());
    QCOMPARE(access->role(), QAccessible::Slider);
    QCOMPARE(access->valueInterface()->currentValue().toInt(), 1);
    QCOMPARE(access->valueInterface()->maximumValue().toInt(), 80);
    access->valueInterface()->setCurrentValue(9);
    QTRY_COMPARE(access->valueInterface()->currentValue().toInt(), 9);
    QVERIFY(access->child(2)->text(QAccessible::Name).contains(QLatin1String("from bar")));
    QDialog* dialog = m->dialogOf("split");
    QVERIFY(dialog);
    QAccessibleInterface* cut = QAccessible::queryAccessibleInterface(dialog->findChild<PitchHistogram*>());
    cut->valueInterface()->setCurrentValue(60);
    QCOMPARE(dialog->findChild<PitchHistogram*>()->cut(), 60);
    dialog->reject();
    QAccessibleInterface* meter =
        QAccessible::queryAccessibleInterface(m->window().findChild<OutputMeter*>());
    QVERIFY(meter->valueInterface() && meter->role() == QAccessible::Indicator);
    m->select("Lead cornet");
    m->window().showPage(Step::Practice);
    QAccessibleInterface* notes =
        QAccessible::queryAccessibleInterface(m->window().findChild<NotesPicture*>());
    QVERIFY(notes->childCount() >= 8);
    QVERIFY2(notes->child(0)->text(QAccessible::Name).startsWith(QLatin1String("bar ")),
             qPrintable(notes->child(0)->text(QAccessible::Name)));
}

void TestTold::slidersTellTheirUnit() {
    m->window().showPage(Step::Sounds);
    m->window().soundsPage()->showLevels(true);
    QSlider* level = nullptr;
    QTRY_VERIFY([&] {
        for (auto* slider : m->window().findChildren<QSlider*>())
            if (slider->accessibleName().startsWith(QLatin1String("Level of Tuba"))) level = slider;
        return level != nullptr;
    }());
    QAccessibleInterface* access = QAccessible::queryAccessibleInterface(level);
    access->valueInterface()->setCurrentValue(-6.5);
    for (const Part& part : m->song().parts)
        if (part.name == "Tuba") QCOMPARE(part.mix.levelDb, -6.5);
    QCOMPARE(access->valueInterface()->currentValue().toDouble(), -6.5);
    QCOMPARE(access->valueInterface()->minimumValue().toDouble(), -60.0);
}

void TestTold::togglingDoesWhatAClickDoes() {
    const auto toggle = [](QWidget* widget) {
        QAccessibleInterface* access = QAccessible::queryAccessibleInterface(widget);
        const QStringList names = access->actionInterface()->actionNames();
        access->actionInterface()->doAction(names.contains(QAccessibleActionInterface::toggleAction())
                                                ? QAccessibleActionInterface::toggleAction()
                                                : QAccessibleActionInterface::pressAction());
    };
    for (auto* step : m->window().findChildren<RailStep*>()) {
        QAccessibleInterface* tab = QAccessible::queryAccessibleInterface(step);
        QCOMPARE(tab->role(), QAccessible::PageTab);
        QCOMPARE(tab->parent()->role(), QAccessible::PageTabList);
        QCOMPARE(bool(tab->state().selected), step->isChecked());
        if (step->text() == QLatin1String("Practice")) toggle(step);
    }
    QCOMPARE(m->window().page(), Step::Practice);
    for (auto* role : m->window().findChildren<QToolButton*>())
        if (role->isVisible() && role->accessibleName() == QLatin1String("Clarinets: Off")) {
            QCOMPARE(QAccessible::queryAccessibleInterface(role)->role(), QAccessible::RadioButton);
            toggle(role);
        }
    for (const Part& part : m->song().parts) QCOMPARE(part.mix.role == Role::Off, part.name == "Clarinets");
    for (auto* loop : m->window().findChildren<QToolButton*>())
        if (loop->defaultAction() == m->window().action(QStringLiteral("loop"))) toggle(loop);
    QTRY_VERIFY(m->session().transport.loop().on);
    QVERIFY(m->window().action(QStringLiteral("loop"))->isChecked());
    m->window().showPage(Step::Export);
    auto* written = m->window().findChild<QAbstractButton*>(QStringLiteral("writtenIn"));
    QTRY_VERIFY(written->isEnabled());
    toggle(written);
    QCOMPARE(m->song().midi.writtenIn, written->isChecked());
}

void TestTold::textsCanBeRead() {
    m->window().showPage(Step::Songs);
    auto* head = m->window().findChild<Head*>();
    head->setFocus();
    QVERIFY(head->hasFocus());
    const auto rows = head->surfaceRows();
    QVERIFY(rows.size() >= 2);
    QCOMPARE(rows[0].name, QStringLiteral("Lantern Quay"));
    left = {};
    QTest::keyClick(head, Qt::Key_Down);
    QVERIFY(!left.focus.isEmpty() && left.focus.last().second.contains(QLatin1String("10 parts")));
    // What was repaired and what is left to decide.
    QWidget* card = nullptr;
    for (auto* widget : m->window().findChildren<QWidget*>())
        if (widget->accessibleName() == QLatin1String("What the song is")) card = widget;
    QVERIFY(card);
    card->setFocus();
    QVERIFY(card->hasFocus());
    QAccessibleInterface* access = QAccessible::queryAccessibleInterface(card);
    QStringList texts;
    for (int i = 0; i < access->childCount(); ++i) texts << access->child(i)->text(QAccessible::Name);
    QVERIFY2(texts.join(QLatin1Char('|')).contains(QLatin1String("Asked of you")),
             qPrintable(texts.join(QLatin1Char('|'))));
}

void TestTold::songsAreSentences() {
    auto* table = m->window().findChild<QTreeView*>(QStringLiteral("songTable"));
    const QString said = table->model()->index(0, 0).data(Qt::AccessibleTextRole).toString();
    QVERIFY2(said.startsWith(QLatin1String("Lantern Quay, type 0, 1 track, 10 parts, 2 minutes 55, ")),
             qPrintable(said));
    QVERIFY(said.endsWith(QLatin1String("to decide")));
}

void TestTold::thePlaceIsNotToldWhilePlaying() {
    m->act("play");
    QTRY_VERIFY(m->session().transport.isPlaying());
    QVERIFY(told(QStringLiteral("Playing")));
    left = {};
    QTest::qWait(400);
    QVERIFY2(left.notices.isEmpty(), qPrintable(all()));
    m->act("play");
}

void TestTold::tabLeavesTheEvents() {
    m->window().showPage(Step::Parts);
    m->act("events");
    auto* table = m->window().findChild<QTableView*>(QStringLiteral("eventTable"));
    QTRY_VERIFY(table->isVisible() && table->model()->rowCount() > 0);
    table->setFocus();
    QTest::keyClick(table, Qt::Key_Tab);
    QVERIFY(!table->hasFocus());
    table->setFocus();
    QTest::keyClick(table, Qt::Key_Backtab);
    QVERIFY(!table->hasFocus());
    // The count after a filter is told.
    left = {};
    auto* kind = m->window().findChild<QComboBox*>(QStringLiteral("eventKind"));
    kind->setCurrentIndex(kind->findText(QStringLiteral("controller")));
    QVERIFY2(told(QStringLiteral("events")), qPrintable(all()));
    // F2 edits the value, and does not rename the part.
    table->setFocus();
    table->setCurrentIndex(table->model()->index(0, 0));
    QTest::keyClick(&m->window(), Qt::Key_F2);
    QVERIFY(m->window().partsPage()->showsEvents());
    QVERIFY(table->findChild<QLineEdit*>() || table->findChild<QSpinBox*>());
}

void TestTold::undoWorksInFields() {
    m->select("Tuba");
    m->window().showPage(Step::Sounds);
    auto* level = m->window().findChild<QDoubleSpinBox*>(QStringLiteral("level"));
    level->setFocus();
    QTest::keyClick(level, Qt::Key_Up);
    QVERIFY(m->session().current.canUndo());
    QCOMPARE(m->session().current.undoName(), QStringLiteral("Set level"));
    QTest::keyClick(level->findChild<QLineEdit*>(), Qt::Key_Z, Qt::ControlModifier);
    QVERIFY2(m->session().current.undoName() != QLatin1String("Set level"),
             qPrintable(m->session().current.undoName()));
    QCOMPARE(level->value(), 0.0);
}

void TestTold::fieldsKeepTheirKeys() {
    m->select("Tuba");
    m->window().showPage(Step::Drums);
    const auto parts = m->partNames();
    auto* kits = m->window().drumsPage()->findChild<QComboBox*>(QStringLiteral("kits"));
    kits->setFocus();
    QTest::keyClick(kits, Qt::Key_Down, Qt::AltModifier); // opens the list, and moves no part
    QTRY_VERIFY(kits->view()->isVisible());
    QCOMPARE(m->partNames(), parts);
    QTest::keyClick(kits->view(), Qt::Key_Escape);
    QTRY_VERIFY(!kits->view()->isVisible());
    kits->setFocus();
    QTest::keyClick(kits, Qt::Key_Space); // and so does the space bar, which does not play
    QVERIFY(!m->session().transport.isPlaying());
    kits->hidePopup();
    auto* louder = m->window().drumsPage()->findChild<QSpinBox*>(QStringLiteral("louder"));
    louder->setFocus();
    QTest::keyClick(louder->findChild<QLineEdit*>(), Qt::Key_Up, Qt::AltModifier);
    QCOMPARE(m->partNames(), parts);
}

void TestTold::changesInWords() {
    const Song song = m->song();
    const PartId second = song.parts[1].id;
    QCOMPARE(changeText(song, song), QString());
    QCOMPARE(changeText(song, edits::setMuted(song, second, true)), QStringLiteral("Second cornet, muted"));
    QCOMPARE(changeText(song, edits::setPan(song, second, -0.25)),
             QStringLiteral("Second cornet, 25 percent left"));
    QCOMPARE(changeText(song, edits::rename(song, second, "Bugle")),
             QStringLiteral("Second cornet is now Bugle"));
    QCOMPARE(changeText(edits::putInFront(song, second), edits::everyone(song)), QStringLiteral("full band"));
    QCOMPARE(changeText(edits::setKeyShift(song, 3), song), QStringLiteral("own key"));
    QCOMPARE(changeText(song, edits::moveTo(song, song.parts[9].id, 0)),
             QStringLiteral("Drums is now part 1 of 10"));
}

void TestTold::gridsAreFewTabStops() {
    const auto stops = [&] {
        QSet<QWidget*> seen;
        QWidget* at = m->window().findChild<StripView*>();
        at->setFocus();
        for (int i = 0; i < 300; ++i) {
            QTest::keyClick(QApplication::focusWidget(), Qt::Key_Tab);
            at = QApplication::focusWidget();
            if (!at || seen.contains(at)) break;
            seen.insert(at);
        }
        return seen;
    };
    m->window().showPage(Step::Practice);
    QTRY_VERIFY(m->window().findChildren<QAbstractButton*>().size() > 30);
    QTest::qWait(50);
    const auto practice = stops();
    QVERIFY2(practice.size() > 12 && practice.size() <= 30, qPrintable(QString::number(practice.size())));
    // Down and up among the roles, left and right for another.
    QWidget* row = nullptr;
    for (QWidget* widget : practice)
        if (widget->accessibleName().startsWith(QLatin1String("Lead cornet, "))) row = widget;
    QVERIFY(row);
    row->setFocus();
    QTest::keyClick(row, Qt::Key_Down);
    QTest::keyClick(QApplication::focusWidget(), Qt::Key_Down);
    QCOMPARE(QApplication::focusWidget()->accessibleName(), QStringLiteral("Clarinets, backs"));
    QCOMPARE(m->session().current.part()->name, std::string("Clarinets"));
    left = {};
    QTest::keyClick(QApplication::focusWidget(), Qt::Key_Left);
    QVERIFY2(told(QStringLiteral("Clarinets in front")), qPrintable(all()));
    QCOMPARE(QApplication::focusWidget()->accessibleName(), QStringLiteral("Clarinets, leads"));
    m->window().showPage(Step::Sounds);
    m->window().soundsPage()->showLevels(true);
    QTRY_VERIFY(m->window().findChildren<QSlider*>().size() > 30);
    QTest::qWait(50);
    const auto levels = stops();
    QVERIFY2(levels.size() > 12 && levels.size() <= 32, qPrintable(QString::number(levels.size())));
    // Chips of the shelf, and pieces of the kit: one stop each, gone through by arrows.
    m->window().soundsPage()->showLevels(false);
    const auto sounds = stops();
    QVERIFY2(sounds.size() > 12 && sounds.size() <= 30, qPrintable(QString::number(sounds.size())));
    QPushButton* favourites = nullptr;
    for (auto* chip : m->window().findChildren<QPushButton*>())
        if (chip->property("look") == QStringLiteral("chip") && chip->text() == QStringLiteral("Favourites"))
            favourites = chip;
    QVERIFY(favourites);
    favourites->setFocus();
    QTest::keyClick(favourites, Qt::Key_Right);
    QCOMPARE(qobject_cast<QPushButton*>(QApplication::focusWidget())->text(), QStringLiteral("Recent"));
    QTest::keyClick(QApplication::focusWidget(), Qt::Key_Up);
    QCOMPARE(QApplication::focusWidget(), favourites);
    m->window().showPage(Step::Drums);
    QTest::qWait(50);
    const auto drums = stops();
    QVERIFY2(drums.size() > 12 && drums.size() <= 32, qPrintable(QString::number(drums.size())));
    // Cards of snags: the first has the focus; after a fix the focus is on the neighbour.
    m->window().showSnags(true);
    QTest::qWait(50);
    auto* drawer = m->window().findChild<SnagDrawer*>();
    const QWidget* first = QApplication::focusWidget();
    const auto withSnags = stops();
    QVERIFY2(withSnags.size() <= drums.size() + 6, qPrintable(QString::number(withSnags.size())));
    QWidget* card = nullptr;
    for (QWidget* widget : withSnags)
        if (drawer->isAncestorOf(widget) && widget->property("look") == QStringLiteral("snagRow"))
            card = widget;
    QVERIFY(card);
    QCOMPARE(card, first);
    card->setFocus();
    QTest::keyClick(card, Qt::Key_Down);
    const QString second = QApplication::focusWidget()->accessibleName();
    QVERIFY(second != card->accessibleName());
    auto* fix = qobject_cast<QPushButton*>(QApplication::focusWidget()); // of a card of several: for all
    if (!fix) fix = QApplication::focusWidget()->findChild<QPushButton*>();
    QVERIFY(fix);
    fix->setFocus();
    const auto snags = m->session().findings.snags().size();
    QTest::keyClick(fix, Qt::Key_Space);
    QTRY_VERIFY(m->session().findings.snags().size() < snags);
    QTest::qWait(50);
    QVERIFY(QApplication::focusWidget() && drawer->isAncestorOf(QApplication::focusWidget()));
    QVERIFY(QApplication::focusWidget()->accessibleName() != second);
}

void TestTold::menusAreShortAndTheirLettersClear() {
    const std::function<void(const QList<QAction*>&, const QString&)> check =
        [&](const QList<QAction*>& entries, const QString& where) {
            QString letters;
            int count = 0;
            for (QAction* entry : entries) {
                if (entry->isSeparator() || !entry->isVisible()) continue;
                ++count;
                const auto mark = entry->text().indexOf(QLatin1Char('&'));
                QVERIFY2(mark >= 0, qPrintable(where + QStringLiteral(": ") + entry->text()));
                const QChar letter = entry->text()[mark + 1].toLower();
                QVERIFY2(!letters.contains(letter), qPrintable(where + QStringLiteral(": ") + entry->text()));
                letters += letter;
                if (entry->menu() && !entry->menu()->actions().isEmpty() &&
                    entry->menu()->actions()[0]->text().contains(QLatin1Char('&')))
                    check(entry->menu()->actions(), entry->text());
            }
            QVERIFY2(count <= 16, qPrintable(QStringLiteral("%1 has %2 entries").arg(where).arg(count)));
        };
    check(m->window().menuBar()->actions(), QStringLiteral("menu bar"));
}

void TestTold::keysAreFoundAndChanged() {
    const QKeySequence wanted(Qt::CTRL | Qt::SHIFT | Qt::Key_F7);
    QDialog* dialog = m->dialogOf("keys");
    QVERIFY(dialog);
    QVERIFY(dialog->height() <= 700);
    auto* list = dialog->findChild<QTreeWidget*>(QStringLiteral("keyList"));
    auto* search = dialog->findChild<QLineEdit*>(QStringLiteral("keySearch"));
    search->setText(QStringLiteral("in the mix: mute"));
    QVERIFY(list->currentItem());
    QVERIFY(
        list->currentItem()->data(0, Qt::AccessibleTextRole).toString().contains(QLatin1String("no keys")));
    auto* keys = dialog->findChild<QKeySequenceEdit*>(QStringLiteral("newKeys"));
    keys->setKeySequence(QKeySequence(Qt::CTRL | Qt::Key_L)); // the loop has it
    QVERIFY(Driver::click(dialog, QStringLiteral("&Give it these keys")));
    QVERIFY(told(QStringLiteral("is taken")));
    QVERIFY(m->window().action(QStringLiteral("mute"))->shortcuts().isEmpty());
    keys->setKeySequence(wanted);
    QVERIFY(Driver::click(dialog, QStringLiteral("&Give it these keys")));
    QCOMPARE(m->window().action(QStringLiteral("mute"))->shortcuts(), QList<QKeySequence>{wanted});
    dialog->reject();
    // It holds after a restart, until it is taken back.
    {
        Session again;
        MainWindow other(again);
        QCOMPARE(other.action(QStringLiteral("mute"))->shortcuts(), QList<QKeySequence>{wanted});
    }
    dialog = m->dialogOf("keys");
    QVERIFY(dialog);
    dialog->findChild<QLineEdit*>(QStringLiteral("keySearch"))->setText(QStringLiteral("in the mix: mute"));
    QVERIFY(Driver::click(dialog, QStringLiteral("As it &came")));
    QVERIFY(m->window().action(QStringLiteral("mute"))->shortcuts().isEmpty());
    dialog->reject();
}

/// F10 is the key of the menus on every desktop, Shift+F10 that of the menu of what is chosen.
void TestTold::menusComeByKeys() {
    const auto menuHas = [](Qt::KeyboardModifiers with, QAction* action) {
        bool has = false;
        QTimer look; // the menu of what is chosen waits for an answer
        connect(&look, &QTimer::timeout, &look, [&] {
            auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
            if (!menu) return;
            has = menu->actions().contains(action);
            look.stop();
            menu->close();
        });
        look.start(20);
        QTest::keyClick(QApplication::focusWidget(), Qt::Key_F10, with);
        (void)QTest::qWaitFor([&] { return !look.isActive(); }, scaled(2000));
        return has;
    };
    m->window().showPage(Step::Parts);
    m->window().findChild<PartsPage*>()->rows()->setFocus();
    QVERIFY(menuHas(Qt::ShiftModifier, m->window().action(QStringLiteral("split"))));
    QVERIFY(menuHas(Qt::NoModifier, m->window().action(QStringLiteral("save"))));
}

void TestTold::playingAndUndoingInDialogs() {
    QVERIFY(m->select("Guitar"));
    QDialog* dialog = m->dialogOf("pitchVelocity");
    QVERIFY(dialog);
    dialog->activateWindow();
    QTRY_COMPARE(QApplication::activeWindow(), dialog);
    auto* semitones = dialog->findChild<QSpinBox*>(QStringLiteral("semitones"));
    QVERIFY(semitones);
    semitones->setFocus();
    QTest::keyClick(semitones, Qt::Key_Up);
    QTRY_COMPARE(m->session().current.part()->recipe.semitones, 1);
    QTest::keyClick(dialog, Qt::Key_Space);
    QTRY_VERIFY(m->session().transport.isPlaying());
    QTest::keyClick(semitones, Qt::Key_Z, Qt::ControlModifier);
    QTRY_COMPARE(m->session().current.part()->recipe.semitones, 0);
    QTest::keyClick(dialog, Qt::Key_Space);
    QTRY_VERIFY(!m->session().transport.isPlaying());
    dialog->reject();
}

/// From a file of 14 parts to practice files, by keys alone, each deed told. Texts that are typed do not
/// count.
void TestTold::theWholeJobInFortyKeys() {
    Builder b;
    for (int channel = 0; channel < 14; ++channel) {
        const int midi = channel < 9 ? channel : channel + 1;
        b.program(midi, 0, 8 * channel + 1).cc(midi, 0, 7, 90).cc(midi, 1.0, 7, 100);
        for (int i = 0; i < 16; ++i) b.note(midi, i * 0.5, 0.4, 48 + i, 80);
    }
    QTemporaryDir folder;
    const QString path = folder.filePath(QStringLiteral("Fourteen.mid"));
    {
        QFile out(path);
        QVERIFY(out.open(QIODevice::WriteOnly));
        b.file.sortTracks();
        const Bytes bytes = writeMidi(b.file);
        out.write(reinterpret_cast<const char*>(bytes.data()), static_cast<qint64>(bytes.size()));
    }
    settings::setExportFolder(folder.path());
    int keys = 0;
    const auto press = [&](int key, Qt::KeyboardModifiers with = Qt::NoModifier) {
        ++keys;
        if (!QApplication::activeWindow()) { // a window manager gives the window its keys back
            m->window().activateWindow();
            QTest::qWait(20);
        }
        QWidget* at = QApplication::focusWidget();
        QVERIFY2(at, qPrintable(QStringLiteral("key %1: nothing has the focus").arg(keys)));
        QTest::keyClick(at, static_cast<Qt::Key>(key), with);
        QTest::qWait(20);
    };
    /// Types a text into the dialog that a key opens, and Enter.
    const auto answered = [&](int key, Qt::KeyboardModifiers with, const QString& text) {
        QTimer::singleShot(300, this, [&, text] {
            QWidget* dialog = QApplication::activeModalWidget();
            if (!dialog) return;
            auto* line = qobject_cast<QLineEdit*>(dialog->focusWidget());
            if (!line) return;
            line->selectAll();
            QTest::keyClicks(line, text);
            ++keys;
            QTest::keyClick(line, Qt::Key_Return);
        });
        press(key, with);
    };
    const auto expect = [&](const char* deed, const QString& text) {
        const bool was = told(text);
        if (!was) qWarning("%s: not told '%s' but: %s", deed, qPrintable(text), qPrintable(all()));
        left = {};
        return was;
    };
    const auto song = [this]() -> const Song& { return m->song(); };

    // Open it, and read what it is.
    answered(Qt::Key_A, Qt::ControlModifier | Qt::ShiftModifier, path);
    QTRY_COMPARE(song().parts.size(), std::size_t{14});
    QTRY_VERIFY(m->session().planner.isPlanned());
    left = {};
    press(Qt::Key_1, Qt::ControlModifier);
    QTRY_VERIFY(!left.focus.isEmpty());
    QVERIFY2(left.focus.last().second.contains(QStringLiteral("14 parts")),
             qPrintable(left.focus.last().second));
    // Split the first part by pitch.
    press(Qt::Key_2, Qt::ControlModifier);
    QVERIFY(expect("page", QStringLiteral("Page Parts")));
    press(Qt::Key_F4);
    press(Qt::Key_P); // the row of this name
    press(Qt::Key_Return);
    QTRY_COMPARE(song().parts.size(), std::size_t{15});
    QVERIFY(expect("split", QStringLiteral("is now 2 parts")));
    // Join it with the next.
    press(Qt::Key_F5);
    press(Qt::Key_Space);
    QVERIFY(expect("tick", QStringLiteral("ticked")));
    press(Qt::Key_Return);
    QTRY_COMPARE(song().parts.size(), std::size_t{14});
    QVERIFY(expect("join", QStringLiteral("oin")));
    // Delete its controllers.
    const auto controllers = [&] {
        int count = 0;
        for (const Event& event : realisedEvents(song(), *m->session().current.part()))
            count += event.kind() == 0xB0;
        return count;
    };
    QVERIFY(controllers() > 0);
    press(Qt::Key_F6);
    press(Qt::Key_K, Qt::AltModifier);
    press(Qt::Key_C); // the kind that begins with it: controller
    QVERIFY(expect("filter", QStringLiteral("of ")));
    press(Qt::Key_Return);
    press(Qt::Key_A, Qt::ControlModifier);
    press(Qt::Key_Delete);
    QTRY_COMPARE(controllers(), 0);
    QVERIFY(expect("delete", QStringLiteral("elete")));
    press(Qt::Key_Escape);
    // Try a sound, and keep it.
    const auto soundNow = [this] {
        const PartMatch* match = m->session().findings.matchOf(m->session().current.selectedPart());
        return match && match->first().sound ? match->first().sound->name : std::string();
    };
    const std::string before = soundNow();
    press(Qt::Key_F, Qt::ControlModifier);
    QTest::keyClicks(QApplication::focusWidget(), QStringLiteral("oboe"));
    press(Qt::Key_Down);
    QTRY_VERIFY(m->session().sounds.isTrying());
    press(Qt::Key_Return);
    QTRY_VERIFY(!m->session().sounds.isTrying());
    QTRY_COMPARE(soundNow(), std::string("Oboe"));
    QVERIFY(before != "Oboe");
    QVERIFY(expect("sound", QStringLiteral("Oboe")));
    // In front, a loop, slower.
    press(Qt::Key_1, Qt::AltModifier);
    QVERIFY(expect("in front", QStringLiteral("front")));
    press(Qt::Key_L, Qt::ControlModifier);
    QVERIFY(expect("loop", QStringLiteral("oop")));
    press(Qt::Key_Down, Qt::ControlModifier);
    QVERIFY(expect("slower", QStringLiteral("95")));
    // Write what is ticked.
    press(Qt::Key_6, Qt::ControlModifier);
    QVERIFY(expect("page", QStringLiteral("Page Export")));
    press(Qt::Key_Down); // the whole song
    press(Qt::Key_Right);
    press(Qt::Key_Space);
    QVERIFY(expect("tick", QStringLiteral("ticked")));
    press(Qt::Key_E, Qt::ControlModifier);
    QTRY_VERIFY_WITH_TIMEOUT(!QDir(folder.path())
                                  .entryList({QStringLiteral("Fourteen - *"), QStringLiteral("Fourteen*.*")})
                                  .isEmpty(),
                             scaled(20000));
    QVERIFY(expect("written", QStringLiteral("ritten")));
    // Undo, save.
    press(Qt::Key_Z, Qt::ControlModifier);
    QVERIFY(expect("undo", QStringLiteral("ndone")));
    answered(Qt::Key_S, Qt::ControlModifier, folder.filePath(QStringLiteral("Fourteen.cobbleway")));
    QVERIFY(expect("save", QStringLiteral("aved")));
    QVERIFY(QFile::exists(folder.filePath(QStringLiteral("Fourteen.cobbleway"))));
    qInfo("%d keys", keys);
    QVERIFY2(keys <= 40, qPrintable(QString::number(keys)));
}

QTEST_MAIN(TestTold)
#include "tst_told.moc"
