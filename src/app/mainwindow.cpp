#include "app/mainwindow.h"

#include "app/dialogs/ask.h"
#include "app/dialogs/forms.h"
#include "app/dialogs/keysdialog.h"
#include "app/dialogs/usefonts.h"
#include "app/look/theme.h"
#include "app/narrator.h"
#include "app/pages/drumspage.h"
#include "app/pages/exportpage.h"
#include "app/pages/partspage.h"
#include "app/pages/practicepage.h"
#include "app/pages/songspage.h"
#include "app/pages/soundspage.h"
#include "app/session/paths.h"
#include "app/session/session.h"
#include "app/session/settings.h"
#include "app/steps.h"
#include "app/widgets/fieldkeys.h"
#include "app/widgets/focus.h"
#include "app/widgets/head.h"
#include "app/widgets/notespicture.h"
#include "app/widgets/notices.h"
#include "app/widgets/pagestack.h"
#include "app/widgets/rail.h"
#include "app/widgets/snagdrawer.h"
#include "app/widgets/songstrip.h"
#include "app/widgets/surface.h"
#include "files/earliersaves.h"
#include "files/folders.h"

#include <QAbstractItemView>
#include <QApplication>
#include <QCloseEvent>
#include <QDateTime>
#include <QDragEnterEvent>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QMenuBar>
#include <QMessageBox>
#include <QMimeData>
#include <QPushButton>
#include <QScreen>
#include <QVBoxLayout>

namespace cobbleway {
namespace {

QString projectFilter() { return MainWindow::tr("Cobbleway sets (*.cobbleway)"); }
QString midiFilter() {
    return MainWindow::tr(
        "MIDI files (*.mid *.midi *.kar *.rmi *.smf *.MID *.MIDI *.KAR *.RMI *.SMF);;All files (*)");
}

} // namespace

MainWindow::MainWindow(Session& session) : m_session(session), m_stack(new PageStack) {
    setMinimumSize(480, 360);
    constexpr QSize frame(8, 32); // which the window manager adds
    resize(QSize(1280, 800).boundedTo(screen()->availableSize() - frame));
    setAcceptDrops(true);
    qApp->installEventFilter(new FieldKeys(this));
    qApp->installEventFilter(new OnScreen(this));
    qApp->installEventFilter(this);
    makeActions();
    m_rail = new Rail(session);
    makePages();
    makeMenus();
    addPartButtons();

    auto* centre = new QWidget;
    m_body = new QWidget;
    auto* middle = new QHBoxLayout(m_body);
    middle->setContentsMargins(0, 0, 0, 0);
    middle->setSpacing(0);
    middle->addWidget(m_rail);
    middle->addWidget(new FocusScroll(m_stack), 1);
    auto* column = new QVBoxLayout(centre);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    column->addWidget(new Head(session, action(QStringLiteral("undo")), action(QStringLiteral("redo")),
                               action(QStringLiteral("snags"))));
    column->addWidget(m_body, 1);
    auto* notices = new Notices([this](const QString& id) { return action(id); });
    column->addWidget(notices);
    connect(notices, &Notices::changed, this,
            [this] { QTimer::singleShot(0, this, &MainWindow::placeDrawer); });
    connect(&session.messages, &Messages::noted, notices, &Notices::note);
    connect(&session.messages, &Messages::noted, this, [this](const QString&, const QString& text) {
        if (!text.isEmpty()) Q_EMIT m_session.messages.announced(text);
    });
    column->addWidget(new SongStrip(session, action(QStringLiteral("toStart")),
                                    action(QStringLiteral("play")), action(QStringLiteral("loop"))));
    setCentralWidget(centre);
    m_drawer = new SnagDrawer(session, m_body);
    m_drawer->hide();
    m_narrator = new Narrator(session, this);

    connect(m_rail, &Rail::chosen, this, &MainWindow::showPage);
    connect(m_songs, &SongsPage::removeSelected, action(QStringLiteral("removeSong")), &QAction::trigger);
    connect(m_songs, &SongsPage::workOn, this, [this] { showPage(Step::Parts); });
    connect(m_drawer, &SnagDrawer::closed, this, [this] { showSnags(false); });
    connect(m_drawer, &SnagDrawer::goTo, this, &MainWindow::showPage);
    connect(&session.current, &CurrentSet::historyChanged, this, &MainWindow::refresh);
    connect(&session.current, &CurrentSet::songsChanged, this, &MainWindow::refresh);
    follow(session.current, Side::File | Side::Names | Side::Notes | Side::Sounds | Side::Time, this,
           &MainWindow::refreshActions);
    connect(&session.findings, &Findings::matchesChanged, this, &MainWindow::refreshActions);
    session.files.askAboutChanged = [this](const QString& path, const std::function<void(bool)>& then) {
        askAboutChangedSet(path, then);
    };
    session.files.mayReplace = [this](const std::function<void()>& then) { whenSaved(then); };
    for (const auto changed : {&Transport::loopChanged, &Transport::clickingChanged})
        connect(&session.transport, changed, this, &MainWindow::refreshActions);
    connect(&session.rounds, &Rounds::workChanged, this, &MainWindow::refreshActions);
    connect(&session.levelling, &Levelling::evennessChanged, this, &MainWindow::refreshActions);
    connect(&session.playAlong.pedals(), &Pedals::pressed, this, [this](const QString& id) {
        if (QAction* wanted = action(id)) wanted->trigger();
    });
    connect(&session.windows, &PluginWindows::pressed, this, [this](WindowKey key) {
        const char* const id = key == WindowKey::Play ? "play" : (key == WindowKey::Undo ? "undo" : "redo");
        action(QLatin1String(id))->trigger();
    });
    connect(&session.sounds, &Sounds::comparedChanged, this, &MainWindow::refreshActions);
    connect(&session.sounds, &Sounds::triedChanged, this, &MainWindow::refreshActions);
    connect(&session.planner, &Planner::endedPluginsChanged, this, &MainWindow::refreshActions);
    connect(&session.sounds, &Sounds::onlyChanged, this, &MainWindow::refreshActions);
    connect(&session.findings, &Findings::snagsChanged, this, &MainWindow::refreshActions);
    connect(&session.sounds, &Sounds::catalogueChanged, this, &MainWindow::refreshActions);
    connect(&session.playAlong, &PlayAlong::changed, this, &MainWindow::refreshActions);
    connect(&session.current, &CurrentSet::selectionChanged, this, &MainWindow::refreshActions);
    connect(&session.messages, &Messages::problem, this, [this](const QString& title, const QString& text) {
        auto* box =
            new QMessageBox(QMessageBox::NoIcon, title,
                            QStringLiteral("<b>%1</b>").arg(title.toHtmlEscaped()), QMessageBox::Ok, this);
        box->setInformativeText(text);
        box->setIconPixmap(icon(QStringLiteral("flag"), theme().ochreInk).pixmap(24, 24));
        box->setAttribute(Qt::WA_DeleteOnClose);
        box->open();
    });
    connect(&session.messages, &Messages::announced, this, [this](const QString& text) {
        const auto say = [this, text] {
            QWidget* modal = QApplication::activeModalWidget();
            announce(modal ? modal : this, text);
        };
        // Of a window that has not the focus, nothing is heard; a dialog may just be closing.
        constexpr int untilClosed = 1000; // milliseconds; readers drop what comes while a window opens
        if (QApplication::activeModalWidget())
            QTimer::singleShot(untilClosed, this, say);
        else
            say();
    });
    askAboutChanges = [this](const std::function<void(int)>& then) {
        auto* box = new QMessageBox(QMessageBox::Question, tr("Save the set?"),
                                    tr("The set has changes that are not saved."),
                                    QMessageBox::Save | QMessageBox::Discard | QMessageBox::Cancel, this);
        box->setDefaultButton(QMessageBox::Save);
        box->setAttribute(Qt::WA_DeleteOnClose);
        connect(box, &QMessageBox::finished, this, then);
        box->open();
    };
    askAboutRecovered = [this](const QString& about) {
        QMessageBox box(QMessageBox::NoIcon, tr("Work that was not saved"), about, QMessageBox::NoButton,
                        this);
        QPushButton* open = box.addButton(tr("Bring it back"), QMessageBox::AcceptRole);
        QPushButton* later = box.addButton(tr("Ask again next time"), QMessageBox::RejectRole);
        QPushButton* discard = box.addButton(tr("Throw it away"), QMessageBox::DestructiveRole);
        box.setDefaultButton(open);
        box.setEscapeButton(later);
        box.exec();
        return box.clickedButton() == open      ? Recovered::Open
               : box.clickedButton() == discard ? Recovered::Discard
                                                : Recovered::Later;
    };
    restoreGeometry(settings::windowGeometry());
    showPage(Step::Songs);
    refresh();
    findChild<StripView*>()->setFocus(); // one press of the space bar plays
}

MainWindow::~MainWindow() {
    hide(); // what ends as it is hidden, such as a difference that is heard, ends while the window is whole
    // The pages go one by one; none hears of the others.
    QList<QWidget*> views = findChildren<QWidget*>();
    views << this;
    for (QObject* sender :
         std::initializer_list<QObject*>{&m_session.messages, &m_session.current, &m_session.sounds,
                                         &m_session.findings, &m_session.output, &m_session.planner,
                                         &m_session.levelling, &m_session.transport, &m_session.rounds})
        for (QWidget* view : views) QObject::disconnect(sender, nullptr, view, nullptr);
    m_session.files.mayReplace = [](const std::function<void()>& then) { then(); };
    m_session.files.askAboutChanged = [](const QString&, const std::function<void(bool)>& then) {
        if (then) then(false);
    };
}

/// One page a step, in their order.
void MainWindow::makePages() {
    const auto actionsOf = [this](std::initializer_list<const char*> ids) {
        QList<QAction*> actions;
        for (const char* id : ids) actions << action(QLatin1String(id));
        return actions;
    };
    m_songs =
        new SongsPage(m_session, action(QStringLiteral("addFiles")), action(QStringLiteral("addFolder")));
    m_parts = new PartsPage(m_session);
    m_sounds = new SoundsPage(m_session, actionsOf({"compare", "matchAgain", "fonts"}),
                              actionsOf({"layers", "effects", "fitOctaves", "foldNotes", "followFile"}),
                              action(QStringLiteral("effects")), action(QStringLiteral("mixEffects")));
    m_drums = new DrumsPage(m_session);
    m_export = new ExportPage(m_session);
    auto* practice = new PracticePage(m_session);
    const std::initializer_list<QWidget*> pages = {m_songs, m_parts, m_sounds, m_drums, practice, m_export};
    for (QWidget* page : pages) m_stack->addWidget(page);
    // What gets the focus with the page.
    for (const auto& [page, list] : std::initializer_list<std::pair<QWidget*, QWidget*>>{
             {m_parts, m_parts->rows()}, {m_sounds, m_sounds->rows()}, {m_drums, m_drums->rows()}})
        page->setFocusProxy(list);
    m_songs->setFocusProxy(m_songs->findChild<QAbstractItemView*>());
    m_export->setFocusProxy(m_export->findChild<QAbstractItemView*>(QStringLiteral("exportList")));
    practice->setFocusProxy(practice->findChild<NotesPicture*>());
    Q_ASSERT(m_stack->count() == static_cast<int>(stepTexts().size()));
}

QAction* MainWindow::action(const QString& id) const { return m_actions.value(id); }

void MainWindow::showPage(Step step) {
    takeTyping(this);
    const bool another = step != page();
    m_stack->setCurrentIndex(static_cast<int>(step));
    m_rail->setCurrent(step);
    if (step != Step::Sounds) m_session.sounds.dropTried();
    if (step == Step::Drums)
        m_drums->takeSelection();
    else
        m_session.sounds.hearOnly({});
    if (!isVisible()) return;
    m_stack->currentWidget()->setFocus(); // its main list, also from elsewhere on the page
    if (another) Q_EMIT m_session.messages.announced(tr("Page %1").arg(stepName(step)));
}

Step MainWindow::page() const { return static_cast<Step>(m_stack->currentIndex()); }

void MainWindow::placeDrawer() {
    const int width = std::min(SnagDrawer::usualWidth, m_body->width());
    m_drawer->setGeometry(m_body->width() - width, 0, width, m_body->height());
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
    m_drawer->takeFocus();
}

void MainWindow::refresh() {
    QAction* undo = action(QStringLiteral("undo"));
    QAction* redo = action(QStringLiteral("redo"));
    undo->setText(m_session.current.canUndo() ? tr("&Undo: %1").arg(m_session.current.undoName())
                                              : tr("&Undo"));
    redo->setText(m_session.current.canRedo() ? tr("&Redo: %1").arg(m_session.current.redoName())
                                              : tr("&Redo"));
    refreshActions();
    const QString name = m_session.current.projectPath().isEmpty()
                             ? tr("New set")
                             : QFileInfo(m_session.current.projectPath()).completeBaseName();
    setWindowTitle(tr("%1[*] — Cobbleway").arg(name));
    setWindowModified(!m_session.current.isClean());
}

void MainWindow::fillRecent() {
    m_recent->clear();
    for (const QString& path : settings::recentFiles())
        m_recent
            ->addAction(QFileInfo(path).completeBaseName(), this,
                        [this, path] { m_session.files.open(path); })
            ->setToolTip(path);
    if (m_recent->isEmpty()) m_recent->addAction(tr("None yet"))->setEnabled(false);
    addEarlierSaves();
}

/// Of the set that is open, or else of the one that was open last.
void MainWindow::addEarlierSaves() {
    const QString open = m_session.current.projectPath();
    const QString path = open.isEmpty() ? settings::recentFiles().value(0) : open;
    const auto saves =
        path.isEmpty() ? std::vector<EarlierSave>{} : earlierSaves(pathOf(path), stateFolder());
    if (saves.empty()) return;
    m_recent->addSeparator();
    const QString name = QFileInfo(path).completeBaseName();
    for (const EarlierSave& save : saves) {
        const auto time = QDateTime::fromSecsSinceEpoch(std::chrono::system_clock::to_time_t(save.time));
        m_recent->addAction(
            tr("%1 as saved on %2").arg(name, QLocale().toString(time, QLocale::ShortFormat)), this,
            [this, path, file = textOfPath(save.file)] { m_session.files.openEarlier(file, path); });
    }
}

void MainWindow::offerRecovered() {
    for (const Recovery::Left& left : Recovery::left()) {
        const QString name =
            left.path.isEmpty() ? tr("A set that was never saved") : QFileInfo(left.path).completeBaseName();
        const QString when =
            left.time.isValid() ? QLocale().toString(left.time, QLocale::ShortFormat) : tr("unknown");
        QString about =
            tr("<b>%1</b><p>The program ended before these changes were saved. They were kept on %2.</p>")
                .arg(name.toHtmlEscaped(), when);
        if (!left.changes.isEmpty())
            about +=
                tr("<p>Last changes: %1.</p>").arg(left.changes.join(QStringLiteral(", ")).toHtmlEscaped());
        switch (askAboutRecovered(about)) {
        case Recovered::Open: return m_session.recovery.open(left); // the others are offered next time
        case Recovered::Discard: Recovery::discard(left); break;
        case Recovered::Later: break;
        }
    }
}

void MainWindow::whenSaved(const std::function<void()>& then) {
    takeTyping(this);
    if (m_session.current.isClean()) return then();
    askAboutChanges([this, then](int answer) {
        if (answer == QMessageBox::Save)
            saveSet(false, [then](bool saved) {
                if (saved) then();
            });
        else if (answer == QMessageBox::Discard)
            then();
    });
}

void MainWindow::saveSet(bool askWhere, std::function<void(bool)> then) {
    takeTyping(this);
    const QString path = m_session.current.projectPath();
    if (!path.isEmpty() && !askWhere) return m_session.files.save(path, std::move(then));
    ask::whereToSave(this, tr("Save the set"), path, projectFilter(), {QLatin1String(projectEnding)},
                     [this, then = std::move(then)](const QString& chosen) {
                         m_session.files.save(chosen, then, SetFiles::Saving::Anyway); // it was asked
                     });
}

void MainWindow::askAboutChangedSet(const QString& path, const std::function<void(bool)>& then) {
    auto* box = new QMessageBox(QMessageBox::NoIcon, tr("The set has changed on disk"),
                                tr("<b>Another program has changed %1 since it was read.</b>")
                                    .arg(QFileInfo(path).fileName().toHtmlEscaped()),
                                QMessageBox::NoButton, this);
    box->setInformativeText(tr("Reload takes what is there now; your changes can be brought back with Undo. "
                               "Replace keeps what is there as an earlier save."));
    QPushButton* reload = box->addButton(tr("Reload"), QMessageBox::AcceptRole);
    QPushButton* replace = box->addButton(tr("Replace"), QMessageBox::DestructiveRole);
    QPushButton* elsewhere = box->addButton(tr("Save as…"), QMessageBox::AcceptRole);
    box->setDefaultButton(elsewhere);
    box->setEscapeButton(box->addButton(QMessageBox::Cancel));
    ask::withButtons(box, [=, this](const QPushButton* pressed) {
        if (pressed == replace) return m_session.files.save(path, then, SetFiles::Saving::Anyway);
        if (pressed == elsewhere) return saveSet(true, then);
        if (pressed == reload) m_session.files.reload();
        if (then) then(false);
    });
}

/// They go beside the set's file, so that it needs one.
void MainWindow::collectFiles() {
    if (!m_session.current.projectPath().isEmpty()) return m_session.files.collect();
    saveSet(true, [this](bool saved) {
        if (saved) m_session.files.collect();
    });
}

void MainWindow::openSet() {
    ask::forFile(this, tr("Open a set"), {}, projectFilter(),
                 [this](const QString& path) { m_session.files.open(path); });
}

void MainWindow::addFiles() {
    ask::forFiles(this, tr("Add MIDI files"), midiFilter(),
                  [this](const QStringList& paths) { m_session.files.addPaths(paths); });
}

void MainWindow::addFolder() {
    ask::forFolder(this, tr("Add a folder of MIDI files"), {},
                   [this](const QString& folder) { m_session.files.addPaths({folder}); });
}

void MainWindow::showAbout() {
    auto* box = new QMessageBox(
        QMessageBox::NoIcon, tr("About Cobbleway"),
        tr("<b>Cobbleway %1</b><p>From a MIDI file to a practice track.</p><p>GPL-3.0-or-later. Typeface: "
           "Inter, Open Font License. Icons: Lucide, ISC.</p>")
            .arg(QCoreApplication::applicationVersion()),
        QMessageBox::Ok, this);
    box->setAttribute(Qt::WA_DeleteOnClose);
    box->open();
}

void MainWindow::showKeys() {
    auto* dialog = new KeysDialog(m_rows, m_actions, this);
    connect(dialog, &KeysDialog::changed, this, [this](const QString& id) {
        for (const ActionRow& row : m_rows)
            if (id == QLatin1String(row.id)) action(id)->setShortcuts(keysOf(row));
    });
    dialog->open();
}

void MainWindow::closeEvent(QCloseEvent* event) {
    takeTyping(this);
    if (!m_mayClose && !m_session.current.isClean()) {
        event->ignore();
        whenSaved([this] {
            m_mayClose = true;
            QTimer::singleShot(0, this, &QWidget::close); // not within this event
        });
        return;
    }
    m_export->stop();
    settings::setWindowGeometry(saveGeometry());
    event->accept();
    Q_EMIT closed();
}

void MainWindow::resizeEvent(QResizeEvent* event) {
    QMainWindow::resizeEvent(event);
    placeDrawer();
}

/// A press beside a field, on a button that takes no focus too, ends what is being typed in it.
void MainWindow::takeTypingElsewhere(const QWidget* pressed) {
    const QWidget* field = QApplication::focusWidget();
    if (field && field != pressed && !field->isAncestorOf(pressed) && !pressed->isAncestorOf(field))
        takeTyping(pressed);
}

/// A drag is one step to undo; the next drag of the same control is another.
bool MainWindow::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::MouseButtonPress)
        if (const auto* pressed = qobject_cast<QWidget*>(watched)) takeTypingElsewhere(pressed);
    if (event->type() == QEvent::MouseButtonRelease)
        QMetaObject::invokeMethod(&m_session.current, &CurrentSet::endGesture, Qt::QueuedConnection);
    if (auto* form =
            event->type() == QEvent::Show ? qobject_cast<Form*>(watched) : nullptr) // to compare by ear
        form->addActions(
            {action(QStringLiteral("play")), action(QStringLiteral("undo")), action(QStringLiteral("redo"))});
    return QMainWindow::eventFilter(watched, event);
}

void MainWindow::dragEnterEvent(QDragEnterEvent* event) {
    if (event->mimeData()->hasUrls()) event->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* event) {
    QStringList paths;
    for (const QUrl& url : event->mimeData()->urls())
        if (url.isLocalFile()) paths << textOfUrl(url);
    openPaths(paths);
    event->acceptProposedAction();
}

void MainWindow::openPaths(QStringList paths) {
    QStringList fonts;
    for (const QString& path : paths)
        if (isFontFile(path)) fonts << path;
    for (const QString& font : fonts) paths.removeAll(font);
    m_session.files.addPaths(paths);
    askHowToUse(this, m_session, fonts);
}

} // namespace cobbleway
