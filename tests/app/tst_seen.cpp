/// Windows of every size and every theme, on a small screen. A window at 200 % of the text size is drawn as
/// one of half the width and height, so that sizes of text are checked by sizes of the window.
#include "app/drive.h"

#include "app/look/textsize.h"
#include "app/pages/fanpicture.h"
#include "app/pages/partspage.h"
#include "app/steps.h"

#include <QAbstractScrollArea>
#include <QFileDialog>
#include <QPointer>
#include <QToolButton>

using namespace support;

namespace {

constexpr QSize smallScreen(512, 384); ///< 1024 by 768 at 200 %

/// WCAG 2.1, relative luminance and contrast ratio; written from the definition, apart from the window's own.
double ratioOf(QRgb a, QRgb b) {
    const auto luminance = [](QRgb colour) {
        const double shares[] = {0.2126, 0.7152, 0.0722};
        const int parts[] = {qRed(colour), qGreen(colour), qBlue(colour)};
        double sum = 0;
        for (int i = 0; i < 3; ++i) {
            const double v = parts[i] / 255.0;
            sum += shares[i] * (v <= 0.04045 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4));
        }
        return sum;
    };
    const double x = luminance(a), y = luminance(b);
    return (std::max(x, y) + 0.05) / (std::min(x, y) + 0.05);
}
double ratioOf(const QColor& a, const QColor& b) { return ratioOf(a.rgb(), b.rgb()); }

QString nameOf(const QWidget* w) {
    return QStringLiteral("%1 '%2' %3")
        .arg(QLatin1String(w->metaObject()->className()), w->objectName(), w->accessibleName());
}

bool takesTab(const QWidget* w) {
    return w->isVisible() && w->isEnabled() && (w->focusPolicy() & Qt::TabFocus) && !w->focusProxy();
}

/// What is wrong with a window's content; empty when all can be reached and nothing is cut off.
QString wrongIn(QWidget* top) {
    QList<QPointer<QWidget>> all;
    for (QWidget* w : top->findChildren<QWidget*>()) all << w;
    for (const auto& w : all) {
        if (!w || w->window() != top || !takesTab(w)) continue;
        w->setFocus();
        QCoreApplication::processEvents();
        if (!w || !w->isVisible()) continue; // gone with what had the focus before
        if (w->visibleRegion().isEmpty()) return QStringLiteral("not to be seen: ") + nameOf(w);
        if (const auto* box = qobject_cast<QAbstractSpinBox*>(w))
            if (const auto* field = w->findChild<QLineEdit*>();
                field && field->width() < box->fontMetrics().horizontalAdvance(box->text()) + 2)
                return QStringLiteral("cut off: %1 shows %2").arg(nameOf(w), box->text());
        const auto* b = qobject_cast<QAbstractButton*>(w);
        const auto* tool = qobject_cast<QToolButton*>(w);
        const bool hasText = b && !b->text().isEmpty() && !b->inherits("cobbleway::RailStep") &&
                             !(tool && tool->toolButtonStyle() == Qt::ToolButtonIconOnly);
        if (hasText && b->width() < b->minimumSizeHint().width())
            return QStringLiteral("cut off: %1 has %2, wants %3")
                .arg(nameOf(w))
                .arg(b->width())
                .arg(b->minimumSizeHint().width());
    }
    return {};
}

} // namespace

class TestSeen : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void initTestCase();
    void init();
    void cleanup() { m.reset(); }
    void pagesFitEveryWindow_data();
    void pagesFitEveryWindow();
    void dialogsStayOnASmallScreen();
    void coloursCanBeToldApart_data();
    void coloursCanBeToldApart();
    void theFocusIsSeen_data();
    void theFocusIsSeen();
    void theSystemsTextSizeIsFollowed();
    void paintedViewsMirror();

  private:
    std::unique_ptr<Driver> m;
};

void TestSeen::initTestCase() {
    qputenv("COBBLEWAY_LV2_PATH", "/no/plug-ins");
    prepareApplication();
    QCOMPARE(QGuiApplication::primaryScreen()->size(), smallScreen);
}

void TestSeen::init() {
    m = std::make_unique<Driver>();
    QVERIFY(m->ok());
    QVERIFY(m->openDemo("lantern_quay.mid"));
    m->window().activateWindow();
}

void TestSeen::pagesFitEveryWindow_data() {
    QTest::addColumn<QSize>("size");
    const std::pair<const char*, QSize> screens[] = {{"1280 by 800", {1280, 800}},
                                                     {"1024 by 768", {1024, 768}}};
    for (const auto& [name, screen] : screens)
        for (const int percent : {100, 150, 200})
            QTest::addRow("%s at %d %%", name, percent) << screen * 100 / percent;
    QTest::newRow("640 by 480") << QSize(640, 480);
}

void TestSeen::pagesFitEveryWindow() {
    QFETCH(QSize, size);
    m->window().resize(size);
    for (int page = 0; page < static_cast<int>(stepTexts().size()); ++page) {
        m->window().showPage(static_cast<Step>(page));
        QTest::qWait(20);
        QCOMPARE(m->window().size(), size);
        const QString wrong = wrongIn(&m->window());
        QVERIFY2(wrong.isEmpty(), qPrintable(QStringLiteral("page %1: %2").arg(page + 1).arg(wrong)));
    }
}

/// Each action whose text ends in an ellipsis opens one.
void TestSeen::dialogsStayOnASmallScreen() {
    m->window().resize(smallScreen);
    int dialogs = 0;
    QStringList wrong;
    for (QAction* action : m->window().findChildren<QAction*>()) {
        if (!action->text().endsWith(QStringLiteral("…")) || !action->isEnabled()) continue;
        bool seen = false;
        QTimer look;
        connect(&look, &QTimer::timeout, &look, [&] {
            auto* dialog = qobject_cast<QDialog*>(QApplication::activeModalWidget());
            if (!dialog || seen) return;
            seen = true;
            if (!qobject_cast<QFileDialog*>(dialog)) { // Qt's own
                ++dialogs;
                if (!QRect(QPoint(), smallScreen).contains(dialog->geometry()))
                    wrong << QStringLiteral("%1: at %2 %3, %4 by %5")
                                 .arg(action->text())
                                 .arg(dialog->x())
                                 .arg(dialog->y())
                                 .arg(dialog->width())
                                 .arg(dialog->height());
                const auto all = dialog->findChildren<QWidget*>();
                if (std::count_if(all.begin(), all.end(), takesTab) < 2)
                    wrong << action->text() + QStringLiteral(": nothing in it is seen");
                if (const QString inside = wrongIn(dialog); !inside.isEmpty())
                    wrong << action->text() + QStringLiteral(": ") + inside;
            }
            dialog->reject();
        });
        look.start(10);
        action->trigger();
        (void)QTest::qWaitFor([&] { return seen && !QApplication::activeModalWidget(); }, 500);
    }
    QVERIFY2(wrong.isEmpty(), qPrintable(wrong.join(QStringLiteral("; "))));
    QVERIFY2(dialogs >= 12, qPrintable(QString::number(dialogs)));
}

void TestSeen::coloursCanBeToldApart_data() {
    QTest::addColumn<int>("choice");
    QTest::addColumn<double>("text");
    QTest::newRow("light") << static_cast<int>(ThemeChoice::Light) << 4.5;
    QTest::newRow("dark") << static_cast<int>(ThemeChoice::Dark) << 4.5;
    QTest::newRow("high contrast") << static_cast<int>(ThemeChoice::Contrast) << 7.0;
    QTest::newRow("the system's") << static_cast<int>(ThemeChoice::Palette) << 4.5;
}

/// WCAG 2.1: text 1.4.3 (4.5:1) and 1.4.6 (7:1), edges of fields and the focus 1.4.11 (3:1).
void TestSeen::coloursCanBeToldApart() {
    QFETCH(int, choice);
    QFETCH(double, text);
    applyTheme(static_cast<ThemeChoice>(choice));
    const Theme t = theme();
    applyTheme(ThemeChoice::Light);
    struct Pair {
        const char* name;
        QColor ink, ground;
        double least;
    };
    QList<Pair> pairs = {
        {"on a button", t.onAction, t.action, text}, {"ochre", t.ochreInk, t.ochreGround, text},
        {"moss", t.mossInk, t.mossGround, text},     {"brick", t.brick, t.brickGround, text},
        {"rail", t.railInk, t.rail, text},           {"rail, muted", t.railMuted, t.rail, text},
        {"on stone", t.ink, t.stone, text},          {"focus on the rail", t.ochre, t.rail, 3}};
    for (const QColor& ground : {t.ground, t.panel, t.raised, t.selected}) {
        pairs << Pair{"ink", t.ink, ground, text} << Pair{"muted", t.muted, ground, text}
              << Pair{"focus", t.action, ground, 3};
    }
    for (const QColor& ground : {t.ground, t.panel}) pairs << Pair{"edge of a field", t.edge, ground, 3};
    for (const Pair& p : pairs)
        QVERIFY2(ratioOf(p.ink, p.ground) >= p.least,
                 qPrintable(QStringLiteral("%1: %2 on %3 has %4")
                                .arg(QLatin1String(p.name), p.ink.name(), p.ground.name())
                                .arg(ratioOf(p.ink, p.ground))));
}

void TestSeen::theFocusIsSeen_data() {
    QTest::addColumn<int>("choice");
    QTest::newRow("light") << static_cast<int>(ThemeChoice::Light);
    QTest::newRow("dark") << static_cast<int>(ThemeChoice::Dark);
    QTest::newRow("high contrast") << static_cast<int>(ThemeChoice::Contrast);
}

/// Where the focus is, some pixels change so much that they can be told apart (WCAG 2.1, 2.4.7 and 1.4.11).
void TestSeen::theFocusIsSeen() {
    QFETCH(int, choice);
    applyTheme(static_cast<ThemeChoice>(choice));
    QStringList unseen;
    const int pages = static_cast<int>(stepTexts().size());
    for (int page = 0; page <= pages; ++page) { // the last with snags beside it
        m->window().showPage(static_cast<Step>(std::min(page, pages - 1)));
        if (page == pages) m->window().showSnags(true);
        QTest::qWait(20);
        auto* drawer = m->window().findChild<QWidget*>(QStringLiteral("snagDrawer"));
        QList<QPointer<QWidget>> all;
        for (QWidget* w : (page == pages ? drawer : &m->window())->findChildren<QWidget*>()) all << w;
        for (const auto& w : all) {
            if (!w || !takesTab(w) || w->visibleRegion().isEmpty()) continue;
            m->window().setFocus();
            QCoreApplication::processEvents();
            if (!w) continue;
            const QRect place(w->mapTo(&m->window(), QPoint()), w->size());
            const auto picture = [&] {
                return m->window().grab(place).toImage().convertToFormat(QImage::Format_RGB32);
            };
            const QImage before = picture();
            w->setFocus();
            QCoreApplication::processEvents();
            if (!w || !w->isVisible()) continue;
            const QImage after = picture();
            int told = 0;
            for (int y = 0; y < std::min(before.height(), after.height()); ++y)
                for (int x = 0; x < std::min(before.width(), after.width()); ++x)
                    told += ratioOf(before.pixel(x, y), after.pixel(x, y)) >= 3;
            if (told < 24)
                unseen << QStringLiteral("page %1: %2 (%3)").arg(page + 1).arg(nameOf(w)).arg(told);
        }
    }
    applyTheme(ThemeChoice::Light);
    unseen.removeDuplicates();
    QVERIFY2(unseen.isEmpty(), qPrintable(unseen.join(QStringLiteral("\n"))));
}

/// The test platform has 96 dots an inch; 11 points and fewer are a usual size.
void TestSeen::theSystemsTextSizeIsFollowed() {
    const QFont usual = QApplication::font();
    for (const auto& [points, percent] : std::initializer_list<std::pair<double, int>>{
             {9, 100}, {11, 100}, {16.5, 150}, {22, 200}, {40, 200}}) {
        QFont font = usual;
        font.setPointSizeF(points);
        QApplication::setFont(font);
        QCOMPARE(systemTextSize(), percent);
    }
    QApplication::setFont(usual);
}

/// Where text runs from right to left, painted rows are laid out as the layouts around them: what is at the
/// left edge is at the right one, and names can still be read.
void TestSeen::paintedViewsMirror() {
    m->window().resize(1280, 800);
    const auto inkIn = [](const QImage& picture, const QRect& where) {
        int sum = 0;
        for (int y = where.top(); y <= where.bottom(); ++y)
            for (int x = where.left(); x <= where.right(); ++x)
                sum += ratioOf(picture.pixel(x, y), theme().ink.rgb()) < 1.6;
        return sum;
    };
    for (const Qt::LayoutDirection direction : {Qt::LeftToRight, Qt::RightToLeft}) {
        const bool mirrored = direction == Qt::RightToLeft;
        QApplication::setLayoutDirection(direction);
        m->window().showPage(Step::Parts);
        QTest::qWait(50);
        auto* rows = m->window().findChild<PartsPage*>()->rows();
        const QRect row = rows->visualRect(rows->model()->index(2, 0));
        const QImage parts = rows->viewport()->grab().toImage();
        const QColor clarinets = partColour(m->song().parts[2].colour);
        const auto at = [&](int fromStart) {
            return mirrored ? row.right() - fromStart : row.left() + fromStart;
        };
        QCOMPARE(QColor(parts.pixel(at(3), row.center().y())), clarinets);
        const QRect name = QStyle::visualRect(direction, row, QRect(row.left() + 14, row.top() + 5, 120, 18));
        QVERIFY(inkIn(parts, name) > 60);
        // The fan's curves end at the rows.
        auto* fan = m->window().findChild<FanPicture*>();
        const QImage curves = fan->grab().toImage();
        const int y = rows->mapTo(&m->window(), row.center()).y() - fan->mapTo(&m->window(), QPoint()).y();
        const int edge = mirrored ? 1 : fan->width() - 2;
        int coloured = 0;
        for (int dy = -4; dy <= 4; ++dy)
            coloured += ratioOf(QColor(curves.pixel(edge, y + dy)), theme().ground) > 1.3;
        QVERIFY2(coloured > 0, mirrored ? "mirrored" : "not mirrored");
        // Names in Practice, which had no room.
        m->window().showPage(Step::Practice);
        QTRY_VERIFY(m->window().findChildren<QAbstractButton*>().size() > 30);
        QTest::qWait(100);
        QWidget* role = nullptr;
        for (QWidget* w : m->window().findChildren<QWidget*>())
            if (w->isVisible() && w->accessibleName() == QStringLiteral("Clarinets, backs")) role = w;
        QVERIFY(role);
        const QRect called =
            QStyle::visualRect(direction, role->rect(), QRect(14, 4, 90, role->height() - 12));
        QVERIFY(inkIn(role->grab().toImage(), called) > 60);
        for (int page = 0; page < static_cast<int>(stepTexts().size());
             ++page) { // and nothing is out of reach
            m->window().showPage(static_cast<Step>(page));
            QTest::qWait(20);
            const QString wrong = wrongIn(&m->window());
            QVERIFY2(wrong.isEmpty(), qPrintable(wrong));
        }
    }
    QApplication::setLayoutDirection(Qt::LeftToRight);
}

int main(int count, char** words) {
    QTemporaryDir folder;
    QFile screen(folder.filePath(QStringLiteral("screen.json")));
    if (!screen.open(QIODevice::WriteOnly)) return 1;
    screen.write(QStringLiteral(R"({"screens": [{"name": "small", "x": 0, "y": 0, "width": %1, "height": %2,
                                    "logicalDpi": 96, "logicalBaseDpi": 96, "dpr": 1}]})")
                     .arg(smallScreen.width())
                     .arg(smallScreen.height())
                     .toUtf8());
    screen.close();
    qputenv("QT_QPA_PLATFORM", "offscreen:configfile=" + screen.fileName().toUtf8());
    QApplication application(count, words);
    TestSeen test;
    return QTest::qExec(&test, count, words);
}
#include "tst_seen.moc"
