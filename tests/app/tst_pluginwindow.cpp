/// Plug-ins' own windows, on a screen of their own: shown, turned, told, closed, and ended with the plug-in.
/// Judge of what a window and its host owe each other: the LV2 UI specification
/// (lv2plug.in/ns/extensions/ui).
#include "app/drive.h"
#include "app/xscreen.h"

#include "app/dialogs/plugincontrols.h"
#include "app/session/pluginwindows.h"
#include "files/pluginhost.h"
#include "song/shape/edits.h"

#include <QFormLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>

using namespace support;

namespace {

const std::string windowed = "urn:cobbleway:test:windowed";
constexpr unsigned long space = 0x20, letterZ = 0x7A; // X11/keysymdef.h

} // namespace

class TestPluginWindow : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void initTestCase() {
        QVERIFY2(m_screen.ok(), "Xvfb is needed");
        qputenv("COBBLEWAY_LV2_PATH", WINDOWED_PLUGINS);
        prepareApplication();
    }
    void init() {
        m_host = std::make_shared<PluginHost>(PLUGIN_HELPER, std::filesystem::path(),
                                              std::vector<std::filesystem::path>{});
    }

    void isAsLargeAsWhatLiesInIt();
    void whatIsTurnedThereSoundsAndIsTold();
    void itIsToldWhatIsTurnedHere();
    void whatIsTurnedThereIsNotTurnedBack();
    void aFileThatItGivesIsKept();
    void closedItCanBeOpenedAgain();
    void keysThatItDoesNotTakeAreTold();
    void onesThatHaveNoneSaySo();
    void withoutADisplayThatIsSaid();
    void aCrashInItEndsThePluginAlone();
    void inTheSongItIsAStepToUndo();
    void itGoesWithItsSong();
    void manyControlsAreInGroupsAndFound();

  private:
    std::unique_ptr<PluginUnit> loaded() {
        auto unit = m_host->load(windowed, {}, rate, false);
        return unit ? std::move(unit.value()) : nullptr;
    }
    /// The plug-in's own window within the one with this title, once it is there; 0 when none comes.
    unsigned long shown(const std::string& title) {
        unsigned long inner = 0;
        (void)QTest::qWaitFor(
            [&] {
                const unsigned long frame = m_screen.titled(title);
                inner = frame ? m_screen.within(frame) : 0;
                return inner != 0;
            },
            scaled(10000));
        return inner;
    }
    /// What was turned in the window, once something was.
    static WindowNews nextTurn(PluginUnit& unit) {
        WindowNews news;
        (void)QTest::qWaitFor(
            [&] {
                news = unit.windowNews();
                return !news.turned.empty();
            },
            scaled(5000));
        return news;
    }
    static float loudest(PluginUnit& unit) {
        std::array<float, maxFrames> left{}, right{};
        unit.event(0x90, 60, 100);
        unit.run(left.data(), right.data(), maxFrames);
        return *std::max_element(left.begin(), left.end());
    }

    XScreen m_screen;
    std::shared_ptr<PluginHost> m_host;
};

void TestPluginWindow::isAsLargeAsWhatLiesInIt() {
    const auto unit = loaded();
    QVERIFY(unit && unit->showWindow("Hörn – test").ok());
    QVERIFY(shown("Hörn – test") != 0);
    QTRY_COMPARE_WITH_TIMEOUT(m_screen.widthOf(m_screen.titled("Hörn – test")), 200, scaled(5000));
    QVERIFY(unit->windowNews().open);
}

void TestPluginWindow::whatIsTurnedThereSoundsAndIsTold() {
    const auto unit = loaded();
    QVERIFY(unit && unit->showWindow("turned").ok());
    QVERIFY(loudest(*unit) > 0.49F && loudest(*unit) < 0.51F);
    m_screen.press(shown("turned"), 1, 150);
    const WindowNews news = nextTurn(*unit);
    QCOMPARE(news.turned.size(), std::size_t{1});
    QCOMPARE(news.turned[0].first, std::string("level"));
    QCOMPARE(news.turned[0].second, 0.75F);
    QVERIFY(!news.changed);
    QVERIFY(loudest(*unit) > 0.74F && loudest(*unit) < 0.76F);
    QVERIFY(unit->windowNews().turned.empty()); // told once
}

void TestPluginWindow::itIsToldWhatIsTurnedHere() {
    const auto unit = loaded();
    QVERIFY(unit && unit->showWindow("told").ok());
    const unsigned long window = shown("told");
    QTRY_COMPARE_WITH_TIMEOUT(m_screen.titleOf(window), std::string("level 50"), scaled(5000));
    unit->setControl("level", 0.25F); // nothing plays meanwhile
    QTRY_COMPARE_WITH_TIMEOUT(m_screen.titleOf(window), std::string("level 25"), scaled(5000));
    QVERIFY(unit->windowNews().turned.empty()); // it was not turned there
}

/// A plan that is made meanwhile sets the values that the song had.
void TestPluginWindow::whatIsTurnedThereIsNotTurnedBack() {
    const auto unit = loaded();
    PluginSettings before;
    before.controls = {{"level", 0.25F}};
    QVERIFY(unit && unit->showWindow("kept").ok());
    unit->setControls(before);
    const unsigned long window = shown("kept");
    QTRY_COMPARE_WITH_TIMEOUT(m_screen.titleOf(window), std::string("level 25"), scaled(5000));
    m_screen.press(window, 1, 180);
    QTRY_VERIFY_WITH_TIMEOUT(loudest(*unit) > 0.89F, scaled(5000));
    unit->setControls(before);
    QVERIFY(loudest(*unit) > 0.89F);
    QCOMPARE(nextTurn(*unit).turned.at(0).second, 0.9F);
    unit->setControls(before); // now it is another than the one that is known
    QVERIFY(loudest(*unit) < 0.26F);
}

void TestPluginWindow::aFileThatItGivesIsKept() {
    const auto unit = loaded();
    QVERIFY(unit && unit->showWindow("filed").ok());
    m_screen.press(shown("filed"), 2, 10);
    QVERIFY(QTest::qWaitFor([&] { return unit->windowNews().changed; }, scaled(5000)));
    const PluginSettings kept = unit->settings();
    QCOMPARE(kept.files.at(windowed + "#file"), std::string("/srv/boat-bell.wav"));
    QVERIFY(kept.state.find("boat-bell.wav") != std::string::npos);
}

void TestPluginWindow::closedItCanBeOpenedAgain() {
    const auto unit = loaded();
    QVERIFY(unit && unit->showWindow("closed").ok());
    QVERIFY(shown("closed") != 0);
    QVERIFY(unit->showWindow("closed").ok()); // in front
    m_screen.close(m_screen.titled("closed"));
    QTRY_VERIFY_WITH_TIMEOUT(!unit->windowNews().open, scaled(5000));
    QTRY_COMPARE_WITH_TIMEOUT(m_screen.titled("closed"), 0UL, scaled(5000));
    QVERIFY(loudest(*unit) > 0.49F);
    QVERIFY(unit->showWindow("closed").ok());
    QVERIFY(shown("closed") != 0);
    unit->closeWindow();
    QTRY_COMPARE_WITH_TIMEOUT(m_screen.titled("closed"), 0UL, scaled(5000));
}

void TestPluginWindow::keysThatItDoesNotTakeAreTold() {
    const auto unit = loaded();
    QVERIFY(unit && unit->showWindow("keys").ok() && shown("keys") != 0);
    const auto pressed = [&](unsigned long key, bool control) {
        m_screen.type(m_screen.titled("keys"), key, control);
        WindowNews news;
        (void)QTest::qWaitFor([&] { return !(news = unit->windowNews()).keys.empty(); }, scaled(5000));
        return news.keys;
    };
    QVERIFY(pressed(space, false) == std::vector{WindowKey::Play});
    QVERIFY(pressed(letterZ, true) == std::vector{WindowKey::Undo});
}

void TestPluginWindow::onesThatHaveNoneSaySo() {
    const PluginWorld world(std::filesystem::path(SHIPPED_PLUGINS));
    QVERIFY(world.window(windowed));
    QVERIFY(world.window(windowed)->fixedSize);
    const std::string reed = "https://cobbleway.example/plugins#quayreed";
    QVERIFY(!world.window(reed));
    PluginHost host(PLUGIN_HELPER, SHIPPED_PLUGINS, {});
    const auto unit = host.load(reed, {}, rate, false);
    QVERIFY(unit.ok());
    const auto none = unit.value()->showWindow("none");
    QVERIFY(!none && none.error().message().find("no window that can be shown") != std::string::npos);
}

void TestPluginWindow::withoutADisplayThatIsSaid() {
    const QByteArray display = qgetenv("DISPLAY");
    qputenv("DISPLAY", ":99987");
    const auto unit = loaded(); // its helper starts here
    qputenv("DISPLAY", display);
    const auto none = unit->showWindow("nowhere");
    QVERIFY(!none && none.error().message().find("display") != std::string::npos);
    QVERIFY(loudest(*unit) > 0.49F);
}

void TestPluginWindow::aCrashInItEndsThePluginAlone() {
    const auto unit = loaded(), other = loaded();
    QVERIFY(unit && other && unit->showWindow("crashes").ok());
    m_screen.press(shown("crashes"), 3, 10);
    QTRY_VERIFY_WITH_TIMEOUT(!unit->windowNews().open, scaled(5000));
    QTRY_VERIFY_WITH_TIMEOUT(((void)loudest(*unit), unit->fault() == PluginFault::Ended), scaled(5000));
    QVERIFY(loudest(*other) > 0.49F);
    QVERIFY(!unit->showWindow("crashes"));
}

namespace {

/// The demo song with the plug-in on its first part, ready to be played.
bool plays(Driver& m) {
    m.session().sounds.setCatalogue(scanFonts({HOUSE_FONT, {}, {}}, houseFontId)
                                        .withPlugins({{windowed, "Test windowed", "", true}}, {}));
    if (!m.openDemo("lantern_quay.mid")) return false;
    m.session().current.edit(QStringLiteral("Sound"), [](const Song& song) {
        return edits::chooseSound(song, 1, {windowed, 0, 0, "Test windowed", SoundKind::Plugin, 0});
    });
    m.session().current.selectPart(1);
    return QTest::qWaitFor(
        [&] {
            return m.session().planner.pluginAt({1, -1, -1}) != nullptr;
        },
        scaled(10000));
}

float levelOf(Driver& m) {
    const auto& controls = m.song().part(1)->sound.settings.controls;
    const auto at = controls.find("level");
    return at == controls.end() ? 0.5F : at->second;
}

} // namespace

/// By its button in Layers and controls; kept in the song, also a file, and without loading the plug-in anew.
void TestPluginWindow::inTheSongItIsAStepToUndo() {
    Driver m;
    QVERIFY(m.ok() && plays(m));
    QDialog* dialog = m.dialogOf("layers");
    QVERIFY(dialog);
    auto* own = dialog->findChild<QPushButton*>(QStringLiteral("ownWindow"));
    QTRY_VERIFY_WITH_TIMEOUT(own->isVisible(), scaled(10000));
    own->click();
    const std::string title = m.song().part(1)->name + " – Test windowed";
    const unsigned long window = shown(title);
    QVERIFY(window != 0);
    const auto unit = m.session().planner.pluginAt({1, -1, -1});
    m_screen.press(window, 1, 40);
    QTRY_COMPARE_WITH_TIMEOUT(levelOf(m), 0.2F, scaled(5000));
    m_screen.press(window, 2, 10);
    const auto& files = [&]() -> const auto& { return m.song().part(1)->sound.settings.files; };
    QTRY_COMPARE_WITH_TIMEOUT(files().size(), std::size_t{1}, scaled(10000));
    QTRY_VERIFY_WITH_TIMEOUT(m.session().planner.isPlanned(), scaled(5000));
    QTest::qWait(300); // a plan is made of it
    QCOMPARE(m.session().planner.pluginAt({1, -1, -1}), unit);
    QVERIFY(m_screen.titled(title) != 0);
    m_screen.type(m_screen.titled(title), letterZ, true);
    QTRY_VERIFY_WITH_TIMEOUT(files().empty(), scaled(5000));
    QCOMPARE(levelOf(m), 0.2F);
    m.act("undo");
    QCOMPARE(levelOf(m), 0.5F);
}

void TestPluginWindow::itGoesWithItsSong() {
    Driver m;
    QVERIFY(m.ok() && plays(m));
    m.session().windows.open({1, -1, -1}, QStringLiteral("goes"));
    QVERIFY(shown("goes") != 0);
    QVERIFY(m.openDemo("TIDEMILL.MID"));
    QTRY_COMPARE_WITH_TIMEOUT(m_screen.titled("goes"), 0UL, scaled(10000));
}

/// Our own panel, for those that have no window (LV2 port groups).
void TestPluginWindow::manyControlsAreInGroupsAndFound() {
    Driver m;
    QVERIFY(m.ok());
    PluginControls panel(m.session());
    QSignalSpy filled(&panel, &PluginControls::filled);
    panel.show(QStringLiteral("urn:cobbleway:test:panel"), {});
    panel.QWidget::show();
    QTRY_COMPARE_WITH_TIMEOUT(filled.size(), 1, scaled(10000));
    const auto shown = [&] {
        QStringList texts;
        auto* form = panel.findChild<QFormLayout*>();
        for (int row = 0; row < form->rowCount(); ++row) {
            const QLayoutItem* item = form->itemAt(row, QFormLayout::LabelRole);
            if (!item) item = form->itemAt(row, QFormLayout::SpanningRole);
            if (form->isRowVisible(row)) texts << qobject_cast<QLabel*>(item->widget())->text();
        }
        return texts;
    };
    const QStringList all = shown();
    QCOMPARE(all.size(), 23);
    QCOMPARE(all.mid(0, 4), QStringList({QStringLiteral("Force 0"), QStringLiteral("Wind"),
                                         QStringLiteral("Force 1"), QStringLiteral("Force 3")}));
    QCOMPARE(all[12], QStringLiteral("Sea"));
    auto* find = panel.findChild<QLineEdit*>(QStringLiteral("findControl"));
    QVERIFY(find->isVisible());
    find->setText(QStringLiteral("sea 1"));
    QCOMPARE(shown(), QStringList({QStringLiteral("Sea"), QStringLiteral("Force 10"),
                                   QStringLiteral("Force 12"), QStringLiteral("Force 14"),
                                   QStringLiteral("Force 16"), QStringLiteral("Force 18")}));
    find->setText(QStringLiteral("moon"));
    QVERIFY(shown().isEmpty());
    find->clear();
    QCOMPARE(shown(), all);
    // One with few controls has nothing to find.
    panel.show(QString::fromStdString(windowed), {});
    QTRY_COMPARE_WITH_TIMEOUT(filled.size(), 2, scaled(10000));
    QVERIFY(!find->isVisible());
}

QTEST_MAIN(TestPluginWindow)
#include "tst_pluginwindow.moc"
