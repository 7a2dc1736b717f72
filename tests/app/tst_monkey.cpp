/// Anything at all, through the window: random actions, keys, edits by sliders and lists, pages, songs and
/// dialogs; nothing breaks, and undoing all of it gives the start. COBBLEWAY_MONKEY_STEPS and
/// COBBLEWAY_MONKEY_SEED make it long by hand.
#include "app/drive.h"
#include "support/anyedit.h"

#include <QAbstractItemView>
#include <QAbstractSlider>
#include <QAbstractSpinBox>
#include <QCheckBox>
#include <QComboBox>
#include <QTemporaryDir>

using namespace support;

namespace {

/// Those that end the program, wait for a person, or write where the test has no business.
const QSet<QString> notForMonkeys = {
    QStringLiteral("loadNames"), QStringLiteral("saveNames"), QStringLiteral("saveAllNames"),
    QStringLiteral("quit"),      QStringLiteral("open"),      QStringLiteral("addFiles"),
    QStringLiteral("addFolder"), QStringLiteral("save"),      QStringLiteral("saveAs"),
    QStringLiteral("new"),       QStringLiteral("about"),     QStringLiteral("keys"),
    QStringLiteral("write"),     QStringLiteral("letters"),   QStringLiteral("bringToLevel"),
    QStringLiteral("undo"),      QStringLiteral("redo")};

class Monkey {
  public:
    Monkey(Driver& driver, unsigned seed)
        : m_driver(driver), m_start(driver.session().current.set()), m_random(seed) {}

    void step() {
        CurrentSet& current = m_driver.session().current;
        if (!current.hasSong()) return current.undo(); // all were removed: back again
        switch (m_random() % 13) {
        case 0:
        case 1:
        case 2:
        case 3: act(); break;
        case 4:
        case 5: edit(); break;
        case 6: turn(); break;
        case 7: choosePart(); break;
        case 8: m_driver.window().showPage(static_cast<Step>(m_random() % 6)); break;
        case 9: key(); break;
        case 10:
            m_driver.session().current.showSong(
                static_cast<int>(m_random() % m_driver.session().current.set().songs.size()));
            break;
        case 11: file(); break;
        default:
            if (m_random() % 3 == 0)
                current.redo();
            else if (!(current.set() == m_start)) // no further: what is undone before it does not come back
                current.undo();
            break;
        }
        QCoreApplication::processEvents();
        answer();
    }

  private:
    template <class T> T* any(const QList<T*>& list) {
        return list.isEmpty() ? nullptr
                              : list[static_cast<qsizetype>(m_random() % static_cast<unsigned>(list.size()))];
    }
    void act() {
        QAction* action = any(m_driver.window().findChildren<QAction*>());
        if (action && !action->objectName().isEmpty() && action->isEnabled() && action->isVisible() &&
            !notForMonkeys.contains(action->objectName()) && !QApplication::activeModalWidget())
            action->trigger();
    }
    void edit() {
        m_driver.session().current.edit(QStringLiteral("Any"),
                                        [this](const Song& song) { return anyShaping(song, m_random); });
    }
    /// Moves something that can be moved, where it is seen.
    void turn() {
        QWidget* in =
            QApplication::activeModalWidget() ? QApplication::activeModalWidget() : &m_driver.window();
        QList<QWidget*> seen;
        for (QWidget* widget : in->findChildren<QWidget*>())
            if (widget->isVisible() && widget->isEnabled()) seen << widget;
        QWidget* widget = any(seen);
        if (auto* slider = qobject_cast<QAbstractSlider*>(widget))
            slider->setValue(slider->minimum() +
                             static_cast<int>(m_random() % static_cast<unsigned>(slider->maximum() -
                                                                                 slider->minimum() + 1)));
        if (auto* box = qobject_cast<QAbstractSpinBox*>(widget))
            m_random() % 2 ? box->stepUp() : box->stepDown();
        if (auto* box = qobject_cast<QCheckBox*>(widget)) box->click();
        if (auto* box = qobject_cast<QComboBox*>(widget); box && box->count() > 0)
            box->setCurrentIndex(static_cast<int>(m_random() % static_cast<unsigned>(box->count())));
        if (auto* view = qobject_cast<QAbstractItemView*>(widget);
            view && view->model() && view->model()->rowCount() > 0)
            view->setCurrentIndex(view->model()->index(
                static_cast<int>(m_random() % static_cast<unsigned>(view->model()->rowCount())), 0));
    }
    /// Saves the set, or adds a song, now and then.
    void file() {
        SetFiles& files = m_driver.session().files;
        if (m_random() % 4 != 0 || files.isBusy()) return;
        if (m_random() % 2)
            files.save(m_folder.filePath(QStringLiteral("any.cobbleway")));
        else if (m_driver.session().current.set().songs.size() < 6)
            files.addPaths({QStringLiteral(DEMO_FOLDER "/TIDEMILL.MID")});
    }
    void choosePart() {
        const auto& parts = m_driver.song().parts;
        if (!parts.empty()) m_driver.session().current.selectPart(parts[m_random() % parts.size()].id);
    }
    void key() {
        static const Qt::Key keys[] = {Qt::Key_Up,     Qt::Key_Down,  Qt::Key_Left, Qt::Key_Right,
                                       Qt::Key_Home,   Qt::Key_End,   Qt::Key_Tab,  Qt::Key_Return,
                                       Qt::Key_Escape, Qt::Key_Delete};
        QWidget* focus = QApplication::focusWidget();
        if (focus) QTest::keyClick(focus, keys[m_random() % std::size(keys)]);
    }
    /// Takes or closes what has opened.
    void answer() {
        for (int i = 0; i < 5; ++i) {
            auto* dialog = qobject_cast<QDialog*>(QApplication::activeModalWidget());
            if (!dialog || m_random() % 3 == 0) break;
            m_random() % 2 ? dialog->accept() : dialog->reject();
            QCoreApplication::processEvents();
        }
    }
    Driver& m_driver;
    SongSet m_start;
    QTemporaryDir m_folder;
    std::mt19937 m_random;
};

} // namespace

class TestMonkey : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void initTestCase() {
        prepareApplication();
        qputenv("COBBLEWAY_LV2_PATH", "/no/plug-ins");
    }
    void anythingIsSurvivedAndUndone_data() {
        QTest::addColumn<unsigned>("seed");
        const unsigned seed = qEnvironmentVariableIntValue("COBBLEWAY_MONKEY_SEED");
        for (const unsigned one : {1U, 2U, 3U})
            if (!seed || one == 1) QTest::addRow("seed %u", seed ? seed : one) << (seed ? seed : one);
    }
    void anythingIsSurvivedAndUndone() {
        QFETCH(unsigned, seed);
        Driver driver;
        QVERIFY(driver.ok());
        QVERIFY(driver.openDemo("lantern_quay.mid") && driver.openDemo("SLACKW~1.MID"));
        const SongSet start = driver.session().current.set();
        const int steps = qEnvironmentVariableIsSet("COBBLEWAY_MONKEY_STEPS")
                              ? qEnvironmentVariableIntValue("COBBLEWAY_MONKEY_STEPS")
                              : 450;
        Monkey monkey(driver, seed);
        QTimer popups; // a context menu waits for an answer that no step gives
        connect(&popups, &QTimer::timeout, this, [] {
            if (QWidget* popup = QApplication::activePopupWidget()) popup->close();
        });
        popups.start(100);
        for (int i = 0; i < steps; ++i) {
            monkey.step();
            for (const auto& song : driver.session().current.set().songs)
                QVERIFY2(!song->parts.empty() && song->bars() >= 1,
                         qPrintable(QStringLiteral("step %1").arg(i)));
            if (driver.session().current.set().songs.empty()) driver.session().current.undo();
        }
        while (QWidget* modal = QApplication::activeModalWidget()) {
            qobject_cast<QDialog*>(modal)->reject();
            QCoreApplication::processEvents();
        }
        QTRY_VERIFY_WITH_TIMEOUT(!driver.session().files.isBusy(), scaled(20000));
        if (driver.session().transport.isPlaying()) driver.act("play");
        const SongSet end = driver.session().current.set();
        int back = 0;
        for (; driver.session().current.canUndo(); ++back) {
            if (driver.session().current.set() == start) break; // the songs were added by steps, too
            driver.session().current.undo();
        }
        QVERIFY(driver.session().current.set() == start);
        for (; back > 0; --back) driver.session().current.redo();
        QVERIFY(driver.session().current.set() == end);
    }
};

QTEST_MAIN(TestMonkey)
#include "tst_monkey.moc"
