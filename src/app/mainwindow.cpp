#include "app/mainwindow.h"

#include "app/look/theme.h"
#include "app/pages/exportpage.h"
#include "app/pages/partspage.h"
#include "app/pages/practicepage.h"
#include "app/pages/songspage.h"
#include "app/pages/soundspage.h"
#include "app/session/playalong.h"
#include "app/session/session.h"
#include "app/session/settings.h"
#include "app/widgets/head.h"
#include "app/widgets/rail.h"
#include "app/widgets/snagdrawer.h"
#include "app/widgets/songstrip.h"
#include "app/widgets/spacekey.h"
#include "app/widgets/surface.h"

#include <QApplication>
#include <QCloseEvent>
#include <QDragEnterEvent>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QMenuBar>
#include <QMessageBox>
#include <QMimeData>
#include <QStackedWidget>
#include <QVBoxLayout>

namespace cobbleway {
namespace {

const QString projectFilter = QObject::tr("Cobbleway sets (*.cobbleway)");
const QString midiFilter =
    QObject::tr("MIDI files (*.mid *.midi *.kar *.rmi *.smf *.MID *.MIDI *.KAR *.RMI *.SMF);;All files (*)");

} // namespace

MainWindow::MainWindow(Session& session) : m_session(session), m_stack(new QStackedWidget) {
    setMinimumSize(1000, 660);
    resize(1280, 800);
    setAcceptDrops(true);
    m_playAlong = new PlayAlong(session, this);
    qApp->installEventFilter(new SpaceKey(this));
    makeActions();
    m_rail = new Rail(session, {tr("Songs"), tr("Parts"), tr("Sounds"), tr("Practice"), tr("Export")});
    auto* songs =
        new SongsPage(session, action(QStringLiteral("addFiles")), action(QStringLiteral("addFolder")));
    m_parts = new PartsPage(session);
    const auto of = [this](std::initializer_list<const char*> ids) {
        QList<QAction*> actions;
        for (const char* id : ids) actions << action(QLatin1String(id));
        return actions;
    };
    m_sounds = new SoundsPage(session, of({"compare", "matchAgain", "fonts"}),
                              of({"layers", "effects", "fitOctaves", "foldNotes", "followFile"}),
                              action(QStringLiteral("effects")), action(QStringLiteral("mixEffects")));
    m_export = new ExportPage(session);
    m_stack->addWidget(songs);
    m_stack->addWidget(m_parts);
    m_stack->addWidget(m_sounds);
    m_stack->addWidget(new PracticePage(session));
    m_stack->addWidget(m_export);
    makeMenus();
    addPartButtons();

    auto* centre = new QWidget;
    m_body = new QWidget;
    auto* middle = new QHBoxLayout(m_body);
    middle->setContentsMargins(0, 0, 0, 0);
    middle->setSpacing(0);
    middle->addWidget(m_rail);
    middle->addWidget(m_stack, 1);
    auto* column = new QVBoxLayout(centre);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    column->addWidget(new Head(session, action(QStringLiteral("undo")), action(QStringLiteral("redo")),
                               action(QStringLiteral("snags"))));
    column->addWidget(m_body, 1);
    column->addWidget(new SongStrip(session, action(QStringLiteral("toStart")),
                                    action(QStringLiteral("play")), action(QStringLiteral("loop"))));
    setCentralWidget(centre);
    m_drawer = new SnagDrawer(session, m_body);
    m_drawer->hide();

    connect(m_rail, &Rail::chosen, this, &MainWindow::showPage);
    connect(songs, &SongsPage::workOn, this, [this] { showPage(1); });
    connect(m_drawer, &SnagDrawer::closed, this, [this] { showSnags(false); });
    connect(m_drawer, &SnagDrawer::goTo, this, &MainWindow::showPage);
    connect(&session, &Session::setChanged, this, &MainWindow::refresh);
    connect(&session, &Session::loopChanged, this, &MainWindow::refresh);
    connect(&session, &Session::selectionChanged, this, &MainWindow::refreshPartActions);
    connect(&session, &Session::problem, this, [this](const QString& title, const QString& text) {
        auto* box =
            new QMessageBox(QMessageBox::NoIcon, title,
                            QStringLiteral("<b>%1</b>").arg(title.toHtmlEscaped()), QMessageBox::Ok, this);
        box->setInformativeText(text);
        box->setIconPixmap(icon(QStringLiteral("flag"), theme().ochreInk).pixmap(24, 24));
        box->setAttribute(Qt::WA_DeleteOnClose);
        box->open();
    });
    connect(&session, &Session::announced, this, [this](const QString& text) { announce(this, text); });
    askAboutChanges = [this] {
        return QMessageBox::question(this, tr("Save the set?"), tr("The set has changes that are not saved."),
                                     QMessageBox::Save | QMessageBox::Discard | QMessageBox::Cancel,
                                     QMessageBox::Save);
    };
    restoreGeometry(settings::windowGeometry());
    showPage(0);
    refresh();
    findChild<StripView*>()->setFocus(); // one press of the space bar plays
}

MainWindow::~MainWindow() {
    if (QWidget* focus = focusWidget()) focus->clearFocus(); // what is being typed counts
    QObject::disconnect(&m_session, nullptr, nullptr,
                        nullptr); // the pages go one by one; none hears of the others
}

QAction* MainWindow::action(const QString& id) const { return m_actions.value(id); }

QAction* MainWindow::add(const QString& id, const QString& text, const QKeySequence& shortcut,
                         std::function<void()> handler) {
    auto* made = new QAction(text, this);
    made->setShortcut(shortcut);
    made->setObjectName(id);
    connect(made, &QAction::triggered, this, std::move(handler));
    addAction(made);
    m_actions.insert(id, made);
    return made;
}

void MainWindow::showPage(int step) {
    m_stack->setCurrentIndex(step);
    m_rail->setCurrent(step);
    if (step != 2) m_session.dropTried();
}

int MainWindow::page() const { return m_stack->currentIndex(); }

void MainWindow::placeDrawer() {
    m_drawer->setGeometry(m_body->width() - m_drawer->width(), 0, m_drawer->width(), m_body->height());
}

void MainWindow::showSnags(bool show) {
    placeDrawer();
    m_drawer->setVisible(show);
    action(QStringLiteral("snags"))->setChecked(show);
    if (!show) {
        findChild<StripView*>()->setFocus(); // not whatever button comes first: the space bar plays again
        return;
    }
    m_drawer->raise();
    m_drawer->setFocus();
}

void MainWindow::refresh() {
    const bool any = m_session.hasSong();
    QAction* undo = action(QStringLiteral("undo"));
    QAction* redo = action(QStringLiteral("redo"));
    undo->setEnabled(m_session.canUndo());
    undo->setText(m_session.canUndo() ? tr("&Undo: %1").arg(m_session.undoName()) : tr("&Undo"));
    redo->setEnabled(m_session.canRedo());
    redo->setText(m_session.canRedo() ? tr("&Redo: %1").arg(m_session.redoName()) : tr("&Redo"));
    for (const char* id : {"removeSong",
                           "nextSong",
                           "previousSong",
                           "mendSafe",
                           "matchAgain",
                           "write",
                           "nextPart",
                           "previousPart",
                           "rename",
                           "moveUp",
                           "moveDown",
                           "octaveUp",
                           "octaveDown",
                           "louder",
                           "softer",
                           "followFile",
                           "volumeIntoLevel",
                           "inFront",
                           "alone",
                           "without",
                           "fullBand",
                           "play",
                           "toStart",
                           "loop",
                           "loopFrom",
                           "loopTo",
                           "nextBar",
                           "previousBar",
                           "nextSection",
                           "previousSection",
                           "keyUp",
                           "keyDown",
                           "split",
                           "splitProgram",
                           "splitPitch",
                           "splitLines",
                           "splitPiece",
                           "splitChannel",
                           "splitSections",
                           "splitPlace",
                           "join",
                           "events",
                           "controllers",
                           "pitchVelocity",
                           "makeDrums",
                           "makePitched",
                           "fixProgram",
                           "followPrograms",
                           "tempo",
                           "sections",
                           "sectionHere",
                           "encoding",
                           "tracksToSongs",
                           "compare",
                           "bringToLevel",
                           "mixEffects",
                           "layers",
                           "effects",
                           "useInSection",
                           "addLayer",
                           "favourite",
                           "zoomIn",
                           "zoomOut",
                           "zoomAll"})
        action(QLatin1String(id))->setEnabled(any);
    refreshPartActions();
    action(QStringLiteral("loop"))->setChecked(m_session.loop().on);
    const QString name = m_session.projectPath().isEmpty()
                             ? tr("New set")
                             : QFileInfo(m_session.projectPath()).completeBaseName();
    setWindowTitle(tr("%1[*] — Cobbleway").arg(name));
    setWindowModified(!m_session.isClean());
}

void MainWindow::refreshPartActions() {
    const Part* part = m_session.part();
    if (!part) return;
    const auto enable = [this](const char* id, bool on) { action(QLatin1String(id))->setEnabled(on); };
    const auto show = [this](const char* id, bool on) { action(QLatin1String(id))->setVisible(on); };
    const PartMatch* match = m_session.matchOf(part->id);
    const auto parts = std::count_if(m_session.song().parts.begin(), m_session.song().parts.end(),
                                     [](const Part& p) { return !p.aside; });
    // A way to split that can give nothing is not offered.
    enable("splitProgram",
           !part->sound.chosen && part->sound.followsPrograms && match && match->asks.size() > 1);
    enable("splitChannel", m_session.origins(part->id)->size() > 1);
    enable("splitSections", m_session.song().sections.size() > 1);
    enable("join", parts > 1);
    show("splitPitch", !part->source.drums);
    show("splitLines", !part->source.drums);
    show("splitPiece", part->source.drums);
    show("makeDrums", !part->source.drums);
    show("makePitched", part->source.drums);
    enable("addLayer", part->sound.layers.size() < mostLayers);
    enable("clearStretches", !part->sound.stretches.empty());
    enable("followFile", part->sound.chosen || !part->sound.stretches.empty());
    const auto& sound = match ? match->first().sound : std::optional<SoundRef>();
    const bool ranged = !part->source.drums && sound && m_session.catalogue().find(*sound);
    enable("fitOctaves", ranged);
    enable("foldNotes", ranged || part->recipe.folded);
    action(QStringLiteral("foldNotes"))->setChecked(part->recipe.folded.has_value());
    enable("fixProgram", part->sound.followsPrograms && !part->sound.chosen);
    enable("followPrograms", !part->sound.followsPrograms);
    enable("tracksToSongs", m_session.song().source->midi.type == 2);
}

void MainWindow::fillRecent() {
    m_recent->clear();
    for (const QString& path : settings::recentFiles())
        m_recent
            ->addAction(QFileInfo(path).completeBaseName(), this,
                        [this, path] {
                            if (maybeSave()) m_session.open(path);
                        })
            ->setToolTip(path);
    if (m_recent->isEmpty()) m_recent->addAction(tr("None yet"))->setEnabled(false);
}

bool MainWindow::maybeSave() {
    if (m_session.isClean()) return true;
    const int answer = askAboutChanges();
    if (answer == QMessageBox::Save) return saveSet(false);
    return answer == QMessageBox::Discard;
}

bool MainWindow::saveSet(bool askWhere) {
    QString path = m_session.projectPath();
    if (path.isEmpty() || askWhere)
        path = QFileDialog::getSaveFileName(this, tr("Save the set"), path, projectFilter);
    if (path.isEmpty()) return false;
    if (!path.endsWith(QLatin1String(projectEnding))) path += QLatin1String(projectEnding);
    return m_session.save(path);
}

void MainWindow::openSet() {
    if (!maybeSave()) return;
    const QString path = QFileDialog::getOpenFileName(this, tr("Open a set"), {}, projectFilter);
    if (!path.isEmpty()) m_session.open(path);
}

void MainWindow::addFiles() {
    m_session.addPaths(QFileDialog::getOpenFileNames(this, tr("Add MIDI files"), {}, midiFilter));
}

void MainWindow::addFolder() {
    const QString folder = QFileDialog::getExistingDirectory(this, tr("Add a folder of MIDI files"));
    if (!folder.isEmpty()) m_session.addPaths({folder});
}

void MainWindow::setOutput(const QString& id) {
    const auto opened = m_session.player().open(id.toStdString());
    if (opened) return settings::setSoundOutput(id);
    Q_EMIT m_session.problem(tr("The sound output did not open"),
                             QString::fromStdString(opened.error().message()));
}

void MainWindow::showAbout() {
    QMessageBox::about(
        this, tr("About Cobbleway"),
        tr("<b>Cobbleway %1</b><p>From a MIDI file to a practice track.</p><p>GPL-3.0-or-later. Letters: "
           "Inter, Open Font License. Icons: Lucide, ISC.</p>")
            .arg(QCoreApplication::applicationVersion()));
}

void MainWindow::showKeys() {
    QString rows;
    for (const QAction* menuAction : menuBar()->actions())
        for (const QAction* item : menuAction->menu()->actions())
            if (!item->shortcut().isEmpty())
                rows += QStringLiteral("<tr><td><b>%1</b>&nbsp;&nbsp;</td><td>%2</td></tr>")
                            .arg(item->shortcut().toString(QKeySequence::NativeText).toHtmlEscaped(),
                                 item->text().remove(QLatin1Char('&')).toHtmlEscaped());
    QMessageBox box(QMessageBox::NoIcon, tr("Keys"), QStringLiteral("<table>%1</table>").arg(rows),
                    QMessageBox::Close, this);
    box.exec();
}

void MainWindow::closeEvent(QCloseEvent* event) {
    if (!maybeSave()) return event->ignore();
    m_export->stop();
    settings::setWindowGeometry(saveGeometry());
    event->accept();
}

void MainWindow::resizeEvent(QResizeEvent* event) {
    QMainWindow::resizeEvent(event);
    placeDrawer();
}

void MainWindow::dragEnterEvent(QDragEnterEvent* event) {
    if (event->mimeData()->hasUrls()) event->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* event) {
    QStringList paths;
    for (const QUrl& url : event->mimeData()->urls())
        if (url.isLocalFile()) paths << url.toLocalFile();
    m_session.addPaths(paths);
    event->acceptProposedAction();
}

} // namespace cobbleway
