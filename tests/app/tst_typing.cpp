/// Typed, and then anything: a number that was not finished with Enter counts before what comes next, and
/// nothing that comes next ends the window.
#include "app/drive.h"

#include "app/pages/exportpage.h"
#include "song/shape/edits.h"

#include <QAbstractSpinBox>
#include <QPointer>

using namespace support;

class TestTyping : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void initTestCase() { prepareApplication(); }
    void init();
    void cleanup() { m.reset(); }
    void whatIsTypedCountsBeforeTheSnagsCome_data();
    void whatIsTypedCountsBeforeTheSnagsCome();
    void anyActionMayFollow();
    void anyButtonMayFollow();
    void aFieldInADialogMayBeLeftByClosing();

  private:
    /// The number fields of a page that are seen, and can be typed into.
    [[nodiscard]] QList<QPointer<QAbstractSpinBox>> fields() const;
    /// The ids of the window's actions, but those that end it or write files.
    [[nodiscard]] QStringList actions() const;
    void type(QAbstractSpinBox* field, const QString& number) const;
    static void closeDialogs();
    std::unique_ptr<Driver> m;
};

void TestTyping::init() {
    m = std::make_unique<Driver>();
    QVERIFY(m->openDemo("lantern_quay.mid"));
    QTRY_VERIFY(m->session().planner.isPlanned());
}

QList<QPointer<QAbstractSpinBox>> TestTyping::fields() const {
    QList<QPointer<QAbstractSpinBox>> found;
    for (auto* field : m->window().findChildren<QAbstractSpinBox*>())
        if (field->isVisible() && field->isEnabled() && !field->isReadOnly()) found << field;
    return found;
}

QStringList TestTyping::actions() const {
    QStringList ids;
    for (const QAction* action : m->window().findChildren<QAction*>())
        if (const QString id = action->objectName(); m->window().action(id) == action) ids << id;
    ids.removeAll(QStringLiteral("quit"));
    ids.removeAll(QStringLiteral("write"));
    return ids;
}

void TestTyping::type(QAbstractSpinBox* field, const QString& number) const {
    m->window().activateWindow();
    field->setFocus();
    field->selectAll();
    QTest::keyClicks(field, number);
}

void TestTyping::closeDialogs() {
    for (int i = 0; i < 4; ++i)
        if (QWidget* modal = QApplication::activeModalWidget())
            modal->close();
        else if (QWidget* popup = QApplication::activePopupWidget())
            popup->close();
    QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
}

void TestTyping::whatIsTypedCountsBeforeTheSnagsCome_data() {
    QTest::addColumn<QString>("action");
    for (const char* action : {"snags", "hearDifference", "undo", "write", "save"})
        QTest::newRow(action) << QString::fromLatin1(action);
}

/// The key of the song, in the strip that is always there: typed and then a key that takes what is shown
/// away.
void TestTyping::whatIsTypedCountsBeforeTheSnagsCome() {
    QFETCH(QString, action);
    QAction* next = m->window().action(action);
    if (!next) QSKIP("there is no such action");
    const auto all = fields();
    QAbstractSpinBox* key = nullptr;
    for (const auto& field : all)
        if (field->accessibleName().contains(QStringLiteral("Key"))) key = field;
    QVERIFY(key);
    QCOMPARE(m->song().keyShift, 0);
    type(key, QStringLiteral("12"));
    if (action == QLatin1String("write"))
        m->window().exportPage()->askAboutExisting = [](const auto&, const auto&) {};
    next->trigger();
    // Undo takes back what was typed; everything else comes after it.
    QCOMPARE(m->song().keyShift, action == QLatin1String("undo") ? 0 : 12);
    closeDialogs();
    m->window().exportPage()->stop();
}

/// Into each number field of the window, then every action there is.
void TestTyping::anyActionMayFollow() {
    QTimer closer; // a field's own menu waits for an answer
    connect(&closer, &QTimer::timeout, this, [] {
        if (QWidget* popup = QApplication::activePopupWidget()) popup->close();
    });
    closer.start(20);
    int tried = 0;
    for (const Step page :
         {Step::Songs, Step::Parts, Step::Sounds, Step::Drums, Step::Practice, Step::Export}) {
        m->window().showPage(page);
        QCoreApplication::processEvents();
        const auto here = fields();
        const QStringList all = actions();
        for (qsizetype f = 0; f < here.size(); ++f) {
            const auto& field = here[f];
            // The fields of all pages take turns with the actions, but for one that meets all of them.
            for (qsizetype a = 0; a < all.size(); ++a) {
                if (f > 0 && (a + f + static_cast<int>(page)) % 5 != 0) continue;
                const QString& id = all[a];
                QAction* action = m->window().action(id);
                if (!action->isEnabled() || id.startsWith(QLatin1String("textSize"))) continue;
                if (!field || !field->isVisible()) break;
                type(field, QString::number(1 + tried % 12));
                action->trigger();
                ++tried;
                closeDialogs();
                if (tried % 40 == 0) QCoreApplication::processEvents();
                if (m->window().page() != page) m->window().showPage(page);
                if (!m->session().current.hasSong() || m->session().files.isBusy()) {
                    QTRY_VERIFY(!m->session().files.isBusy());
                    if (!m->session().current.hasSong()) QVERIFY(m->openDemo("lantern_quay.mid"));
                }
            }
        }
    }
    QVERIFY2(tried > 300, qPrintable(QString::number(tried)));
}

/// The same with the buttons that are seen, pressed by the mouse: they take no focus.
void TestTyping::anyButtonMayFollow() {
    int tried = 0;
    for (const Step page : {Step::Songs, Step::Sounds, Step::Drums, Step::Practice, Step::Export}) {
        m->window().showPage(page);
        m->window().showSnags(page == Step::Sounds);
        QCoreApplication::processEvents();
        const auto here = fields();
        for (const auto& field : here) {
            QList<QPointer<QAbstractButton>> buttons;
            for (auto* button : m->window().findChildren<QAbstractButton*>()) buttons << button;
            for (qsizetype b = 0; b < buttons.size(); ++b) {
                const auto& button = buttons[b];
                if (field != here.first() && (b + tried) % 4 != 0) continue;
                if (!button || !button->isVisible() || !button->isEnabled() || !field || !field->isVisible())
                    continue;
                if (button->objectName() == QLatin1String("writeFiles")) continue;
                type(field, QString::number(1 + tried % 12));
                if (!button) continue; // it has gone with what was typed
                QTest::mouseClick(button, Qt::LeftButton);
                ++tried;
                closeDialogs();
                if (m->window().page() != page) m->window().showPage(page);
            }
        }
    }
    QVERIFY2(tried > 100, qPrintable(QString::number(tried)));
}

void TestTyping::aFieldInADialogMayBeLeftByClosing() {
    int tried = 0;
    for (const QString& id : actions()) {
        if (!m->window().action(id)->isEnabled()) continue;
        m->window().action(id)->trigger();
        QWidget* dialog = QApplication::activeModalWidget();
        if (!dialog) continue;
        for (auto* field : dialog->findChildren<QAbstractSpinBox*>()) {
            if (!field->isVisible() || !field->isEnabled()) continue;
            field->setFocus();
            field->selectAll();
            QTest::keyClicks(field, QStringLiteral("7"));
            ++tried;
            break;
        }
        closeDialogs();
    }
    QVERIFY2(tried >= 1, qPrintable(QString::number(tried)));
}

QTEST_MAIN(TestTyping)
#include "tst_typing.moc"
