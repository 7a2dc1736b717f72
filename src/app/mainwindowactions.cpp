/// The window's actions for files, songs, playing and views, and all menus: what each is called, its keys,
/// and the one edit or call it makes.
#include "app/mainwindow.h"

#include "app/dialogs/effectsdialog.h"
#include "app/dialogs/fontsdialog.h"
#include "app/look/theme.h"
#include "app/pages/exportpage.h"
#include "app/pages/partspage.h"
#include "app/session/session.h"
#include "app/session/settings.h"
#include "app/widgets/snagdrawer.h"
#include "song/edits.h"

#include <QActionGroup>
#include <QMenu>
#include <QMenuBar>

namespace cobbleway {

void MainWindow::makeActions() {
    makeFileActions();
    makeSongActions();
    makePartActions();
    makeShapeActions();
    makeSoundActions();
    makePlayActions();
    makeViewActions();
}

void MainWindow::makeFileActions() {
    add(QStringLiteral("new"), tr("&New set"), QKeySequence::New, [this] { m_session.current.newSet(); });
    add(QStringLiteral("open"), tr("&Open set…"), QKeySequence::Open, [this] { openSet(); });
    add(QStringLiteral("addFiles"), tr("&Add files…"), Qt::CTRL | Qt::SHIFT | Qt::Key_A,
        [this] { addFiles(); });
    add(QStringLiteral("addFolder"), tr("Add &folder…"), {}, [this] { addFolder(); });
    add(QStringLiteral("removeSong"), tr("&Remove this song from the set"), {},
        [this] { m_session.current.removeSong(m_session.current.songIndex()); });
    add(QStringLiteral("save"), tr("&Save set"), QKeySequence::Save, [this] { saveSet(false); });
    add(QStringLiteral("saveAs"), tr("Save set &as…"), QKeySequence::SaveAs, [this] { saveSet(true); });
    add(QStringLiteral("quit"), tr("&Quit"), QKeySequence::Quit, [this] { close(); });
    add(QStringLiteral("undo"), tr("&Undo"), QKeySequence::Undo, [this] { m_session.current.undo(); });
    add(QStringLiteral("redo"), tr("&Redo"), QKeySequence::Redo, [this] { m_session.current.redo(); });
}

void MainWindow::makeSongActions() {
    add(QStringLiteral("nextSong"), tr("&Next song"), Qt::CTRL | Qt::Key_PageDown,
        [this] { m_session.current.showSong(m_session.current.songIndex() + 1); });
    add(QStringLiteral("previousSong"), tr("&Previous song"), Qt::CTRL | Qt::Key_PageUp,
        [this] { m_session.current.showSong(m_session.current.songIndex() - 1); });
    add(QStringLiteral("mendSafe"), tr("&Mend all that are safe"), {},
        [this] { m_session.findings.mendAllSafe(); });
    add(QStringLiteral("matchAgain"), tr("Match all parts &again"), {}, [this] {
        m_session.current.edit(tr("Match all again"), edits::followFileEverywhere);
    })->setIconText(tr("Match all again"));
    add(QStringLiteral("fonts"), tr("&Fonts and instruments…"), {}, [this] {
        (new FontsDialog(m_session, this))->open();
    })->setIconText(tr("Fonts and instruments…"));
    add(QStringLiteral("compare"), tr("&Compare two fonts"), Qt::Key_F7, [this] {
        m_session.sounds.toggleCompare();
    })->setCheckable(true);
    action(QStringLiteral("compare"))->setIconText(tr("Compare"));
    connect(&m_session.sounds, &Sounds::comparedChanged, this,
            [this] { action(QStringLiteral("compare"))->setChecked(m_session.sounds.comparedFont()); });
    add(QStringLiteral("bringToLevel"), tr("&Bring to level"), {},
        [this] { m_session.playback.bringToLevel(); });
    add(QStringLiteral("mixEffects"), tr("&Effects on the whole mix…"), {}, [this] {
        if (m_session.current.hasSong()) (new EffectsDialog(m_session, EffectsDialog::TheMix, this))->open();
    })->setIconText(tr("Effects…"));
    add(QStringLiteral("write"), tr("&Write the ticked files"), Qt::CTRL | Qt::Key_E, [this] {
        showPage(Step::Export);
        m_export->write();
    });
    add(QStringLiteral("stopWriting"), tr("S&top writing"), {}, [this] { m_export->stop(); });
}

void MainWindow::makePlayActions() {
    add(QStringLiteral("play"), tr("&Play or stop"), Qt::Key_Space,
        [this] { m_session.playback.togglePlay(); });
    add(QStringLiteral("toStart"), tr("To the &start"), Qt::CTRL | Qt::Key_Home,
        [this] { m_session.playback.seek(0); });
    QAction* loop = add(QStringLiteral("loop"), tr("&Loop"), Qt::CTRL | Qt::Key_L, [this] {
        auto to = m_session.playback.loop();
        if (to.end <= to.start && m_session.current.hasSong()) { // nothing marked: the section or the song
            to = {0, m_session.current.song().end, false};
            for (const Section& section : m_session.current.song().sections)
                if (m_session.playback.place() >= section.start && m_session.playback.place() < section.end)
                    to = {section.start, section.end, false};
        }
        to.on = !m_session.playback.loop().on;
        m_session.playback.setLoop(to);
    });
    loop->setCheckable(true);
    const auto loopEnd = [this](bool end) {
        return [this, end] {
            if (!m_session.current.hasSong()) return;
            const TempoMap& tempo = *m_session.current.song().tempo;
            const int bar = tempo.position(m_session.playback.place()).bar;
            auto to = m_session.playback.loop();
            if (end)
                to.end = std::min(tempo.barStart(bar + 1), m_session.current.song().end);
            else
                to.start = tempo.barStart(bar);
            if (to.end <= to.start)
                (end ? to.start : to.end) = end ? tempo.barStart(bar) : m_session.current.song().end;
            to.on = true;
            m_session.playback.setLoop(to);
        };
    };
    add(QStringLiteral("loopFrom"), tr("Loop &from this bar"), Qt::CTRL | Qt::Key_Comma, loopEnd(false));
    add(QStringLiteral("loopTo"), tr("Loop &to this bar"), Qt::CTRL | Qt::Key_Period, loopEnd(true));
    const auto bar = [this](int by) {
        return [this, by] {
            if (m_session.current.hasSong())
                m_session.playback.seek(m_session.current.song().tempo->barStart(
                    m_session.current.song().tempo->position(m_session.playback.place()).bar + by));
        };
    };
    add(QStringLiteral("nextBar"), tr("Next &bar"), Qt::CTRL | Qt::Key_Right, bar(1));
    add(QStringLiteral("previousBar"), tr("Previous b&ar"), Qt::CTRL | Qt::Key_Left, bar(-1));
    add(QStringLiteral("nextSection"), tr("Next se&ction"), Qt::CTRL | Qt::SHIFT | Qt::Key_Right,
        [this] { m_session.playback.seekSection(1); });
    add(QStringLiteral("previousSection"), tr("Pre&vious section"), Qt::CTRL | Qt::SHIFT | Qt::Key_Left,
        [this] { m_session.playback.seekSection(-1); });
    add(QStringLiteral("slower"), tr("Slo&wer"), Qt::CTRL | Qt::Key_Down,
        [this] { m_session.playback.setPace(m_session.playback.pace() - 5); });
    add(QStringLiteral("faster"), tr("Fast&er"), Qt::CTRL | Qt::Key_Up,
        [this] { m_session.playback.setPace(m_session.playback.pace() + 5); });
    add(QStringLiteral("ownTempo"), tr("&Own tempo"), {}, [this] { m_session.playback.setPace(100); });
    add(QStringLiteral("letters"), tr("Play al&ong with the letter keys"), Qt::Key_F11, [this] {
        m_session.playAlong.setLettersPlay(!m_session.playAlong.lettersPlay());
    })->setCheckable(true);
    connect(&m_session.playAlong, &PlayAlong::changed, this,
            [this] { action(QStringLiteral("letters"))->setChecked(m_session.playAlong.lettersPlay()); });
    const auto key = [this](int by) {
        return [this, by] {
            m_session.current.edit(
                tr("Change key"),
                [by](const Song& song) { return edits::setKeyShift(song, song.keyShift + by); },
                QStringLiteral("key"));
        };
    };
    add(QStringLiteral("keyUp"), tr("A semitone &higher"), {}, key(1));
    add(QStringLiteral("keyDown"), tr("A semitone lowe&r"), {}, key(-1));
}

void MainWindow::makeViewActions() {
    const QStringList pages = {tr("&Songs"), tr("&Parts"), tr("S&ounds"), tr("P&ractice"), tr("&Export")};
    for (int i = 0; i < pages.size(); ++i)
        add(QStringLiteral("page%1").arg(i + 1), pages[i], QKeySequence(QStringLiteral("Ctrl+%1").arg(i + 1)),
            [this, i] { showPage(static_cast<Step>(i)); });
    add(QStringLiteral("zoomIn"), tr("Zoom &in"), {}, [this] {
        m_parts->zoom()->zoom(1.5, 0.5);
    })->setShortcuts({Qt::CTRL | Qt::Key_Plus, Qt::CTRL | Qt::Key_Equal}); // with and without Shift
    add(QStringLiteral("zoomOut"), tr("Zoom o&ut"), QKeySequence::ZoomOut,
        [this] { m_parts->zoom()->zoom(1 / 1.5, 0.5); });
    add(QStringLiteral("zoomAll"), tr("&Whole song"), Qt::CTRL | Qt::Key_0,
        [this] { m_parts->zoom()->showAll(); });
    add(QStringLiteral("snags"), tr("S&nags"), Qt::Key_F8, [this] {
        showSnags(!m_drawer->isVisible());
    })->setCheckable(true);
    add(QStringLiteral("keys"), tr("&Keys"), Qt::Key_F1, [this] { showKeys(); });
    add(QStringLiteral("about"), tr("&About Cobbleway"), {}, [this] { showAbout(); });
}

void MainWindow::makeMenus() {
    const auto menu = [this](const QString& title, const QStringList& ids) {
        QMenu* made = menuBar()->addMenu(title);
        for (const QString& id : ids) {
            if (id.isEmpty())
                made->addSeparator();
            else
                made->addAction(action(id));
        }
        return made;
    };
    const auto L = [](const char* ids) {
        return QString::fromLatin1(ids).split(QLatin1Char(' '), Qt::KeepEmptyParts);
    };
    QMenu* file = menu(tr("&File"), L("new open"));
    m_recent = file->addMenu(tr("Recent sets"));
    connect(m_recent, &QMenu::aboutToShow, this, &MainWindow::fillRecent);
    for (const QString& id : L(" addFiles addFolder removeSong  save saveAs  write stopWriting  quit"))
        id.isEmpty() ? file->addSeparator() : (file->addAction(action(id)), nullptr);
    menu(tr("&Edit"), L("undo redo"));
    menu(tr("&Song"), L("nextSong previousSong  mendSafe  tempo sections sectionHere encoding tracksToSongs "
                        " matchAgain fonts compare  mixEffects bringToLevel  keyUp keyDown"));
    QMenu* parts = menu(tr("&Part"), L("nextPart previousPart  rename moveUp moveDown "));
    QMenu* split = parts->addMenu(tr("&Split and join"));
    for (const QString& id :
         L("split splitProgram splitPitch splitLines splitPiece splitChannel splitSections splitPlace  join"))
        id.isEmpty() ? split->addSeparator() : (split->addAction(action(id)), nullptr);
    for (const QString& id :
         L("events controllers pitchVelocity makeDrums makePitched fixProgram followPrograms  octaveUp "
           "octaveDown louder softer volumeIntoLevel "
           " findSound keepSound dropSound useInSection addLayer favourite followFile clearStretches  layers "
           "effects "
           "fitOctaves foldNotes  inFront alone without fullBand"))
        id.isEmpty() ? parts->addSeparator() : (parts->addAction(action(id)), nullptr);
    QMenu* play = menu(tr("P&lay"), L("play toStart nextBar previousBar nextSection previousSection  loop "
                                      "loopFrom loopTo  slower faster ownTempo  letters"));
    QMenu* inputs = play->addMenu(tr("Play along with a key&board"));
    connect(inputs, &QMenu::aboutToShow, this, [this, inputs] { fillInputs(inputs); });
    fillInputs(inputs);
    play->addSeparator();
    QMenu* outputs = play->addMenu(tr("Sound output"));
    auto* outputGroup = new QActionGroup(this);
    for (const OutputInfo& output : audioOutputs()) {
        const QString id = QString::fromStdString(output.id);
        QAction* choice =
            outputs->addAction(QString::fromStdString(output.name), this, [this, id] { setOutput(id); });
        choice->setCheckable(true);
        choice->setChecked(settings::soundOutput() == id);
        outputGroup->addAction(choice);
    }
    QMenu* view = menu(tr("&View"), L("page1 page2 page3 page4 page5  levels snags  zoomIn zoomOut zoomAll"));
    view->addSeparator();
    QMenu* themes = view->addMenu(tr("Theme"));
    auto* themeGroup = new QActionGroup(this);
    const std::pair<ThemeChoice, QString> choices[] = {{ThemeChoice::System, tr("As the system")},
                                                       {ThemeChoice::Light, tr("Light")},
                                                       {ThemeChoice::Dark, tr("Dark")}};
    for (const auto& [choice, name] : choices) {
        QAction* item = themes->addAction(name, this, [this, choice = choice] {
            settings::setThemeChoice(static_cast<int>(choice));
            applyTheme(choice);
        });
        item->setCheckable(true);
        item->setChecked(themeChoice() == choice);
        themeGroup->addAction(item);
    }
    menu(tr("&Help"), L("keys about"));
}

/// MIDI inputs come and go: the menu is filled anew each time.
void MainWindow::fillInputs(QMenu* menu) {
    menu->clear();
    const auto offer = [&](const QString& name, const QString& id) {
        QAction* choice = menu->addAction(name, this, [this, id] { m_session.playAlong.setInput(id); });
        choice->setCheckable(true);
        choice->setChecked(m_session.playAlong.input() == id);
    };
    offer(tr("No keyboard"), {});
    for (const PortInfo& port : midiInputs())
        offer(QString::fromStdString(port.name), QString::fromStdString(port.id));
    if (menu->actions().size() == 1) menu->addAction(tr("None is connected"))->setEnabled(false);
}

} // namespace cobbleway
