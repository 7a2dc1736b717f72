/// The window's actions and menus: what each is called, its keys, and the one edit or call it makes.
#include "app/mainwindow.h"

#include "app/dialogs/controllersdialog.h"
#include "app/dialogs/effectsdialog.h"
#include "app/dialogs/encodingdialog.h"
#include "app/dialogs/fontsdialog.h"
#include "app/dialogs/joindialog.h"
#include "app/dialogs/layersdialog.h"
#include "app/dialogs/pitchdialog.h"
#include "app/dialogs/sectionsdialog.h"
#include "app/dialogs/splitdialog.h"
#include "app/dialogs/tempodialog.h"
#include "app/look/theme.h"
#include "app/pages/exportpage.h"
#include "app/pages/partspage.h"
#include "app/pages/shelf.h"
#include "app/pages/soundspage.h"
#include "app/session/playalong.h"
#include "app/session/session.h"
#include "app/session/settings.h"
#include "app/widgets/snagdrawer.h"
#include "song/edits.h"
#include "song/evidence.h"
#include "song/rangefit.h"
#include "song/timeedits.h"

#include <QActionGroup>
#include <QLineEdit>
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
    add(QStringLiteral("new"), tr("&New set"), QKeySequence::New, [this] {
        if (maybeSave()) m_session.newSet();
    });
    add(QStringLiteral("open"), tr("&Open set…"), QKeySequence::Open, [this] { openSet(); });
    add(QStringLiteral("addFiles"), tr("&Add files…"), Qt::CTRL | Qt::SHIFT | Qt::Key_A,
        [this] { addFiles(); });
    add(QStringLiteral("addFolder"), tr("Add &folder…"), {}, [this] { addFolder(); });
    add(QStringLiteral("removeSong"), tr("&Remove this song from the set"), {},
        [this] { m_session.removeSong(m_session.songIndex()); });
    add(QStringLiteral("save"), tr("&Save set"), QKeySequence::Save, [this] { saveSet(false); });
    add(QStringLiteral("saveAs"), tr("Save set &as…"), QKeySequence::SaveAs, [this] { saveSet(true); });
    add(QStringLiteral("quit"), tr("&Quit"), QKeySequence::Quit, [this] { close(); });
    add(QStringLiteral("undo"), tr("&Undo"), QKeySequence::Undo, [this] { m_session.undo(); });
    add(QStringLiteral("redo"), tr("&Redo"), QKeySequence::Redo, [this] { m_session.redo(); });
}

void MainWindow::makeSongActions() {
    add(QStringLiteral("nextSong"), tr("&Next song"), Qt::CTRL | Qt::Key_PageDown,
        [this] { m_session.openSong(m_session.songIndex() + 1); });
    add(QStringLiteral("previousSong"), tr("&Previous song"), Qt::CTRL | Qt::Key_PageUp,
        [this] { m_session.openSong(m_session.songIndex() - 1); });
    add(QStringLiteral("mendSafe"), tr("&Mend all that are safe"), {}, [this] { m_session.mendAllSafe(); });
    add(QStringLiteral("matchAgain"), tr("Match all parts &again"), {}, [this] {
        m_session.edit(tr("Match all again"), edits::followFileEverywhere);
    })->setIconText(tr("Match all again"));
    add(QStringLiteral("fonts"), tr("&Fonts and instruments…"), {}, [this] {
        (new FontsDialog(m_session, this))->open();
    })->setIconText(tr("Fonts and instruments…"));
    add(QStringLiteral("compare"), tr("&Compare two fonts"), Qt::Key_F7, [this] {
        m_session.toggleCompare();
    })->setCheckable(true);
    action(QStringLiteral("compare"))->setIconText(tr("Compare"));
    connect(&m_session, &Session::comparedChanged, this,
            [this] { action(QStringLiteral("compare"))->setChecked(m_session.comparedFont()); });
    add(QStringLiteral("bringToLevel"), tr("&Bring to level"), {}, [this] { m_session.bringToLevel(); });
    add(QStringLiteral("mixEffects"), tr("&Effects on the whole mix…"), {}, [this] {
        if (m_session.hasSong()) (new EffectsDialog(m_session, EffectsDialog::TheMix, this))->open();
    })->setIconText(tr("Effects…"));
    add(QStringLiteral("write"), tr("&Write the ticked files"), Qt::CTRL | Qt::Key_E, [this] {
        showPage(4);
        m_export->write();
    });
    add(QStringLiteral("stopWriting"), tr("S&top writing"), {}, [this] { m_export->stop(); });
}

void MainWindow::makePartActions() {
    const auto part = [this](const QString& name, Song (*change)(Song, PartId)) {
        return [this, name, change] {
            m_session.edit(
                name, [change, id = m_session.selectedPart()](const Song& song) { return change(song, id); });
        };
    };
    const auto nudge = [this](const QString& name, const QString& gesture,
                              std::function<Song(const Song&, const Part&)> change) {
        return [this, name, gesture, change] {
            m_session.edit(
                name,
                [this, change](const Song& song) {
                    return m_session.part() ? change(song, *song.part(m_session.selectedPart())) : song;
                },
                gesture + QString::number(m_session.selectedPart()));
        };
    };
    const auto step = [this](int by) {
        return [this, by] {
            const auto& parts = m_session.hasSong() ? m_session.song().parts : std::vector<Part>{};
            for (std::size_t i = 0; i < parts.size(); ++i) {
                const auto to = static_cast<std::ptrdiff_t>(i) + by;
                if (parts[i].id == m_session.selectedPart() && to >= 0 && to < std::ssize(parts) &&
                    !parts[static_cast<std::size_t>(to)].aside)
                    return m_session.selectPart(parts[static_cast<std::size_t>(to)].id);
            }
        };
    };
    add(QStringLiteral("nextPart"), tr("&Next part"), Qt::ALT | Qt::Key_PageDown, step(1));
    add(QStringLiteral("previousPart"), tr("&Previous part"), Qt::ALT | Qt::Key_PageUp, step(-1));
    add(QStringLiteral("rename"), tr("&Rename"), Qt::Key_F2, [this] {
        showPage(1);
        m_parts->renameSelected();
    });
    const auto move = [this](int by) {
        return [this, by] {
            m_session.edit(tr("Move part"), [id = m_session.selectedPart(), by](const Song& song) {
                for (std::size_t i = 0; i < song.parts.size(); ++i)
                    if (song.parts[i].id == id)
                        return edits::moveTo(song, id, std::max(0, static_cast<int>(i) + by));
                return song;
            });
        };
    };
    add(QStringLiteral("moveUp"), tr("Move &up"), Qt::ALT | Qt::Key_Up, move(-1));
    add(QStringLiteral("moveDown"), tr("Move &down"), Qt::ALT | Qt::Key_Down, move(1));
    add(QStringLiteral("octaveUp"), tr("Shift an octave u&p"), Qt::ALT | Qt::SHIFT | Qt::Key_Up,
        nudge(tr("Shift octaves"), QStringLiteral("setOctaves "), [](const Song& s, const Part& p) {
            return p.drums ? s : edits::setOctaves(s, p.id, p.octaves + 1);
        }));
    add(QStringLiteral("octaveDown"), tr("Shift an octave d&own"), Qt::ALT | Qt::SHIFT | Qt::Key_Down,
        nudge(tr("Shift octaves"), QStringLiteral("setOctaves "), [](const Song& s, const Part& p) {
            return p.drums ? s : edits::setOctaves(s, p.id, p.octaves - 1);
        }));
    add(QStringLiteral("louder"), tr("&Louder"), Qt::ALT | Qt::Key_Plus,
        nudge(tr("Set level"), QStringLiteral("setLevel "),
              [](const Song& s, const Part& p) { return edits::setLevel(s, p.id, p.levelDb + 1); }));
    add(QStringLiteral("softer"), tr("&Softer"), Qt::ALT | Qt::Key_Minus,
        nudge(tr("Set level"), QStringLiteral("setLevel "),
              [](const Song& s, const Part& p) { return edits::setLevel(s, p.id, p.levelDb - 1); }));
    add(QStringLiteral("findSound"), tr("&Find a sound on the shelf"), QKeySequence::Find, [this] {
        showPage(2);
        m_sounds->shelf()->search()->setFocus();
    });
    add(QStringLiteral("keepSound"), tr("&Keep the sound that is tried"), {},
        [this] { m_session.keepTried(); });
    add(QStringLiteral("dropSound"), tr("&Go back to the old sound"), {}, [this] { m_session.dropTried(); });
    add(QStringLiteral("followFile"), tr("Sound as the f&ile asks"), {},
        part(tr("As the file asks"), edits::followFile))
        ->setIconText(tr("As the file asks"));
    add(QStringLiteral("volumeIntoLevel"), tr("Make a fixed &volume the part's level"), {},
        part(tr("Make it the part's level"), edits::volumeIntoLevel));
    add(QStringLiteral("inFront"), tr("In fron&t of the others"), Qt::ALT | Qt::Key_1,
        part(tr("In front"), edits::putInFront));
    add(QStringLiteral("alone"), tr("&Alone"), Qt::ALT | Qt::Key_2, part(tr("Alone"), edits::onlyPart));
    add(QStringLiteral("without"), tr("All &but this part"), Qt::ALT | Qt::Key_3,
        part(tr("Without it"), edits::allBut));
    add(QStringLiteral("fullBand"), tr("Full ba&nd"), Qt::ALT | Qt::Key_0,
        [this] { m_session.edit(tr("Full band"), edits::everyone); });
}

void MainWindow::makeShapeActions() {
    const auto dialog = [this](auto make) {
        return [this, make] {
            if (m_session.hasSong() && m_session.part()) make()->open();
        };
    };
    const auto splitDialog = [this, dialog](SplitDialog::Way way) {
        return dialog([this, way] { return new SplitDialog(m_session, way, this); });
    };
    const auto splitNow = [this](const QString& name, Split (*way)(const Song&, const Part&)) {
        return [this, name, way] { m_session.split(name, way); };
    };
    const auto part = [this](const QString& name, auto change) {
        return [this, name, change] {
            m_session.edit(
                name, [change, id = m_session.selectedPart()](const Song& song) { return change(song, id); });
        };
    };
    add(QStringLiteral("split"), tr("&Split…"), Qt::Key_F4, splitDialog(SplitDialog::ByProgram))
        ->setIconText(tr("Split…"));
    add(QStringLiteral("splitProgram"), tr("Split by &instrument change"), {},
        splitNow(tr("Split by instrument change"), splitByProgram))
        ->setIconText(tr("instrument change"));
    add(QStringLiteral("splitPitch"), tr("Split by &pitch…"), {}, splitDialog(SplitDialog::ByPitch))
        ->setIconText(tr("pitch"));
    add(QStringLiteral("splitLines"), tr("Split into &top and bottom line"), {},
        splitNow(tr("Split into top and bottom line"),
                 [](const Song& s, const Part& p) { return splitIntoLines(s, p, 2); }))
        ->setIconText(tr("top and bottom line"));
    add(QStringLiteral("splitPiece"), tr("Split by piece of the &kit"), {},
        splitNow(tr("Split by piece of the kit"), splitByPiece))
        ->setIconText(tr("piece of the kit"));
    add(QStringLiteral("splitChannel"), tr("Split by &channel"), {},
        splitNow(tr("Split by channel"), splitByChannel))
        ->setIconText(tr("channel"));
    add(QStringLiteral("splitSections"), tr("Split by s&ection"), {},
        splitNow(tr("Split by section"), splitBySection))
        ->setIconText(tr("section"));
    add(QStringLiteral("splitPlace"), tr("Split at a pl&ace…"), {}, splitDialog(SplitDialog::AtPlace));
    add(QStringLiteral("join"), tr("&Join…"), Qt::Key_F5,
        dialog([this] { return new JoinDialog(m_session, this); }))
        ->setIconText(tr("Join…"));
    add(QStringLiteral("events"), tr("E&vents"), Qt::Key_F6, [this] {
        const bool show = page() != 1 || !m_parts->showsEvents();
        showPage(1);
        m_parts->showEvents(show);
    });
    add(QStringLiteral("controllers"), tr("&Controllers…"), {},
        dialog([this] { return new ControllersDialog(m_session, this); }))
        ->setIconText(tr("Controllers…"));
    add(QStringLiteral("pitchVelocity"), tr("Pitch and velocit&y…"), {},
        dialog([this] { return new PitchDialog(m_session, this); }))
        ->setIconText(tr("Pitch and velocity…"));
    add(QStringLiteral("makeDrums"), tr("Make it dru&ms"), {}, part(tr("Make it drums"), edits::makeDrums))
        ->setIconText(tr("Make drums"));
    add(QStringLiteral("makePitched"), tr("Make it pitche&d"), {},
        part(tr("Make it pitched"), edits::makePitched))
        ->setIconText(tr("Make pitched"));
    add(QStringLiteral("fixProgram"), tr("Fi&x the sound"), {},
        part(tr("Fix the sound"), [](const Song& song, PartId id) { return edits::fixProgram(song, id); }));
    add(QStringLiteral("followPrograms"), tr("Follow the file's pro&gram changes"), {},
        part(tr("Follow program changes"), edits::followPrograms));
    add(QStringLiteral("tempo"), tr("&Tempo and bars…"), {},
        dialog([this] { return new TempoDialog(m_session, this); }));
    add(QStringLiteral("sections"), tr("S&ections…"), {},
        dialog([this] { return new SectionsDialog(m_session, this); }));
    add(QStringLiteral("sectionHere"), tr("Section from &here"), Qt::Key_F9, [this] {
        if (!m_session.hasSong()) return;
        const TempoMap& map = *m_session.song().tempo;
        const Tick bar = map.barStart(map.position(m_session.place()).bar);
        m_session.edit(tr("Add a section"), [bar, name = tr("Section").toStdString()](const Song& song) {
            return edits::addSection(song, bar, name);
        });
    });
    add(QStringLiteral("encoding"), tr("Te&xt encoding…"), {},
        dialog([this] { return new EncodingDialog(m_session, this); }));
    add(QStringLiteral("tracksToSongs"), tr("Each trac&k a song of its own"), {},
        [this] { m_session.tracksToSongs(); });
}

void MainWindow::makeSoundActions() {
    const auto shelf = [this](void (Shelf::*what)()) {
        return [this, what] {
            showPage(2);
            (m_sounds->shelf()->*what)();
        };
    };
    const auto dialog = [this](auto make) {
        return [this, make] {
            if (m_session.part()) make()->open();
        };
    };
    const auto part = [this](const QString& name, auto change) {
        return [this, name, change] {
            if (const Part* selected = m_session.part())
                m_session.edit(name, [&](const Song& song) { return change(song, *selected); });
        };
    };
    const auto preset = [this](const Part& selected) -> const Preset* {
        const PartMatch* match = m_session.matchOf(selected.id);
        return match && match->first().sound ? m_session.catalogue().find(*match->first().sound) : nullptr;
    };
    add(QStringLiteral("useInSection"), tr("Use it in this &section only"), {}, shelf(&Shelf::useInSection));
    add(QStringLiteral("addLayer"), tr("Add it as a la&yer"), Qt::CTRL | Qt::Key_Return,
        shelf(&Shelf::addAsLayer));
    add(QStringLiteral("favourite"), tr("Keep it among the f&avourites, or not"), Qt::CTRL | Qt::Key_D,
        shelf(&Shelf::toggleFavourite));
    add(QStringLiteral("clearStretches"), tr("One sound throughout"), {},
        part(tr("One sound throughout"), [](Song song, const Part& selected) {
            for (const SoundStretch& stretch : selected.stretches)
                song = edits::clearStretch(std::move(song), selected.id, stretch.start);
            return song;
        }));
    add(QStringLiteral("layers"), tr("&Layers and controls…"), Qt::Key_F10,
        dialog([this] { return new LayersDialog(m_session, this); }))
        ->setIconText(tr("Layers and controls…"));
    add(QStringLiteral("effects"), tr("E&ffects…"), {},
        dialog([this] { return new EffectsDialog(m_session, EffectsDialog::ThePart, this); }))
        ->setIconText(tr("Effects…"));
    add(QStringLiteral("fitOctaves"), tr("Fit to the sound by &octaves"), {},
        part(tr("Fit by octaves"),
             [this, preset](const Song& song, const Part& selected) {
                 const Preset* plays = preset(selected);
                 if (!plays || selected.drums) return song;
                 const int octaves = bestOctaves(traitsOf(song, realise(song, selected)).keys, *plays);
                 return edits::setOctaves(song, selected.id, selected.octaves + octaves);
             }))
        ->setIconText(tr("Fit by octaves"));
    add(QStringLiteral("foldNotes"), tr("Move single notes into &range"), {},
        part(tr("Move single notes into range"),
             [preset](const Song& song, const Part& selected) {
                 const Preset* plays = preset(selected);
                 return edits::foldInto(song, selected.id,
                                        selected.folded || !plays ? std::nullopt
                                                                  : std::optional(foldRange(*plays)));
             }))
        ->setIconText(tr("Move single notes in"));
    action(QStringLiteral("foldNotes"))->setCheckable(true);
    add(QStringLiteral("levels"), tr("&Levels of all parts"), Qt::Key_F3, [this] {
        const bool show = page() != 2 || !m_sounds->showsLevels();
        showPage(2);
        m_sounds->showLevels(show);
    });
}

void MainWindow::addPartButtons() {
    const auto of = [this](const QStringList& ids) {
        QList<QAction*> actions;
        for (const QString& id : ids) actions << action(id);
        return actions;
    };
    const auto L = [](const char* ids) { return QString::fromLatin1(ids).split(QLatin1Char(' ')); };
    m_parts->addActions(of(L("split join events")), of(L("splitProgram splitPitch splitLines splitPiece")),
                        of(L("controllers pitchVelocity makeDrums makePitched")));
    m_sounds->shelf()->offer(of(L("useInSection addLayer favourite")));
    m_sounds->rows()->addActions(
        of(L("findSound layers effects fitOctaves foldNotes clearStretches followFile")));
    m_sounds->rows()->setContextMenuPolicy(Qt::ActionsContextMenu);
    for (QAction* item : of(L("rename split splitProgram splitPitch splitLines splitPiece splitSections join "
                              "events controllers "
                              "pitchVelocity makeDrums makePitched fixProgram followPrograms")))
        m_parts->rows()->addAction(item);
}

void MainWindow::makePlayActions() {
    add(QStringLiteral("play"), tr("&Play or stop"), Qt::Key_Space, [this] { m_session.togglePlay(); });
    add(QStringLiteral("toStart"), tr("To the &start"), Qt::CTRL | Qt::Key_Home,
        [this] { m_session.seek(0); });
    QAction* loop = add(QStringLiteral("loop"), tr("&Loop"), Qt::CTRL | Qt::Key_L, [this] {
        auto to = m_session.loop();
        if (to.end <= to.start && m_session.hasSong()) { // nothing marked: the section or the song
            to = {0, m_session.song().end, false};
            for (const Section& section : m_session.song().sections)
                if (m_session.place() >= section.start && m_session.place() < section.end)
                    to = {section.start, section.end, false};
        }
        to.on = !m_session.loop().on;
        m_session.setLoop(to);
    });
    loop->setCheckable(true);
    const auto loopEnd = [this](bool end) {
        return [this, end] {
            if (!m_session.hasSong()) return;
            const TempoMap& tempo = *m_session.song().tempo;
            const int bar = tempo.position(m_session.place()).bar;
            auto to = m_session.loop();
            if (end)
                to.end = std::min(tempo.barStart(bar + 1), m_session.song().end);
            else
                to.start = tempo.barStart(bar);
            if (to.end <= to.start)
                (end ? to.start : to.end) = end ? tempo.barStart(bar) : m_session.song().end;
            to.on = true;
            m_session.setLoop(to);
        };
    };
    add(QStringLiteral("loopFrom"), tr("Loop &from this bar"), Qt::CTRL | Qt::Key_Comma, loopEnd(false));
    add(QStringLiteral("loopTo"), tr("Loop &to this bar"), Qt::CTRL | Qt::Key_Period, loopEnd(true));
    const auto bar = [this](int by) {
        return [this, by] {
            if (m_session.hasSong())
                m_session.seek(m_session.song().tempo->barStart(
                    m_session.song().tempo->position(m_session.place()).bar + by));
        };
    };
    add(QStringLiteral("nextBar"), tr("Next &bar"), Qt::CTRL | Qt::Key_Right, bar(1));
    add(QStringLiteral("previousBar"), tr("Previous b&ar"), Qt::CTRL | Qt::Key_Left, bar(-1));
    add(QStringLiteral("nextSection"), tr("Next se&ction"), Qt::CTRL | Qt::SHIFT | Qt::Key_Right,
        [this] { m_session.seekSection(1); });
    add(QStringLiteral("previousSection"), tr("Pre&vious section"), Qt::CTRL | Qt::SHIFT | Qt::Key_Left,
        [this] { m_session.seekSection(-1); });
    add(QStringLiteral("slower"), tr("Slo&wer"), Qt::CTRL | Qt::Key_Down,
        [this] { m_session.setPace(m_session.pace() - 5); });
    add(QStringLiteral("faster"), tr("Fast&er"), Qt::CTRL | Qt::Key_Up,
        [this] { m_session.setPace(m_session.pace() + 5); });
    add(QStringLiteral("ownTempo"), tr("&Own tempo"), {}, [this] { m_session.setPace(100); });
    add(QStringLiteral("letters"), tr("Play al&ong with the letter keys"), Qt::Key_F11, [this] {
        m_playAlong->setLettersPlay(!m_playAlong->lettersPlay());
    })->setCheckable(true);
    connect(m_playAlong, &PlayAlong::changed, this,
            [this] { action(QStringLiteral("letters"))->setChecked(m_playAlong->lettersPlay()); });
    const auto key = [this](int by) {
        return [this, by] {
            m_session.edit(
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
            [this, i] { showPage(i); });
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
            Q_EMIT m_session.songChanged(); // what is painted takes the new colours
            Q_EMIT m_session.setChanged();
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
        QAction* choice = menu->addAction(name, this, [this, id] { m_playAlong->setInput(id); });
        choice->setCheckable(true);
        choice->setChecked(m_playAlong->input() == id);
    };
    offer(tr("No keyboard"), {});
    for (const PortInfo& port : midiInputs())
        offer(QString::fromStdString(port.name), QString::fromStdString(port.id));
    if (menu->actions().size() == 1) menu->addAction(tr("None is connected"))->setEnabled(false);
}

} // namespace cobbleway
