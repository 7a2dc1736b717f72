/// The window's actions for files, songs, playing and views, and how all rows of the table become actions.
#include "app/mainwindow.h"

#include "app/dialogs/clickdialog.h"
#include "app/dialogs/encodingdialog.h"
#include "app/dialogs/pedalsdialog.h"
#include "app/dialogs/sectionsdialog.h"
#include "app/dialogs/tempodialog.h"
#include "app/look/theme.h"
#include "app/narrator.h"
#include "app/pages/exportpage.h"
#include "app/pages/partspage.h"
#include "app/pages/songspage.h"
#include "app/pages/soundspage.h"
#include "app/pages/standview.h"
#include "app/session/session.h"
#include "app/session/settings.h"
#include "app/steps.h"
#include "app/widgets/focus.h"
#include "app/widgets/snagdrawer.h"
#include "song/shape/edits.h"
#include "song/shape/mixes.h"
#include "song/shape/timeedits.h"

#include <QApplication>
#include <QContextMenuEvent>
#include <QMenu>
#include <QMenuBar>

namespace cobbleway {

namespace {

/// The place of a menu that is filled elsewhere.
ActionRow menuHere(const char* menu) { return {"", {}, {}, menu, nullptr}; }

} // namespace

QList<QKeySequence> MainWindow::keysOf(const ActionRow& row) {
    const auto changed = settings::changedKeys(QLatin1String(row.id));
    return changed ? QList<QKeySequence>{QKeySequence(*changed)} : row.keys;
}

void MainWindow::makeActions() {
    for (const QList<ActionRow>& rows :
         {fileRows(), songRows(), partRows(), soundRows(), drumRows(), playRows(), viewRows()})
        m_rows << rows;
    for (const ActionRow& row : m_rows) {
        if (!*row.id) continue;
        const QString id = QLatin1String(row.id);
        auto* made = new QAction(row.text, this);
        made->setShortcuts(keysOf(row));
        made->setObjectName(id);
        made->setCheckable(row.ticked != nullptr);
        if (!row.shortText.isEmpty()) made->setIconText(row.shortText);
        connect(made, &QAction::triggered, this, [this, does = row.does] {
            takeTyping(this);
            if (does) does();
        });
        addAction(made);
        m_actions.insert(id, made);
    }
    action(QStringLiteral("snags"))->setCheckable(true); // showSnags() says which
}

void MainWindow::refreshActions() {
    for (const ActionRow& row : m_rows) {
        if (!*row.id) continue;
        QAction* made = action(QLatin1String(row.id));
        made->setEnabled(row.need(m_session));
        made->setVisible(row.shown(m_session));
        if (row.ticked) made->setChecked(row.ticked(m_session));
    }
}

QList<ActionRow> MainWindow::fileRows() {
    return {
        {"new",
         tr("&New set"),
         {QKeySequence(QKeySequence::New)},
         "File",
         needs::nothing,
         [this] { m_session.files.newSet(); }},
        {"open",
         tr("&Open set…"),
         {QKeySequence(QKeySequence::Open)},
         "File",
         needs::nothing,
         [this] { openSet(); }},
        menuHere("File/Recent sets"),
        gap("File"),
        {"addFiles",
         tr("&Add files…"),
         {QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_A)},
         "File",
         needs::nothing,
         [this] { addFiles(); }},
        {"addFolder", tr("Add &folder…"), {}, "File", needs::nothing, [this] { addFolder(); }},
        {"removeSong",
         tr("&Remove from the set"),
         {},
         "File",
         needs::aSong,
         [this] { m_session.current.removeSongs(m_songs->selected()); }},
        gap("File"),
        {"save",
         tr("&Save set"),
         {QKeySequence(QKeySequence::Save)},
         "File",
         needs::nothing,
         [this] { saveSet(false); }},
        {"saveAs",
         tr("Save set &as…"),
         {QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_S)}, // not every desktop has a key for it
         "File",
         needs::nothing,
         [this] { saveSet(true); }},
        {"reload",
         tr("Re&load the set"),
         {},
         "File",
         needs::aSavedSet,
         [this] { m_session.files.reload(); },
         tr("Reload")},
        {"collect", tr("&Collect files of plug-ins…"), {}, "File", needs::aSong, [this] { collectFiles(); }},
        gap("File"),
        {"write",
         tr("&Write the ticked files"),
         {QKeySequence(Qt::CTRL | Qt::Key_E)},
         "File",
         needs::aSong,
         [this] {
             showPage(Step::Export);
             m_export->write();
         }},
        {"stopWriting", tr("S&top writing"), {}, "File", needs::nothing, [this] { m_export->stop(); }},
        gap("File"),
        {"quit",
         tr("&Quit"),
         {QKeySequence(QKeySequence::Quit)},
         "File",
         needs::nothing,
         [this] { close(); }},
        {"undo",
         tr("&Undo"),
         {QKeySequence(QKeySequence::Undo)},
         "Edit",
         needs::undo,
         [this] { m_session.current.undo(); }},
        {"redo",
         tr("&Redo"),
         {QKeySequence(QKeySequence::Redo)},
         "Edit",
         needs::redo,
         [this] { m_session.current.redo(); }},
        gap("Edit"),
        {"findSongs",
         tr("&Find songs"),
         {QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_F)},
         "Edit",
         needs::nothing,
         [this] {
             showPage(Step::Songs);
             m_songs->find();
         }},
        {"songUp",
         tr("Move songs &up"),
         {QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_PageUp)},
         "Edit",
         needs::aSong,
         [this] { m_songs->moveSelected(-1); }},
        {"songDown",
         tr("Move songs &down"),
         {QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_PageDown)},
         "Edit",
         needs::aSong,
         [this] { m_songs->moveSelected(1); }},
    };
}

QList<ActionRow> MainWindow::songRows() {
    const auto key = [this](int by) {
        return [this, by] {
            m_session.current.edit(
                tr("Change key"),
                [by](const Song& song) { return edits::setKeyShift(song, song.keyShift + by); },
                QStringLiteral("key"));
        };
    };
    return {
        {"nextSong",
         tr("&Next song"),
         {QKeySequence(Qt::CTRL | Qt::Key_PageDown)},
         "Song",
         needs::aSong,
         [this] { m_session.current.showSong(m_session.current.songIndex() + 1); }},
        {"previousSong",
         tr("&Previous song"),
         {QKeySequence(Qt::CTRL | Qt::Key_PageUp)},
         "Song",
         needs::aSong,
         [this] { m_session.current.showSong(m_session.current.songIndex() - 1); }},
        {"firstListen",
         tr("First &listen"),
         {QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_Space)},
         "Song",
         needs::aSong,
         [this] { m_songs->firstListen(); }},
        gap("Song"),
        {"fixSafe",
         tr("Apply all safe &fixes"),
         {},
         "Song",
         needs::aSong,
         [this] { m_session.findings.fixAllSafe(); }},
        gap("Song"),
        {"tempo",
         tr("&Tempo and bars…"),
         {},
         "Song",
         needs::aSong,
         [this] {
             if (m_session.current.hasSong()) (new TempoDialog(m_session, this))->open();
         }},
        {"sections",
         tr("S&ections…"),
         {},
         "Song",
         needs::aSong,
         [this] {
             if (m_session.current.hasSong()) (new SectionsDialog(m_session, this))->open();
         }},
        {"sectionHere",
         tr("Section from &here"),
         {QKeySequence(Qt::Key_F9)},
         "Song",
         needs::aSong,
         [this] {
             if (!m_session.current.hasSong()) return;
             const TempoMap& map = *m_session.current.song().tempo;
             const Tick bar = map.barStart(map.position(m_session.transport.place()).bar);
             m_session.current.edit(tr("Add a section"),
                                    [bar, name = tr("Section").toStdString()](const Song& song) {
                                        return edits::addSection(song, bar, name);
                                    });
         }},
        {"encoding",
         tr("Te&xt encoding…"),
         {},
         "Song",
         needs::aSong,
         [this] {
             if (m_session.current.hasSong()) (new EncodingDialog(m_session, this))->open();
         }},
        {"readAnew",
         tr("Read the file agai&n"),
         {},
         "Song",
         needs::aFileOnDisk,
         [this] { m_session.disk.readAnew(); },
         tr("Read it again")},
        {"tracksToSongs",
         tr("Make each trac&k a song"),
         {},
         "Song",
         needs::aTypeTwoFile,
         [this] { m_session.current.tracksToSongs(); }},
        gap("Song"),
        {"tidy",
         tr("Do small &fixes when files are opened"),
         {},
         "Song",
         needs::nothing,
         [this] {
             settings::setTidiesOnOpening(!settings::tidiesOnOpening());
             refreshActions();
         },
         {},
         [](const Session&) { return settings::tidiesOnOpening(); }},
        gap("Song"),
        {"keyUp", tr("A semitone &higher"), {}, "Song", needs::aSong, key(1)},
        {"keyDown", tr("A semitone lowe&r"), {}, "Song", needs::aSong, key(-1)},
    };
}

QList<ActionRow> MainWindow::playRows() {
    const auto loopEnd = [this](bool end) {
        return [this, end] {
            if (!m_session.current.hasSong()) return;
            const TempoMap& tempo = *m_session.current.song().tempo;
            const int bar = tempo.position(m_session.transport.place()).bar;
            auto to = m_session.transport.loop();
            if (end)
                to.end = std::min(tempo.barStart(bar + 1), m_session.current.song().end);
            else
                to.start = tempo.barStart(bar);
            if (to.end <= to.start)
                (end ? to.start : to.end) = end ? tempo.barStart(bar) : m_session.current.song().end;
            to.on = true;
            m_session.transport.setLoop(to);
        };
    };
    const auto bar = [this](int by) {
        return [this, by] {
            if (m_session.current.hasSong())
                m_session.transport.seek(m_session.current.song().tempo->barStart(
                    m_session.current.song().tempo->position(m_session.transport.place()).bar + by));
        };
    };
    return {
        {"play",
         tr("&Play or stop"),
         {QKeySequence(Qt::Key_Space)},
         "Play",
         needs::aSong,
         [this] { m_session.transport.togglePlay(); }},
        {"toStart",
         tr("To the &start"),
         {QKeySequence(Qt::CTRL | Qt::Key_Home)},
         "Play/Place",
         needs::aSong,
         [this] { m_session.transport.seek(0); }},
        {"nextBar",
         tr("Next &bar"),
         {QKeySequence(Qt::CTRL | Qt::Key_Right)},
         "Play/Place",
         needs::aSong,
         bar(1)},
        {"previousBar",
         tr("Previous b&ar"),
         {QKeySequence(Qt::CTRL | Qt::Key_Left)},
         "Play/Place",
         needs::aSong,
         bar(-1)},
        {"nextSection",
         tr("Next se&ction"),
         {QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_Right)},
         "Play/Place",
         needs::aSong,
         [this] { m_session.transport.seekSection(1); }},
        {"previousSection",
         tr("Pre&vious section"),
         {QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_Left)},
         "Play/Place",
         needs::aSong,
         [this] { m_session.transport.seekSection(-1); }},
        {"sayPlace",
         tr("Say the &place"),
         {QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_P)},
         "Play/Place",
         needs::nothing,
         [this] { Q_EMIT m_session.messages.announced(m_narrator->placeText()); }},
        {"loop",
         tr("&Loop"),
         {QKeySequence(Qt::CTRL | Qt::Key_L)},
         "Play",
         needs::aSong,
         [this] {
             auto to = m_session.transport.loop();
             if (to.end <= to.start &&
                 m_session.current.hasSong()) { // nothing marked: the section or the song
                 to = {0, m_session.current.song().end, false};
                 for (const Section& section : m_session.current.song().sections)
                     if (m_session.transport.place() >= section.start &&
                         m_session.transport.place() < section.end)
                         to = {section.start, section.end, false};
             }
             to.on = !m_session.transport.loop().on;
             m_session.transport.setLoop(to);
         },
         {},
         [](const Session& s) { return s.transport.loop().on; }},
        {"loopFrom",
         tr("Loop &from this bar"),
         {QKeySequence(Qt::CTRL | Qt::Key_Comma)},
         "Play",
         needs::aSong,
         loopEnd(false)},
        {"loopTo",
         tr("Loop &to this bar"),
         {QKeySequence(Qt::CTRL | Qt::Key_Period)},
         "Play",
         needs::aSong,
         loopEnd(true)},
        gap("Play"),
        {"slower",
         tr("Slo&wer"),
         {QKeySequence(Qt::CTRL | Qt::Key_Down)},
         "Play/Pace",
         needs::nothing,
         [this] { m_session.transport.setPace(m_session.transport.pace() - 5); }},
        {"faster",
         tr("Fast&er"),
         {QKeySequence(Qt::CTRL | Qt::Key_Up)},
         "Play/Pace",
         needs::nothing,
         [this] { m_session.transport.setPace(m_session.transport.pace() + 5); }},
        {"fallBack",
         tr("&Back to the first pace"),
         {QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_Down)},
         "Play/Pace",
         needs::nothing,
         [this] { m_session.rounds.fallBack(); }},
        {"ownTempo",
         tr("&Own tempo"),
         {},
         "Play/Pace",
         needs::nothing,
         [this] { m_session.transport.setPace(100); }},
        gap("Play"),
        {"click",
         tr("Cl&ick"),
         {QKeySequence(Qt::CTRL | Qt::Key_B)},
         "Play/Click",
         needs::nothing,
         [this] {
             settings::Clicking to = m_session.transport.clicking();
             to.on = !to.on;
             m_session.transport.setClicking(to);
         },
         {},
         [](const Session& s) { return s.transport.clicking().on; }},
        {"clickSettings",
         tr("Click and count-i&n…"),
         {QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_B)},
         "Play/Click",
         needs::nothing,
         [this] { (new ClickDialog(m_session, this))->open(); }},
        {"work",
         tr("&Work through…"),
         {QKeySequence(Qt::CTRL | Qt::Key_G)},
         "Play",
         needs::aSong,
         [this] {
             if (m_session.rounds.isWorking())
                 m_session.rounds.stopWork();
             else
                 (new WorkDialog(m_session, this))->open();
         },
         {},
         [](const Session& s) { return s.rounds.isWorking(); }},
        {"even",
         tr("All songs e&qually loud"),
         {},
         "Play",
         needs::nothing,
         [this] { m_session.levelling.setEven(!m_session.levelling.isEven()); },
         {},
         [](const Session& s) { return s.levelling.isEven(); }},
        gap("Play"),
        {"firstNote",
         tr("My first &note"),
         {QKeySequence(Qt::CTRL | Qt::Key_J)},
         "Play",
         needs::aSong,
         [this] { m_session.startingNote.play(); }},
        {"nextMix",
         tr("Next &kept mix"),
         {QKeySequence(Qt::CTRL | Qt::Key_M)},
         "Play",
         needs::aSong,
         [this] { chooseMix(1); }},
        {"previousMix",
         tr("Pre&vious kept mix"),
         {QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_M)},
         "Play",
         needs::aSong,
         [this] { chooseMix(-1); }},
        gap("Play"),
        {"pedals",
         tr("Pe&dals and pads…"),
         {},
         "Play",
         needs::nothing,
         [this] {
             const auto textOf = [this](const QString& id) {
                 const QAction* action = m_actions.value(id);
                 return action ? action->text().remove(QLatin1Char('&')) : id;
             };
             (new PedalsDialog(m_session.playAlong.pedals(), textOf,
                               m_session.playAlong.keyboards().playing(), this))
                 ->open();
         }},
        {"letters",
         tr("Play al&ong with the letter keys"),
         {QKeySequence(Qt::Key_F11)},
         "Play",
         needs::nothing,
         [this] { m_session.playAlong.setLettersPlay(!m_session.playAlong.lettersPlay()); },
         {},
         [](const Session& s) { return s.playAlong.lettersPlay(); }},
        menuHere("Play/Keyboard"),
        gap("Play"),
        menuHere("Play/Output"),
    };
}

/// The kept mix before or after the one in use, round and round; said by name.
void MainWindow::chooseMix(int by) {
    const Song& song = m_session.current.song();
    const auto count = static_cast<int>(song.mixes.size());
    if (count == 0) {
        Q_EMIT m_session.messages.announced(tr("No mix is kept yet; keep one on the Practice page"));
        return;
    }
    const std::string now = mixInUse(song);
    int at = by > 0 ? -1 : 0;
    for (int i = 0; i < count; ++i)
        if (song.mixes[static_cast<std::size_t>(i)].name == now) at = i;
    const std::string name = song.mixes[static_cast<std::size_t>((at + by + count) % count)].name;
    m_session.current.edit(tr("Use a kept mix"), [name](const Song& s) { return edits::useMix(s, name); });
    Q_EMIT m_session.messages.announced(tr("Mix: %1").arg(QString::fromStdString(name)));
}

QList<ActionRow> MainWindow::viewRows() {
    QList<ActionRow> rows;
    for (const StepText& step : stepTexts())
        rows << ActionRow{
            step.action, step.menuText,  {QKeySequence(QStringLiteral("Ctrl+%1").arg(step.number()))},
            "View",      needs::nothing, [this, to = step.step] { showPage(to); }};
    rows << gap("View");
    rows << QList<ActionRow>{
        {"levels",
         tr("&Levels of all parts"),
         {QKeySequence(Qt::Key_F3)},
         "View",
         needs::nothing,
         [this] {
             const bool show = page() != Step::Sounds || !m_sounds->showsLevels();
             showPage(Step::Sounds);
             m_sounds->showLevels(show);
         }},
        {"stand",
         tr("Stand &view"),
         {QKeySequence(Qt::CTRL | Qt::Key_F11)},
         "View",
         needs::aSong,
         [this] {
             auto* stand = findChild<StandView*>();
             if (!stand) stand = new StandView(m_session, this);
             stand->showFullScreen();
             stand->activateWindow();
         }},
        {"snags",
         tr("S&nags"),
         {QKeySequence(Qt::Key_F8)},
         "View",
         needs::nothing,
         [this] { showSnags(!m_drawer->isVisible()); }},
        {"hearDifference",
         tr("Hear the &difference of a fix"),
         {QKeySequence(Qt::Key_F12)},
         "View",
         needs::aSong,
         [this] {
             if (!m_drawer->isVisible()) showSnags(true);
             m_drawer->hearDifference();
         }},
        gap("View"),
        {"zoomIn",
         tr("Zoom &in"),
         {QKeySequence(Qt::CTRL | Qt::Key_Plus), QKeySequence(Qt::CTRL | Qt::Key_Equal)},
         "View",
         needs::aSong,
         [this] { m_parts->zoom()->zoom(1.5, 0.5); }},
        {"zoomOut",
         tr("Zoom o&ut"),
         {QKeySequence(QKeySequence::ZoomOut)},
         "View",
         needs::aSong,
         [this] { m_parts->zoom()->zoom(1 / 1.5, 0.5); }},
        {"zoomAll",
         tr("&Whole song"),
         {QKeySequence(Qt::CTRL | Qt::Key_0)},
         "View",
         needs::aSong,
         [this] { m_parts->zoom()->showAll(); }},
        gap("View"),
        menuHere("View/Theme"),
        menuHere("View/Text size"),
        {"keys", tr("&Keys"), {QKeySequence(Qt::Key_F1)}, "Help", needs::nothing, [this] { showKeys(); }},
        {"menus",
         tr("Go to the &menus"),
         {QKeySequence(Qt::Key_F10)},
         "Help",
         needs::nothing,
         [this] { menuBar()->setActiveAction(menuBar()->actions().value(0)); }},
        {"menuHere",
         tr("Menu of &what is chosen"),
         {QKeySequence(Qt::SHIFT | Qt::Key_F10)},
         "Help",
         needs::nothing,
         [] {
             QWidget* focus = QApplication::focusWidget();
             if (!focus) return;
             QContextMenuEvent event(QContextMenuEvent::Keyboard, focus->rect().center(),
                                     focus->mapToGlobal(focus->rect().center()));
             QApplication::sendEvent(focus, &event);
         }},
        {"about", tr("&About Cobbleway"), {}, "Help", needs::nothing, [this] { showAbout(); }},
    };
    return rows;
}

} // namespace cobbleway
