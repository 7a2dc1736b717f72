/// The Sounds page through the real window: fonts while it plays, sounds tried and kept, layers, plug-ins,
/// levels.
#include "app/drive.h"
#include "sound/render.h"

#include "app/dialogs/fontsdialog.h"
#include "app/dialogs/pluginchooser.h"
#include "app/pages/exportpage.h"
#include "app/pages/shelf.h"
#include "app/pages/soundspage.h"
#include "app/session/playalong.h"
#include "app/session/settings.h"
#include "app/widgets/meter.h"
#include "app/widgets/snagdrawer.h"
#include "files/pluginscan.h"
#include "song/model/levels.h"
#include "song/shape/edits.h"

#include <QAbstractItemModelTester>
#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QMessageBox>
#include <QMimeData>
#include <QSlider>
#include <QTemporaryDir>
#include <QToolButton>

using namespace support;

namespace {

const std::string reed = "https://cobbleway.example/plugins#quayreed";

} // namespace

class TestSoundsWindow : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void initTestCase() {
        qputenv("COBBLEWAY_LV2_PATH", "/no/plug-ins"); // but for those that ship
        qputenv("COBBLEWAY_PLUGIN_HELPER", PLUGIN_HELPER);
        prepareApplication();
    }
    void init() {
        settings::setFavouriteSounds({});
        settings::setFontOrder({});
        m = std::make_unique<Driver>();
        QVERIFY(m->ok());
        m->session().sounds.setCatalogue(
            scanFonts({HOUSE_FONT, {}, {TEST_FONT}}, houseFontId).withPorts(midiOutputs()));
        m_test = m->session().sounds.catalogue().fonts()[1]->id;
        QVERIFY(m->openDemo("lantern_quay.mid"));
        m->window().showPage(Step::Sounds);
        QTRY_VERIFY(m->session().planner.isPlanned());
    }
    void cleanup() { m.reset(); }

    void aTriedSoundIsHeardWhileTheSongStands();
    void theFirstFontChangesWhilePlaying();
    void setAndSongHaveOrdersOfTheirOwn();
    void aSoundIsTriedAndKeptOrDropped();
    void severalPartsAtOnce();
    void aSoundIsDraggedOntoAPart();
    void tryingAlone();
    void twoFontsAreCompared();
    void theStandInIsFixed();
    void aLayerIsAddedAndSet();
    void aSoundForASection();
    void anLv2InstrumentIsChosenAndSet();
    void anOutsideInstrumentIsChosenAndSet();
    void effectsOnAPartAndTheMix();
    void aPluginIsChosenByEar();
    void theShelfIsSearched();
    void favouritesAndRecent();
    void whatFitsIsListedWithReasons();
    void levelsMuteAndSolo();
    void theMixIsBroughtToLevel();
    void notesAreFittedToTheSound();
    void lettersPlayAlong();
    void foldersAreWatched();
    void aFontThatCannotBePlayedIsStoodInFor();
    void whatIsSilentInAFileIsTold();
    void rowsTellTheirMatch();
    void aDroppedFontIsUsedAtOnce();
    void everythingIsUndone();

  private:
    SoundRef soundOf(const char* part) {
        for (const Part& p : m->song().parts)
            if (p.name == part) return *m->session().findings.matchOf(p.id)->first().sound;
        return {};
    }
    static void addEffect(QDialog* dialog, const char* name);
    Shelf* shelf() { return m->window().soundsPage()->shelf(); }
    void search(const QString& text) {
        shelf()->search()->setFocus();
        shelf()->search()->setText(text);
    }
    bool waitForPlan() {
        QSignalSpy ready(&m->session().planner, &Planner::planReady);
        return QTest::qWaitFor([&] { return !ready.isEmpty(); }, scaled(10000));
    }
    bool findPlugins() {
        m->session().sounds.rescanPlugins();
        return QTest::qWaitFor([&] { return m->session().sounds.catalogue().plugins().size() == 3; },
                               scaled(30000));
    }
    std::unique_ptr<Driver> m;
    std::string m_test;
};

/// Dropped on the window, a soundfont plays the song, all songs, or is kept for later.
void TestSoundsWindow::aDroppedFontIsUsedAtOnce() {
    QTemporaryDir folder;
    const QString file = folder.filePath(QStringLiteral("Boat shed.SF2"));
    QVERIFY(QFile::copy(QStringLiteral(TEST_FONT), file));
    Sounds& sounds = m->session().sounds;
    const Catalogue before = sounds.catalogue();
    const auto answer = [&](const QString& text) {
        QMimeData data;
        data.setUrls({QUrl::fromLocalFile(file)});
        QDragEnterEvent enter(QPoint(300, 300), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(&m->window(), &enter);
        QDropEvent drop(QPointF(300, 300), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(&m->window(), &drop);
        auto* box = m->window().findChild<QMessageBox*>();
        if (!box || !box->text().contains(QStringLiteral("Boat shed.SF2"))) return false;
        for (QAbstractButton* button : box->buttons())
            if (button->text() == text) {
                button->click();
                return QTest::qWaitFor([&] { return !m->window().findChild<QMessageBox*>(); }, scaled(5000));
            }
        return false;
    };
    const auto first = [&](Sounds::Scope scope) { return sounds.fontOrder(scope).value(0); };
    const auto songs = m->session().current.set().songs.size();
    QVERIFY(answer(QStringLiteral("This song")));
    QTRY_COMPARE_WITH_TIMEOUT(first(Sounds::Scope::Song), file, scaled(10000));
    QVERIFY(first(Sounds::Scope::Mine) != file);
    QCOMPARE(m->session().current.set().songs.size(), songs); // it is no song
    m->session().current.undo();
    QVERIFY(first(Sounds::Scope::Song) != file);
    QVERIFY(answer(QStringLiteral("All songs")));
    QTRY_COMPARE_WITH_TIMEOUT(first(Sounds::Scope::Mine), file, scaled(10000));
    QCOMPARE(sounds.fontFolders(), QStringList{file}); // once
    sounds.setFontOrder(Sounds::Scope::Mine, {});
    sounds.removeFontFolder(file);
    QTRY_VERIFY(!sounds.catalogue().font(file.toStdString()));
    QVERIFY(answer(QStringLiteral("Nothing yet")));
    QTRY_VERIFY(sounds.catalogue().font(file.toStdString()));
    QVERIFY(first(Sounds::Scope::Mine) != file && first(Sounds::Scope::Song) != file);
    sounds.removeFontFolder(file);
    sounds.setCatalogue(before);
}

/// With the song at rest a sound that is tried plays what the part plays first after this place, and then is
/// silent.
void TestSoundsWindow::aTriedSoundIsHeardWhileTheSongStands() {
    m->select("Lead cornet");
    const PartId part = m->session().current.selectedPart();
    QVERIFY(!m->session().transport.isPlaying());
    const auto sounds = [&] { return m->session().meters.part(part) > 0.001; };
    m->session().sounds.trySound({houseFontId, 0, 73, "Flute"});
    QTRY_VERIFY_WITH_TIMEOUT(sounds(), scaled(10000));
    QVERIFY(!m->session().transport.isPlaying());
    QCOMPARE(m->session().transport.place(), Tick{0});
    QTRY_VERIFY_WITH_TIMEOUT((QTest::qWait(300), !sounds()), scaled(10000)); // three seconds, and its tail
    // Another sound begins anew; dropped, it ends.
    m->session().sounds.trySound({houseFontId, 0, 71, "Clarinet"});
    QTRY_VERIFY_WITH_TIMEOUT(sounds(), scaled(10000));
    m->session().sounds.dropTried();
    QTRY_VERIFY_WITH_TIMEOUT((QTest::qWait(300), !sounds()), scaled(2500));
    // Kept at once, nothing is played; nor beside the song.
    m->session().sounds.trySound({houseFontId, 0, 73, "Flute"});
    m->session().sounds.keepTried();
    QVERIFY(waitForPlan());
    QTest::qWait(200);
    QVERIFY(!sounds());
    m->act("undo");
}

void TestSoundsWindow::theFirstFontChangesWhilePlaying() {
    m->select("Guitar");
    m->session().current.edit(QStringLiteral("By hand"), [&](const Song& s) {
        return edits::chooseSound(s, m->session().current.selectedPart(),
                                  {houseFontId, 0, 32, "Acoustic Bass"});
    });
    m->act("play");
    QTRY_VERIFY(m->session().transport.isPlaying());
    QDialog* dialog = m->dialogOf("fonts");
    QVERIFY(dialog);
    auto* list = dialog->findChild<QListWidget*>(QStringLiteral("fontList"));
    QCOMPARE(list->count(), 2);
    list->setCurrentRow(1);
    QVERIFY(Driver::click(dialog, QStringLiteral("Use first")));
    QCOMPARE(soundOf("Lead cornet").font, m_test);
    QCOMPARE(soundOf("Guitar").font, std::string(houseFontId)); // chosen by hand
    QVERIFY(waitForPlan());
    QVERIFY(m->session().transport.isPlaying());
    // What the first lacks the next plays: the test font has no program 10.
    QCOMPARE(soundOf("Glass bells").font, std::string(houseFontId));
    QCOMPARE(list->count(), 2);
    QVERIFY2(list->item(0)->text().contains(QStringLiteral("used first")), qPrintable(list->item(0)->text()));
    dialog->reject();
    m->act("play");
}

void TestSoundsWindow::setAndSongHaveOrdersOfTheirOwn() {
    Session& session = m->session();
    QDialog* dialog = m->dialogOf("fonts");
    QVERIFY(dialog);
    auto* scope = dialog->findChild<QComboBox*>(QStringLiteral("fontScope"));
    auto* list = dialog->findChild<QListWidget*>(QStringLiteral("fontList"));
    const auto serveFirst = [&](int of, const QString& name) {
        scope->setCurrentIndex(of);
        Q_EMIT scope->activated(of);
        for (int i = 0; i < list->count(); ++i)
            if (list->item(i)->text().startsWith(name)) list->setCurrentRow(i);
        return Driver::click(dialog, QStringLiteral("Use first"));
    };
    const QString test = QString::fromStdString(session.sounds.catalogue().font(m_test)->name);
    QVERIFY(serveFirst(1, test)); // in this set
    QCOMPARE(soundOf("Lead cornet").font, m_test);
    QVERIFY(serveFirst(2, QStringLiteral("House"))); // in this song
    QCOMPARE(soundOf("Lead cornet").font, std::string(houseFontId));
    QCOMPARE(session.sounds.fontOrder(Sounds::Scope::Set).size(), 1);
    QVERIFY(Driver::click(dialog, QStringLiteral("Use the usual order")));
    QCOMPARE(soundOf("Lead cornet").font, m_test);
    dialog->reject();
    m->act("undo");
    m->act("undo");
    m->act("undo"); // the set's too: it is a change like any other
    QCOMPARE(soundOf("Lead cornet").font, std::string(houseFontId));
}

void TestSoundsWindow::aSoundIsTriedAndKeptOrDropped() {
    m->select("Lead cornet");
    search(QStringLiteral("flute"));
    QTest::keyClick(shelf()->search(), Qt::Key_Down); // into the list: the sound is tried
    QVERIFY(m->session().sounds.isTrying());
    QCOMPARE(soundOf("Lead cornet").program, 56); // not kept yet
    QVERIFY(waitForPlan());
    QTest::keyClick(shelf()->list(), Qt::Key_Down);
    QTest::keyClick(shelf()->list(), Qt::Key_Escape);
    QVERIFY(!m->session().sounds.isTrying());
    QCOMPARE(soundOf("Lead cornet").program, 56);
    search(QStringLiteral("Querflöte"));
    QTest::keyClick(shelf()->search(), Qt::Key_Down);
    const SoundRef tried = *shelf()->current();
    QTest::keyClick(shelf()->list(), Qt::Key_Return);
    QVERIFY(!m->session().sounds.isTrying());
    QCOMPARE(soundOf("Lead cornet").program, 73);
    QVERIFY(soundOf("Lead cornet") == tried);
    m->act("undo");
    QCOMPARE(soundOf("Lead cornet").program, 56);
}

void TestSoundsWindow::severalPartsAtOnce() {
    QListView* rows = m->window().soundsPage()->rows();
    rows->setFocus();
    rows->setCurrentIndex(rows->model()->index(0, 0));
    QTest::keyClick(rows, Qt::Key_Down, Qt::ShiftModifier);
    QCOMPARE(m->window().soundsPage()->selectedParts().size(), std::size_t{2});
    search(QStringLiteral("0:73"));
    QTest::keyClick(shelf()->search(), Qt::Key_Down);
    QVERIFY(Driver::click(shelf(), QStringLiteral("Use for 2 parts")));
    QCOMPARE(soundOf("Lead cornet").program, 73);
    QCOMPARE(soundOf("Second cornet").program, 73);
    QCOMPARE(soundOf("Clarinets").program, 71);
    m->act("undo"); // one step
    QCOMPARE(soundOf("Lead cornet").program, 56);
    QCOMPARE(soundOf("Second cornet").program, 56);
}

void TestSoundsWindow::aSoundIsDraggedOntoAPart() {
    search(QStringLiteral("harmonica"));
    auto* model = qobject_cast<ShelfModel*>(shelf()->list()->model());
    QAbstractItemModelTester tester(model);
    QVERIFY(model->rowCount() > 0);
    QVERIFY(model->flags(model->index(0)) & Qt::ItemIsDragEnabled);
    std::unique_ptr<QMimeData> data(model->mimeData({model->index(0)}));
    QListView* rows = m->window().soundsPage()->rows();
    const QPoint onto = rows->visualRect(rows->model()->index(2, 0)).center();
    QDragEnterEvent enter(onto, Qt::CopyAction, data.get(), Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(rows->viewport(), &enter);
    QVERIFY(enter.isAccepted());
    QDropEvent drop(onto, Qt::CopyAction, data.get(), Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(rows->viewport(), &drop);
    QCOMPARE(soundOf("Clarinets").program, 22);
    QCOMPARE(m->session().current.part()->name, std::string("Clarinets"));
}

void TestSoundsWindow::tryingAlone() {
    m->select("Tuba");
    QTest::mouseClick(shelf()->findChild<QCheckBox*>(QStringLiteral("tryAlone")), Qt::LeftButton, {}, {8, 8});
    QVERIFY(m->session().sounds.triesAlone());
    search(QStringLiteral("0:57"));
    QTest::keyClick(shelf()->search(), Qt::Key_Down);
    const Song& heard = m->session().sounds.heardSong();
    for (const Part& part : heard.parts) QCOMPARE(mixGain(heard, part) > 0, part.name == "Tuba");
    QTest::keyClick(shelf()->list(), Qt::Key_Escape);
    for (const Part& part : m->session().sounds.heardSong().parts)
        QVERIFY(mixGain(m->session().sounds.heardSong(), part) > 0);
}

void TestSoundsWindow::twoFontsAreCompared() {
    m->select("Guitar");
    m->act("play");
    QTest::keyClick(&m->window(), Qt::Key_F7);
    QVERIFY(m->session().sounds.comparedFont());
    QCOMPARE(m->session().sounds.comparedFont()->id, m_test);
    const auto heard = matchSong(m->session().sounds.heardSong(), m->session().sounds.catalogue());
    QCOMPARE(heard[0].first().sound->font, m_test);
    QCOMPARE(soundOf("Lead cornet").font, std::string(houseFontId)); // nothing is changed
    QVERIFY(!m->session().current.canUndo() ||
            m->session().current.undoName().contains(QStringLiteral("Add")));
    QTest::keyClick(&m->window(), Qt::Key_F7);
    QVERIFY(!m->session().sounds.comparedFont());
    QVERIFY(m->session().transport.isPlaying());
    m->act("play");
}

void TestSoundsWindow::theStandInIsFixed() {
    m->session().sounds.setCatalogue(fontsAt(TEST_FONT)); // without program 10
    QCOMPARE(m->session().findings.matchOf(9)->first().how, How::StandIn);
    m->act("snags");
    auto* drawer = m->window().findChild<SnagDrawer*>();
    QVERIFY(drawer->isVisible());
    const QString keep = QStringLiteral("Keep ") + QString::fromStdString(soundOf("Glass bells").name);
    QVERIFY(Driver::click(drawer, keep));
    QCOMPARE(m->session().findings.matchOf(9)->first().how, How::ByHand);
}

void TestSoundsWindow::aLayerIsAddedAndSet() {
    m->select("Harbour strings");
    search(QStringLiteral("0:52"));
    QTest::keyClick(shelf()->search(), Qt::Key_Down);
    QTest::keyClick(shelf()->list(), Qt::Key_Return, Qt::ControlModifier);
    m->act("addLayer");
    QVERIFY(!m->session().current.part()->sound.layers.empty());
    QDialog* dialog = m->dialogOf("layers");
    QVERIFY(dialog);
    auto* list = dialog->findChild<QListWidget*>(QStringLiteral("layers"));
    list->setCurrentRow(1);
    dialog->findChild<QDoubleSpinBox*>(QStringLiteral("layerLevel"))->setValue(-8);
    dialog->findChild<QSpinBox*>(QStringLiteral("layerOctaves"))->setValue(-1);
    dialog->findChild<QSpinBox*>(QStringLiteral("layerLowest"))->setValue(55);
    const Layer& layer = m->session().current.part()->sound.layers[0];
    QCOMPARE(layer.levelDb, -8.0);
    QCOMPARE(layer.octaves, -1);
    QCOMPARE(layer.keys.lowest, 55);
    QCOMPARE(layer.sound.program, 52);
    const auto count = m->session().current.part()->sound.layers.size();
    QVERIFY(Driver::click(dialog, QStringLiteral("Remove")));
    QCOMPARE(m->session().current.part()->sound.layers.size(), count - 1);
    dialog->reject();
}

void TestSoundsWindow::aSoundForASection() {
    m->select("Lead cornet");
    const Section section = m->song().sections[2];
    m->session().transport.seek(section.start + 10);
    QTRY_VERIFY(m->session().transport.place() >= section.start);
    search(QStringLiteral("0:59"));
    QTest::keyClick(shelf()->search(), Qt::Key_Down);
    m->act("useInSection");
    QCOMPARE(m->session().current.part()->sound.stretches.size(), std::size_t{1});
    QCOMPARE(m->session().current.part()->sound.stretches[0].start, section.start);
    QCOMPARE(m->session().current.part()->sound.stretches[0].end, section.end);
    QCOMPARE(soundOf("Lead cornet").program, 56); // elsewhere as before
    m->act("clearStretches");
    QVERIFY(m->session().current.part()->sound.stretches.empty());
}

void TestSoundsWindow::anLv2InstrumentIsChosenAndSet() {
    QVERIFY(findPlugins());
    m->select("Accordion right");
    search(QStringLiteral("quay reed"));
    QTest::keyClick(shelf()->search(), Qt::Key_Down);
    QTest::keyClick(shelf()->list(), Qt::Key_Return);
    QCOMPARE(soundOf("Accordion right").font, reed);
    QCOMPARE(m->session().findings.matchOf(m->session().current.selectedPart())->first().how, How::ByHand);
    QVERIFY(waitForPlan());
    QDialog* dialog = m->dialogOf("layers");
    QVERIFY(dialog);
    QSlider* brightness = nullptr;
    QTRY_VERIFY((brightness = dialog->findChild<QSlider*>(QStringLiteral("control:brightness"))));
    brightness->setFocus();
    QTest::keyClick(brightness, Qt::Key_Home);
    QTRY_COMPARE(m->session().current.part()->sound.settings.controls.at("brightness"), 0.0F);
    auto* presets = dialog->findChild<QComboBox*>(QStringLiteral("pluginPreset"));
    QCOMPARE(presets->count(), 4);
    presets->setCurrentIndex(presets->findText(QStringLiteral("Dusk")));
    Q_EMIT presets->activated(presets->currentIndex());
    QTRY_COMPARE(m->session().current.part()->sound.settings.controls.at("brightness"), 0.35F);
    QVERIFY(!m->session().current.part()->sound.settings.state.empty());
    dialog->reject();
    // Saved and opened again, it is the same.
    QTemporaryDir folder;
    const QString path = folder.filePath(QStringLiteral("set.cobbleway"));
    const Part before = *m->session().current.part();
    QVERIFY(support::save(m->session(), path));
    QVERIFY(support::open(m->session(), path));
    QVERIFY(*m->song().part(before.id) == before);
}

void TestSoundsWindow::anOutsideInstrumentIsChosenAndSet() {
    m->select("Clarinets");
    search(QStringLiteral("stand-in channel 3"));
    QTest::keyClick(shelf()->search(), Qt::Key_Down);
    QTest::keyClick(shelf()->list(), Qt::Key_Return);
    const auto chosen = [&]() -> const SoundRef& { return *m->session().current.part()->sound.chosen; };
    QCOMPARE(chosen().kind, SoundKind::Port);
    QCOMPARE(chosen().channel, 2);
    QCOMPARE(chosen().program, 71); // what the part asks for is told to it
    QVERIFY(waitForPlan());
    QDialog* dialog = m->dialogOf("layers");
    QVERIFY(dialog);
    dialog->findChild<QSpinBox*>(QStringLiteral("portChannel"))->setValue(5);
    dialog->findChild<QSpinBox*>(QStringLiteral("portBank"))->setValue(8);
    dialog->findChild<QSpinBox*>(QStringLiteral("portProgram"))->setValue(74);
    QCOMPARE(chosen().channel, 4);
    QCOMPARE(chosen().bank, 8);
    QCOMPARE(chosen().program, 73);
    dialog->reject();
}

/// In the chooser, by keys alone.
void TestSoundsWindow::addEffect(QDialog* dialog, const char* name) {
    QVERIFY(Driver::click(dialog, QStringLiteral("&Add an effect…")));
    auto* chooser = dialog->findChild<PluginChooser*>();
    QVERIFY(chooser);
    auto* search = chooser->findChild<QLineEdit*>(QStringLiteral("pluginSearch"));
    QTest::keyClicks(search, QString::fromUtf8(name));
    QTest::keyClick(search, Qt::Key_Return);
    QTRY_VERIFY(!dialog->findChild<PluginChooser*>());
}

void TestSoundsWindow::aPluginIsChosenByEar() {
    QVERIFY(findPlugins());
    m->select("Clarinets");
    const Song before = m->song();
    QDialog* effects = m->dialogOf("effects");
    QVERIFY(effects && Driver::click(effects, QStringLiteral("&Add an effect…")));
    auto* chooser = effects->findChild<PluginChooser*>();
    QVERIFY(
        chooser->findChild<QLabel*>(QStringLiteral("heading"))->text().endsWith(QStringLiteral("Clarinets")));
    auto* list = chooser->findChild<QListView*>(QStringLiteral("pluginList"));
    auto* groups = chooser->findChild<QListWidget*>(QStringLiteral("pluginGroups"));
    auto* hear = chooser->findChild<QPushButton*>(QStringLiteral("hearPlugin"));
    const auto heard = [&]() -> const std::vector<Effect>& {
        const Part* part = m->session().sounds.heardSong().part(m->session().current.selectedPart());
        return part->mix.effects;
    };
    // Of each kind that there is one is suggested: the two that ship.
    QCOMPARE(groups->currentItem()->text(), QStringLiteral("Suggested"));
    QCOMPARE(list->model()->rowCount(), 2);
    QCOMPARE(list->currentIndex().data().toString(), QStringLiteral("Evener"));
    // Heard, in the song, which begins to play; another one at once when it is chosen; nothing is kept.
    QVERIFY(heard().empty());
    hear->toggle();
    QVERIFY(m->session().transport.isPlaying());
    QCOMPARE(heard().at(0).name, std::string("Evener"));
    QTest::keyClick(list, Qt::Key_Down);
    QCOMPARE(heard().at(0).name, std::string("Tilt"));
    QSlider* high = nullptr;
    QTRY_VERIFY((high = chooser->findChild<QSlider*>(QStringLiteral("control:high"))));
    high->setValue(high->maximum());
    QTRY_VERIFY(heard().at(0).settings.controls.contains("high"));
    QVERIFY(!chooser->findChild<QPushButton*>(QStringLiteral("ownWindow"))->isVisible());
    hear->toggle();
    QVERIFY(heard().empty() && !m->session().transport.isPlaying());
    QVERIFY(m->song() == before);
    // Words are looked for among all; a kind without any says so.
    auto* search = chooser->findChild<QLineEdit*>(QStringLiteral("pluginSearch"));
    QTest::keyClicks(search, QStringLiteral("equal"));
    QCOMPARE(list->model()->rowCount(), 1); // by its kind
    QCOMPARE(list->currentIndex().data().toString(), QStringLiteral("Tilt"));
    QTest::keyClicks(search, QStringLiteral("xyz"));
    QCOMPARE(list->model()->rowCount(), 0);
    auto* take = chooser->findChild<QPushButton*>(QStringLiteral("take"));
    QVERIFY(!take->isEnabled() && !hear->isEnabled());
    search->clear();
    // A favourite is kept for the next time, and for the next song.
    list->setCurrentIndex(list->model()->index(1, 0));
    const QString kept = list->currentIndex().data().toString();
    chooser->findChild<QCheckBox*>(QStringLiteral("favouritePlugin"))->toggle();
    groups->setCurrentRow(1);
    QCOMPARE(groups->currentItem()->text(), QStringLiteral("Favourites"));
    QCOMPARE(list->model()->rowCount(), 1);
    QCOMPARE(list->currentIndex().data().toString(), kept);
    QVERIFY(
        list->currentIndex().data(Qt::AccessibleTextRole).toString().contains(QStringLiteral("favourite")));
    // Closed while it is heard, it is heard no more.
    hear->toggle();
    QTest::keyClick(chooser, Qt::Key_Escape);
    QTRY_VERIFY(!effects->findChild<PluginChooser*>());
    QVERIFY(heard().empty() && !m->session().transport.isPlaying());
    QVERIFY(m->song() == before);
    effects->reject();
    // An instrument, with a control that was set before it was taken: one step.
    auto* instruments = qobject_cast<PluginChooser*>(m->dialogOf("instrument"));
    QVERIFY(instruments);
    QSlider* brightness = nullptr;
    QTRY_VERIFY((brightness = instruments->findChild<QSlider*>(QStringLiteral("control:brightness"))));
    brightness->setValue(brightness->maximum());
    QTest::keyClick(instruments, Qt::Key_Return);
    const Part& part = *m->session().current.part();
    QTRY_VERIFY(part.sound.chosen && part.sound.chosen->name == "Quay reed");
    QVERIFY(part.sound.settings.controls.contains("brightness"));
    m->session().current.undo();
    QVERIFY(m->song() == before);
}

void TestSoundsWindow::effectsOnAPartAndTheMix() {
    QVERIFY(findPlugins());
    m->select("Drums");
    for (const char* action : {"effects", "mixEffects"}) {
        QDialog* dialog = m->dialogOf(action);
        QVERIFY(dialog);
        for (const char* wanted : {"Evener", "Tilt"}) addEffect(dialog, wanted);
        const auto effects = [&]() -> const std::vector<Effect>& {
            return action == std::string("effects") ? m->session().current.part()->mix.effects
                                                    : m->song().effects;
        };
        QCOMPARE(effects().size(), std::size_t{2});
        auto* list = dialog->findChild<QListWidget*>(QStringLiteral("effects"));
        QCOMPARE(list->currentRow(), 1);
        QVERIFY(Driver::click(dialog, QStringLiteral("Earlier")));
        QCOMPARE(effects()[0].name, std::string("Tilt"));
        list->item(0)->setCheckState(Qt::Unchecked);
        QVERIFY(!effects()[0].on);
        list->setCurrentRow(0);
        auto* on = dialog->findChild<QCheckBox*>();
        QVERIFY(on && !on->isChecked());
        on->toggle(); // as a screen reader does
        QTRY_VERIFY(effects()[0].on);
        on->toggle();
        QTRY_VERIFY(!effects()[0].on);
        list->setCurrentRow(1);
        QSlider* ratio = nullptr;
        QTRY_VERIFY((ratio = dialog->findChild<QSlider*>(QStringLiteral("control:ratio"))));
        ratio->setValue(1000);
        QTRY_COMPARE(effects()[1].settings.controls.at("ratio"), 20.0F);
        QVERIFY(Driver::click(dialog, QStringLiteral("Remove")));
        QCOMPARE(effects().size(), std::size_t{1});
        dialog->reject();
    }
}

void TestSoundsWindow::theShelfIsSearched() {
    search(QStringLiteral("Posaune"));
    const QAbstractItemModel* rows = shelf()->list()->model();
    QVERIFY(rows->rowCount() >= 2); // in both fonts, which are named
    QVERIFY(rows->index(0, 0).data(ShelfModel::PlaceRole) != rows->index(1, 0).data(ShelfModel::PlaceRole));
    QVERIFY(!rows->index(0, 0).data(ShelfModel::PlaceRole).toString().isEmpty());
    search(QStringLiteral("stand-in"));
    QCOMPARE(shelf()->list()->model()->rowCount(), 16); // a channel each
    const auto labels = shelf()->findChildren<QLabel*>();
    QVERIFY(std::any_of(labels.begin(), labels.end(),
                        [](const QLabel* label) { return label->text() == QStringLiteral("16 found"); }));
    search(QStringLiteral("nothing like it"));
    QCOMPARE(shelf()->list()->model()->rowCount(), 0);
    // Down goes to the first that was found, though the part's own sound is among them, too.
    m->select("Lead cornet");
    search(QStringLiteral("trompete"));
    const int found = shelf()->list()->model()->rowCount();
    search(QStringLiteral("brass"));
    QVERIFY(shelf()->list()->model()->rowCount() > found);
    QTest::keyClick(shelf()->search(), Qt::Key_Down);
    QCOMPARE(shelf()->list()->currentIndex().row(), 0);
    QTest::keyClick(shelf()->list(), Qt::Key_Escape);
    // A search is at its top, its best hit is the one in hand, and Enter takes it.
    search({});
    shelf()->list()->scrollToBottom();
    search(QStringLiteral("brass"));
    QCOMPARE(shelf()->list()->currentIndex().row(), 0);
    QCOMPARE(shelf()->list()->indexAt(QPoint(4, 4)).row(), 0);
    QTest::keyClick(shelf()->search(), Qt::Key_Return);
    QCOMPARE(QString::fromStdString(soundOf("Lead cornet").name),
             shelf()->list()->model()->index(0, 0).data().toString());
    m->act("undo");
    // With another song it ends.
    QVERIFY(m->openDemo("TIDEMILL.MID"));
    QVERIFY(shelf()->search()->text().isEmpty());
    m->session().current.showSong(0);
    m->select("Lead cornet");
    search({});
    const int all = shelf()->list()->model()->rowCount();
    auto* families = shelf()->findChild<QComboBox*>(QStringLiteral("shelfFamily"));
    const auto choose = [&](const QString& family) {
        families->setCurrentText(family);
        Q_EMIT families->activated(families->currentIndex());
        QCOMPARE(families->currentText(), family);
    };
    choose(QStringLiteral("Kits"));
    const int kits = shelf()->list()->model()->rowCount();
    QVERIFY(kits > 0 && kits < all);
    choose(QStringLiteral("MIDI ports"));
    QCOMPARE(shelf()->list()->model()->rowCount(), 16);
    choose(QStringLiteral("All sounds"));
    QCOMPARE(shelf()->list()->model()->rowCount(), all);
    // At 1280 by 800 ten sounds and more are seen at once.
    m->window().resize(1280, 800);
    QTest::qWait(20);
    const auto* list = shelf()->list();
    QVERIFY(list->visualRect(list->model()->index(9, 0)).bottom() <= list->viewport()->height());
}

void TestSoundsWindow::favouritesAndRecent() {
    m->select("Tuba");
    search(QStringLiteral("ocarina"));
    QTest::keyClick(shelf()->search(), Qt::Key_Down);
    m->act("favourite");
    QTest::keyClick(shelf()->list(), Qt::Key_Return);
    search({});
    QVERIFY(Driver::click(shelf(), QStringLiteral("Favourites")));
    QCOMPARE(shelf()->list()->model()->rowCount(), 1);
    const QModelIndex row = shelf()->list()->model()->index(0, 0);
    QVERIFY(row.data(Qt::AccessibleTextRole).toString().contains(QStringLiteral("favourite")));
    QVERIFY(Driver::click(shelf(), QStringLiteral("Recent")));
    QVERIFY(shelf()->list()->model()->rowCount() >= 1);
    QCOMPARE(shelf()->list()->model()->index(0, 0).data().toString(), row.data().toString());
    QVERIFY(Driver::click(shelf(), QStringLiteral("Favourites")));
    shelf()->list()->setCurrentIndex(shelf()->list()->model()->index(0, 0));
    m->act("favourite"); // and no more
    QCOMPARE(shelf()->list()->model()->rowCount(), 0);
    QVERIFY(Driver::click(shelf(), QStringLiteral("Favourites")));
}

void TestSoundsWindow::whatFitsIsListedWithReasons() {
    m->select("Tuba");
    QVERIFY(Driver::click(shelf(), QStringLiteral("Suggested")));
    const QAbstractItemModel* rows = shelf()->list()->model();
    QVERIFY(rows->rowCount() >= 5);
    QCOMPARE(rows->index(0, 0).data().toString(), QStringLiteral("Tuba"));
    const QString why = rows->index(0, 0).data(Qt::ToolTipRole).toString();
    QVERIFY2(why.contains(QStringLiteral("name says Tuba")), qPrintable(why));
    QVERIFY(
        rows->index(0, 0).data(Qt::AccessibleTextRole).toString().contains(QStringLiteral("name says Tuba")));
    m->select("Harbour strings"); // another part, another list
    QVERIFY(rows->index(0, 0).data().toString() != QStringLiteral("Tuba"));
    QVERIFY(Driver::click(shelf(), QStringLiteral("Suggested")));
}

void TestSoundsWindow::levelsMuteAndSolo() {
    m->act("levels");
    QVERIFY(m->window().soundsPage()->showsLevels());
    auto* strip = m->window().findChild<QWidget*>(QStringLiteral("strip8"));
    QVERIFY(strip && strip->isVisible());
    QCOMPARE(m->song().part(8)->name, std::string("Tuba"));
    const auto sliders = strip->findChildren<QSlider*>();
    sliders[0]->setFocus();
    QTest::keyClick(sliders[0], Qt::Key_Left);
    QTest::keyClick(sliders[0], Qt::Key_Left);
    QCOMPARE(m->song().part(8)->mix.levelDb, -1.0);
    QCOMPARE(m->session().current.selectedPart(), 8);
    QTest::keyClick(sliders[1], Qt::Key_Right);
    QVERIFY(m->song().part(8)->mix.pan > 0);
    sliders[2]->setValue(150);
    QCOMPARE(m->song().part(8)->mix.room, 1.5);
    QTest::mouseClick(strip->findChild<QCheckBox*>(), Qt::LeftButton, {}, {8, 8});
    QVERIFY(m->song().part(8)->mix.roomBeforeLevel);
    const auto buttons = strip->findChildren<QToolButton*>();
    QTest::mouseClick(buttons[0], Qt::LeftButton);
    QVERIFY(m->song().part(8)->mix.muted);
    QTest::mouseClick(buttons[1], Qt::LeftButton);
    QVERIFY(m->song().part(8)->mix.solo);
    m->act("undo");
    m->act("undo");
    QVERIFY(!m->song().part(8)->mix.muted && !buttons[0]->isChecked() && !buttons[1]->isChecked());
    // Meters move while it plays, and the light at their end stays until it is put out.
    m->session().transport.seek(m->song().sections[1].start);
    m->act("play");
    auto* meter = m->window().findChild<QWidget*>(QStringLiteral("strip1"))->findChild<Meter*>();
    QTRY_VERIFY_WITH_TIMEOUT(meter->surfaceValue().startsWith(QStringLiteral("loudest")), scaled(10000));
    m->act("play");
    QVERIFY(!meter->isClipped());
    meter->setPeak(1.5);
    QVERIFY(meter->isClipped());
    QVERIFY(meter->surfaceValue().contains(QStringLiteral("too loud")));
    meter->setFocus();
    QTest::keyClick(meter, Qt::Key_Space);
    QVERIFY(!meter->isClipped());
}

void TestSoundsWindow::theMixIsBroughtToLevel() {
    m->act("levels");
    QVERIFY(Driver::click(&m->window(), QStringLiteral("Match loudness")));
    QTRY_VERIFY_WITH_TIMEOUT(!m->session().levelling.isMeasuring(), scaled(60000));
    QVERIFY(m->session().levelling.measured().has_value());
    const double gain = m->song().masterDb;
    QVERIFY(gain != 0);
    // EBU R 128 of what is rendered with that gain: the level aimed at, or just under full scale.
    LoudnessMeter meter(48000, true);
    const auto sound = renderToMemory(m->song(), m->session().sounds.catalogue(), 48000);
    meter.take(sound);
    const Measured now = meter.measured();
    QVERIFY2(std::abs(now.lufs - aimedLufs) < 0.3 || std::abs(now.peakDb - highestPeakDb) < 0.3,
             qPrintable(QStringLiteral("%1 LUFS, peak %2").arg(now.lufs).arg(now.peakDb)));
    QVERIFY(now.peakDb < 0);
    m->act("undo");
    QCOMPARE(m->song().masterDb, 0.0);
    QVERIFY(m->session().levelling.measured().has_value()); // it still holds: only the gain has changed
    m->session().current.edit(QStringLiteral("Softer"),
                              [](const Song& s) { return edits::setLevel(s, 1, -9); });
    QVERIFY(!m->session().levelling.measured().has_value());
}

void TestSoundsWindow::notesAreFittedToTheSound() {
    m->select("Glass bells");
    m->session().current.edit(QStringLiteral("Low"), [&](const Song& s) {
        return edits::setOctaves(s, m->session().current.selectedPart(), 3);
    });
    search(QStringLiteral("0:57 house")); // the trombone
    QTest::keyClick(shelf()->search(), Qt::Key_Down);
    QTest::keyClick(shelf()->list(), Qt::Key_Return);
    m->act("fitOctaves");
    QVERIFY(m->session().current.part()->recipe.octaves < 3);
    m->act("foldNotes");
    QVERIFY(m->session().current.part()->recipe.folded.has_value());
    QVERIFY(m->window().action(QStringLiteral("foldNotes"))->isChecked());
    m->act("foldNotes");
    QVERIFY(!m->session().current.part()->recipe.folded.has_value());
}

void TestSoundsWindow::lettersPlayAlong() {
    m->select("Lead cornet");
    QTest::keyClick(&m->window(), Qt::Key_F11);
    QVERIFY(m->session().playAlong.lettersPlay());
    QVERIFY(m->session().output.player().isPlayingAlong()); // so that they are heard without lag
    QWidget* focus = m->window().focusWidget() ? m->window().focusWidget() : &m->window();
    QTest::keyPress(focus, Qt::Key_F);
    QVERIFY(QTest::qWaitFor([&] { return m->session().output.player().partPeak(1) > 0.001; }, scaled(5000)));
    QTest::keyRelease(focus, Qt::Key_F);
    QVERIFY(QTest::qWaitFor([&] { return m->session().output.player().partPeak(1) < 0.0001; }, scaled(5000)));
    search({}); // letters typed into a text stay letters
    QTest::keyClicks(shelf()->search(), QStringLiteral("harp"));
    QCOMPARE(shelf()->search()->text(), QStringLiteral("harp"));
    QTest::keyClick(&m->window(), Qt::Key_F11);
    QVERIFY(!m->session().playAlong.lettersPlay());
    QVERIFY(!m->session().output.player().isPlayingAlong());
    m->session().playAlong.setInput({});
    QVERIFY(m->session().playAlong.keyboards().playing().isEmpty());
    // A keyboard of the last time that is not connected: nothing is told, and it is waited for.
    settings::setMidiInput(QStringLiteral("Quay keyboard"));
    QSignalSpy problems(&m->session().messages, &Messages::problem);
    m->session().playAlong.restoreInput();
    QVERIFY(m->session().playAlong.keyboards().playing().isEmpty());
    QVERIFY(problems.isEmpty());
    QCOMPARE(settings::midiInput(), QStringLiteral("Quay keyboard"));
    settings::setMidiInput({});
}

void TestSoundsWindow::foldersAreWatched() {
    QTemporaryDir folder;
    m->session().sounds.addFontFolder(folder.path());
    QTRY_COMPARE_WITH_TIMEOUT(m->session().sounds.catalogue().fonts().size(), std::size_t{1},
                              10000); // the house font
    QVERIFY(QFile::copy(QStringLiteral(TEST_FONT), folder.filePath(QStringLiteral("new.sf2"))));
    QTRY_COMPARE_WITH_TIMEOUT(m->session().sounds.catalogue().fonts().size(), std::size_t{2}, scaled(10000));
    QVERIFY(QFile::remove(folder.filePath(QStringLiteral("new.sf2"))));
    QTRY_COMPARE_WITH_TIMEOUT(m->session().sounds.catalogue().fonts().size(), std::size_t{1}, scaled(10000));
    m->session().sounds.removeFontFolder(folder.path());
    QVERIFY(!m->session().sounds.fontFolders().contains(folder.path()));
}

void TestSoundsWindow::aFontThatCannotBePlayedIsStoodInFor() {
    // Its lists are whole, its samples are cut off: the player refuses it, and every part still sounds.
    QFile file(QStringLiteral(TEST_FONT));
    QVERIFY(file.open(QIODevice::ReadOnly));
    QByteArray bytes = file.readAll();
    const auto samples = bytes.indexOf("smpl");
    QVERIFY(samples > 0);
    bytes.replace(samples, 4, "smpX"); // no sample data any more
    QTemporaryDir folder;
    const QString path = folder.filePath(QStringLiteral("hollow.sf2"));
    QFile out(path);
    QVERIFY(out.open(QIODevice::WriteOnly));
    out.write(bytes);
    out.close();
    m->session().sounds.setCatalogue(scanFonts({HOUSE_FONT, {}, {path.toStdString()}}, path.toStdString()));
    QTRY_COMPARE_WITH_TIMEOUT(soundOf("Lead cornet").font, std::string(houseFontId), scaled(10000));
    for (const PartMatch& match : m->session().findings.matches()) QVERIFY(match.first().how != How::None);
    if (auto* box = qobject_cast<QMessageBox*>(QApplication::activeModalWidget())) box->reject();
}

void TestSoundsWindow::whatIsSilentInAFileIsTold() {
    // An instrument that was there when the plug-ins were scanned, and is not any more.
    const std::string gone = "urn:cobbleway:test:not-there";
    Session& session = m->session();
    session.sounds.setCatalogue(session.sounds.catalogue().withPlugins({{gone, "Gone", "", true}}, {}));
    session.current.edit(QStringLiteral("Sound"), [&](const Song& s) {
        return edits::chooseSound(s, 1, {gone, 0, 0, "Gone", SoundKind::Plugin, 0});
    });
    QTemporaryDir folder;
    ExportPage* page = m->window().exportPage();
    page->setFolder(folder.path());
    page->tickOnly(
        [](const ExportItem& item) { return item.kind == ExportItem::Kind::Alone && item.part == 1; });
    QSignalSpy problems(&session.messages, &Messages::problem), finished(page, &ExportPage::finished);
    page->write();
    QVERIFY(finished.wait(scaled(30000)));
    const auto told = std::find_if(problems.begin(), problems.end(), [](const QList<QVariant>& problem) {
        return problem[0].toString().contains(QStringLiteral("sound files"));
    });
    QVERIFY(told != problems.end());
    QVERIFY(told->at(1).toString().contains(QStringLiteral("Lead cornet, Gone")));
}

void TestSoundsWindow::rowsTellTheirMatch() {
    const QAbstractItemModel* rows = m->window().soundsPage()->rows()->model();
    const QModelIndex first = rows->index(0, 0);
    QVERIFY(
        first.data(Qt::ToolTipRole).toString().contains(QStringLiteral("exactly what the part asks for")));
    const QString spoken = first.data(Qt::AccessibleTextRole).toString();
    for (const char* word : {"Lead cornet", "asks for 57 Trumpet", "match same", "plays with"})
        QVERIFY2(spoken.contains(QLatin1String(word)), qPrintable(spoken));
}

void TestSoundsWindow::everythingIsUndone() {
    QVERIFY(findPlugins());
    const Song before = m->song();
    m->select("Clarinets");
    const PartId id = m->session().current.selectedPart();
    const auto edit = [&](auto change) {
        m->session().current.edit(QStringLiteral("Change"), [&](const Song& s) { return change(s); });
    };
    edit([&](const Song& s) { return edits::addLayer(s, id, {m_test, 0, 1, "Tone"}); });
    edit([&](const Song& s) { return edits::chooseForStretch(s, id, 0, 5000, {m_test, 0, 2, "Tone"}); });
    edit([&](const Song& s) {
        return edits::chooseSound(s, id, {reed, 0, 0, "Reed", SoundKind::Plugin, 0});
    });
    edit([&](const Song& s) {
        return edits::setEffects(s, 0, {{"https://cobbleway.example/plugins#tilt", "Tilt", {}, true}});
    });
    edit([&](const Song& s) { return edits::setMasterLevel(s, 3); });
    m->act("matchAgain");
    for (int i = 0; i < 6; ++i) m->act("undo");
    QVERIFY(m->song() == before);
    for (int i = 0; i < 6; ++i) m->act("redo");
    QVERIFY(!(m->song() == before));
}

QTEST_MAIN(TestSoundsWindow)
#include "tst_soundswindow.moc"
