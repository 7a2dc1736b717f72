#include "app/pages/exportpage.h"

#include "app/dialogs/ask.h"
#include "app/look/sentence.h"
#include "app/look/theme.h"
#include "app/pages/exportoptions.h"
#include "app/pages/exportview.h"
#include "app/session/jobs.h"
#include "app/session/paths.h"
#include "app/session/session.h"
#include "app/session/settings.h"
#include "app/widgets/painting.h"
#include "app/widgets/small.h"
#include "app/widgets/whenshown.h"
#include "song/shape/mixes.h"

#include <QDesktopServices>
#include <QFile>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QLabel>
#include <QMenu>
#include <QMessageBox>
#include <QPdfWriter>
#include <QProgressBar>
#include <QPushButton>
#include <QTextDocument>
#include <QUrl>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace cobbleway {
namespace {

/// What came of writing.
struct ExportEnd {
    SetOutcome made;
    QStringList silent; ///< what is not heard in the sound files, and why
};

QString filesText(std::size_t count) {
    return count == 1 ? QObject::tr("1 file") : QObject::tr("%1 files").arg(count);
}

/// The same part sheet as a PDF beside the HTML file, whole or not at all; a file that is there already
/// stays.
Result<Done> addPdf(const std::filesystem::path& html) {
    const auto target = freePath(std::filesystem::path(html).replace_extension(".pdf"));
    const auto bytes = readFile(html);
    if (!bytes) return bytes.error();
    const auto file = AtomicFile::open(target);
    if (!file) return file.error();
    const Error refused{{"error.pdf-write"}, target.string(), {"now.check-room"}};
    QFile out;
    if (!out.open(file.value()->descriptor(), QIODevice::WriteOnly | QIODevice::Unbuffered)) return refused;
    {
        QPdfWriter writer(&out);
        writer.setPageSize(QPageSize(QPageSize::A4));
        writer.setTitle(QString::fromStdString(html.stem().string()));
        QTextDocument document;
        document.setHtml(QString::fromUtf8(reinterpret_cast<const char*>(bytes.value().data()),
                                           static_cast<qsizetype>(bytes.value().size())));
        document.print(&writer);
    }
    if (out.error() != QFileDevice::NoError) return refused;
    return file.value()->commit();
}

/// Of play lists and PDFs, which have no row in the grid, what was not written.
QStringList problemsOf(const std::vector<ExportOutcome>& playlists) {
    QStringList problems;
    for (const ExportOutcome& list : playlists)
        if (!list.written && list.error.what.id != "error.left")
            problems << QString::fromStdString(list.error.message());
    return problems;
}

QString durationText(double seconds) {
    if (seconds < 50) return QObject::tr("less than a minute");
    const int minutes = static_cast<int>(std::lround(seconds / 60));
    return minutes <= 1 ? QObject::tr("about a minute") : QObject::tr("about %1 minutes").arg(minutes);
}

QString leftText(double seconds) {
    return seconds < 60 ? QObject::tr("%1 s left").arg(std::max(1L, std::lround(seconds)))
                        : QObject::tr("%1 min left").arg(std::lround(seconds / 60));
}

} // namespace

ExportPage::ExportPage(Uses<uses::Messages, uses::Set, uses::Sounds, uses::Transport, uses::Findings> session,
                       QWidget* parent)
    : QWidget(parent), m_session(session), m_grid(new ExportGrid(session, this)), m_view(new ExportView),
      m_options(new ExportOptionsPanel(session)),
      m_songs(new Segments({tr("This song"), tr("All songs")}, tr("Songs to write"))), m_count(mutedLabel()),
      m_status(mutedLabel()), m_plan(mutedLabel()), m_rowName(titleLabel()), m_rowFiles(mutedLabel()),
      m_progress(new QProgressBar), m_write(button(tr("Write files"), true)), m_stop(button(tr("Stop"))),
      m_recipes(button(tr("Recipe…"))), m_openFolder(button(tr("Open folder"))),
      m_hear(button(tr("Hear it"))) {
    m_view->setModel(m_grid);
    m_view->setObjectName(QStringLiteral("exportList"));
    m_write->setObjectName(QStringLiteral("writeFiles"));
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(14, 12, 12, 12);
    layout->setSpacing(8);
    makeTop(layout);
    m_songs->setCurrent(0);
    m_songs->setObjectName(QStringLiteral("exportSongs"));
    auto* card = new Card;
    card->column()->setContentsMargins(1, 1, 1, 1);
    card->column()->addWidget(m_view);
    auto* beside = new Card;
    beside->column()->setContentsMargins(1, 1, 1, 1);
    beside->column()->addWidget(m_options, 1);
    beside->column()->addLayout([this] {
        auto* foot = new QVBoxLayout;
        foot->setContentsMargins(16, 4, 16, 12);
        m_plan->setWordWrap(true);
        m_plan->setObjectName(QStringLiteral("exportPlan"));
        foot->addWidget(m_plan);
        foot->addWidget(m_progress);
        auto* line = new QHBoxLayout;
        line->addWidget(m_status, 1);
        line->addWidget(m_stop);
        foot->addLayout(line);
        return foot;
    }());
    makeRow(m_options->top());
    auto* columns = new QHBoxLayout;
    columns->setSpacing(14);
    columns->addWidget(card, 1);
    columns->addWidget(beside);
    layout->addLayout(columns, 1);
    m_status->setObjectName(QStringLiteral("exportStatus"));
    m_status->setWordWrap(true);
    m_progress->setRange(0, 1000);
    m_progress->setTextVisible(false);
    m_progress->setAccessibleName(tr("Progress"));
    connect(m_write, &QPushButton::clicked, this, &ExportPage::write);
    connect(m_stop, &QPushButton::clicked, this, &ExportPage::stop);
    m_countSoon.setSingleShot(true);
    connect(&m_countSoon, &QTimer::timeout, this, &ExportPage::refreshCount);
    connect(m_grid, &ExportGrid::ticksChanged, this, &ExportPage::countSoon);
    connect(m_options, &ExportOptionsPanel::changed, this, [this] {
        if (asNow() != m_writtenAs) m_grid->forgetTold();
        countSoon();
    });
    connect(m_view->selectionModel(), &QItemSelectionModel::currentChanged, this, &ExportPage::refreshRow);
    askAboutExisting = [this](const auto& there, const auto& then) { askWhatBecomesOf(there, then); };
    m_shown = new WhenShown(this, [this] { refresh(); });
    follow(m_session.current, allSides, m_shown, &WhenShown::request);
    connect(&m_session.current, &CurrentSet::songsChanged, m_shown, &WhenShown::request);
    refresh();
}

ExportPage::~ExportPage() { m_stopSource.request_stop(); }

void ExportPage::makeTop(QVBoxLayout* layout) {
    auto* top = new QHBoxLayout;
    top->addWidget(titleLabel(tr("Export")));
    m_count->setObjectName(QStringLiteral("exportCount"));
    top->addWidget(m_count, 1);
    auto* none = button(tr("Tick none"));
    m_recipes->setToolTip(tr("Ticks and options under a name"));
    for (QWidget* widget : {static_cast<QWidget*>(m_songs), static_cast<QWidget*>(m_recipes),
                            static_cast<QWidget*>(none), static_cast<QWidget*>(m_write)})
        top->addWidget(widget);
    layout->addLayout(top);
    connect(m_songs, &Segments::chosen, this, [this](int which) { showAllSongs(which == 1); });
    connect(m_recipes, &QPushButton::clicked, this, &ExportPage::showRecipes);
    connect(none, &QPushButton::clicked, this, [this] {
        for (const int song : songsShown()) m_grid->tickOnly(song, [](const ExportItem&) { return false; });
    });
}

/// What belongs to the row in hand: the names its files will have, or had, and what to do with them.
void ExportPage::makeRow(QVBoxLayout* column) {
    m_rowFiles->setWordWrap(true);
    m_rowFiles->setObjectName(QStringLiteral("exportRowFiles"));
    column->addWidget(m_rowName);
    column->addWidget(m_rowFiles);
    auto* line = new QHBoxLayout;
    line->addWidget(m_hear);
    line->addWidget(m_openFolder);
    line->addStretch();
    column->addLayout(line);
    m_hear->setToolTip(tr("Opens the file in the player of your desktop"));
    connect(m_openFolder, &QPushButton::clicked, this, [this] {
        QDesktopServices::openUrl(QUrl::fromLocalFile(QString::fromStdString(m_options->folder().string())));
    });
    connect(m_hear, &QPushButton::clicked, this, [this] {
        for (const auto& told : m_grid->toldIn(m_view->currentIndex()))
            if (told.result == ExportGrid::Written || told.result == ExportGrid::Otherwise) {
                QDesktopServices::openUrl(QUrl::fromLocalFile(QString::fromStdString(told.path.string())));
                return;
            }
    });
}

void ExportPage::setFolder(const QString& folder) { m_options->setFolder(folder); }

ExportGrid* ExportPage::model() {
    m_shown->ensure();
    return m_grid;
}

void ExportPage::tickOnly(const std::function<bool(const ExportItem&)>& wanted) {
    model()->tickOnly(m_session.current.songIndex(), wanted);
}

void ExportPage::showAllSongs(bool all) {
    m_all = all;
    m_songs->setCurrent(all ? 1 : 0);
    refresh();
}

std::vector<int> ExportPage::songsShown() const {
    if (!m_all)
        return m_session.current.hasSong() ? std::vector{m_session.current.songIndex()} : std::vector<int>{};
    std::vector<int> all(m_session.current.set().songs.size());
    for (std::size_t i = 0; i < all.size(); ++i) all[i] = static_cast<int>(i);
    return all;
}

Recipe ExportPage::recipe() const {
    Recipe recipe = m_options->recipe();
    if (m_session.current.hasSong()) m_grid->putTicksInto(recipe, m_session.current.songIndex());
    return recipe;
}

void ExportPage::use(const Recipe& recipe) {
    m_shown->ensure();
    m_options->take(recipe);
    for (const int song : songsShown()) m_grid->tickOnly(song, wantedBy(recipe));
    m_recipes->setText(recipe.name.empty() ? tr("Recipe…")
                                           : tr("Recipe: %1…").arg(QString::fromStdString(recipe.name)));
}

std::vector<SongExport> ExportPage::ticked() {
    m_shown->ensure();
    std::vector<SongExport> songs;
    std::set<std::string> taken;
    const SongSet& set = m_session.current.set();
    for (const int song : songsShown()) {
        if (!m_grid->anyTicked(song)) continue;
        const Song& from = *set.songs[static_cast<std::size_t>(song)];
        auto items = itemsFor(
            from, m_options->recipe(), [&](const ExportItem& item) { return m_grid->isTicked(song, item); },
            set.name, song + 1, taken);
        songs.push_back({from, std::move(items), song + 1});
    }
    return songs;
}

void ExportPage::refresh() {
    m_grid->refresh();
    const auto songs = m_session.current.set().songs.size();
    m_songs->setVisible(songs > 1);
    if (songs <= 1) m_all = false;
    m_view->showSong(m_all ? -1 : m_session.current.songIndex());
    m_options->setForAll(m_all);
    m_options->refreshMidi();
    refreshCount();
}

/// Ticks of hundreds of songs are counted once, when they have come to rest.
void ExportPage::countSoon() {
    constexpr std::size_t few = 40;
    if (songsShown().size() <= few) return refreshCount();
    m_countSoon.start(250);
}

void ExportPage::refreshCount() {
    const auto songs = ticked();
    m_counted.clear();
    std::size_t files = 0;
    double seconds = 0, work = 0, bytes = 0;
    ExportOptions options = optionsOf(m_options->recipe(), {});
    options.stretch = m_options->stretch();
    ExportOptions plain = options;
    plain.finish = {};
    for (const SongExport& song : songs) {
        files += song.items.size();
        m_counted[song.number - 1] = song.items;
        bytes += static_cast<double>(bytesNeeded(song.song, song.items, plain));
        double longest = 0;
        for (const ExportItem& item : song.items) {
            const double length = secondsOf(song.song, item, options);
            seconds += length;
            longest = std::max(longest, length);
        }
        work += longest; // one synthesis for all of a song, at about thirty times its speed
    }
    QString text = filesText(files);
    if (!m_session.current.hasSong())
        text = tr("Add a song to see what can be written of it");
    else if (seconds > 0)
        text += tr(" · %1 of music · about %2 MB · %3")
                    .arg(timeText(seconds))
                    .arg(std::max(1L, std::lround(bytes / 1e6)))
                    .arg(durationText(work / 30 + seconds / 120));
    m_count->setText(text);
    m_plan->setText(planText(songs));
    m_plan->setVisible(files > 0);
    m_write->setEnabled(files > 0 && !m_writing);
    m_progress->setVisible(m_writing);
    m_stop->setVisible(m_writing);
    m_recipes->setEnabled(m_session.current.hasSong());
    refreshRow();
}

std::pair<Recipe, std::optional<std::pair<Tick, Tick>>> ExportPage::asNow() const {
    return {m_options->recipe(), m_options->stretch()};
}

/// Where the files go, and which songs do not stand as the whole band.
QString ExportPage::planText(const std::vector<SongExport>& songs) const {
    QStringList standing;
    for (const SongExport& song : songs)
        if (const Message how = mixStanding(song.song); !how.empty())
            standing << tr("%1 stands on “%2” on Practice.")
                            .arg(QString::fromStdString(song.song.title), sentence(how));
    constexpr qsizetype most = 2;
    const qsizetype all = standing.size();
    standing = standing.mid(0, most);
    if (all > most) standing << tr("… and %1 more songs.").arg(all - most);
    // A path may be broken after each of its folders.
    const QString folder = QString::fromStdString(m_options->folder().string())
                               .replace(QLatin1Char('/'), QStringLiteral("/\u200B"));
    QString text = tr("Into %1.").arg(folder);
    if (!standing.isEmpty())
        text += QLatin1Char(' ') + standing.join(QLatin1Char(' ')) + QLatin1Char(' ') +
                tr("“Whole song” is written with all parts.");
    return text;
}

void ExportPage::refreshRow() {
    const QModelIndex cell = m_view->currentIndex();
    const int song = m_grid->songOf(cell);
    m_hear->hide();
    m_openFolder->hide();
    m_rowName->setVisible(song >= 0);
    m_rowFiles->setVisible(song >= 0);
    if (song < 0) return;
    m_rowName->setText(cell.siblingAtColumn(0).data().toString());
    QStringList lines;
    bool written = false, sound = false;
    for (const auto& told : m_grid->toldIn(cell)) {
        if (told.result == ExportGrid::Waiting) continue;
        lines << (cell.column() == ExportGrid::Name || !cell.parent().isValid()
                      ? told.fileName
                      : tr("%1: %2").arg(told.fileName, told.text));
        const bool isThere = told.result == ExportGrid::Written || told.result == ExportGrid::Otherwise;
        written = written || isThere;
        sound = sound || (isThere && !told.text.startsWith(tr("written")));
    }
    if (lines.isEmpty()) {
        const auto isHere = m_grid->itemsOf(cell);
        for (const ExportItem& item : m_counted[song])
            if (isHere(item)) lines << QString::fromStdString(item.fileName);
    }
    constexpr qsizetype most = 4;
    const qsizetype all = lines.size();
    lines = lines.mid(0, most);
    if (all > most) lines << tr("… and %1 more").arg(all - most);
    m_rowFiles->setText(lines.isEmpty() ? tr("Nothing is ticked here.") : lines.join(QLatin1Char('\n')));
    m_hear->setVisible(sound);
    m_openFolder->setVisible(written);
}

void ExportPage::showRecipes() {
    auto* menu = new QMenu(this);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    const auto offer = [&](const Recipe& recipe) {
        menu->addAction(QString::fromStdString(recipe.name), this, [this, recipe] { use(recipe); });
    };
    for (const Recipe& recipe : shippedRecipes()) offer(recipe);
    const auto& own = m_session.current.set().recipes;
    if (!own.empty()) menu->addSeparator();
    for (const Recipe& recipe : own) offer(recipe);
    menu->addSeparator();
    menu->addAction(tr("Keep this as a recipe…"), this, [this] {
        auto* dialog = new QInputDialog(this);
        dialog->setAttribute(Qt::WA_DeleteOnClose);
        dialog->setWindowTitle(tr("Keep as a recipe"));
        dialog->setLabelText(tr("Name of the recipe"));
        connect(dialog, &QInputDialog::textValueSelected, this, [this](const QString& name) {
            if (name.trimmed().isEmpty()) return;
            SongSet set = m_session.current.set();
            Recipe kept = recipe();
            kept.name = name.trimmed().toStdString();
            std::erase_if(set.recipes, [&](const Recipe& r) { return r.name == kept.name; });
            set.recipes.push_back(kept);
            m_session.current.changeSet(tr("Keep recipe"), set);
            m_recipes->setText(tr("Recipe: %1…").arg(name.trimmed()));
        });
        dialog->open();
    });
    if (!own.empty()) {
        QMenu* remove = menu->addMenu(tr("Remove a recipe"));
        for (const Recipe& recipe : own)
            remove->addAction(QString::fromStdString(recipe.name), this, [this, name = recipe.name] {
                SongSet set = m_session.current.set();
                std::erase_if(set.recipes, [&](const Recipe& r) { return r.name == name; });
                m_session.current.changeSet(tr("Remove recipe"), set);
            });
    }
    menu->addAction(tr("Use a recipe file…"), this, [this] {
        ask::forFile(this, tr("Recipe file"), {}, tr("Recipes (*.json)"), [this](const QString& path) {
            const auto read = readRecipe(pathOf(path));
            if (read)
                use(read.value());
            else
                Q_EMIT m_session.messages.problem(tr("The recipe was not used"),
                                                  QString::fromStdString(read.error().message()));
        });
    });
    menu->addAction(tr("Save as a recipe file…"), this, [this] {
        ask::whereToSave(this, tr("Save recipe"), QStringLiteral("Recipe.json"), tr("Recipes (*.json)"),
                         {QStringLiteral(".json")}, [this](const QString& path) {
                             Recipe kept = recipe();
                             if (kept.name.empty()) kept.name = pathOf(path).stem().string();
                             if (const auto written = writeRecipe(kept, pathOf(path)); !written)
                                 Q_EMIT m_session.messages.problem(
                                     tr("The recipe was not saved"),
                                     QString::fromStdString(written.error().message()));
                         });
    });
    menu->popup(m_recipes->mapToGlobal(QPoint(0, m_recipes->height())));
}

/// Lists what is there already, and asks what is to become of it.
void ExportPage::askWhatBecomesOf(const std::vector<std::filesystem::path>& there,
                                  const std::function<void(Existing)>& then) {
    QStringList names;
    for (const auto& path : there)
        if (names.size() < 12) names << QString::fromStdString(path.filename().string());
    if (there.size() > 12) names << tr("… and %1 more").arg(there.size() - 12);
    auto* box = new QMessageBox(
        QMessageBox::NoIcon, tr("Files that are there already"),
        there.size() == 1 ? tr("A file of this name is in the folder already.")
                          : tr("%1 files of these names are in the folder already.").arg(there.size()),
        QMessageBox::Cancel, this);
    box->setInformativeText(names.join(QLatin1Char('\n')));
    QPushButton* number = box->addButton(tr("Keep both"), QMessageBox::AcceptRole);
    QPushButton* replace = box->addButton(tr("Replace"), QMessageBox::DestructiveRole);
    QPushButton* leave =
        box->addButton(there.size() == 1 ? tr("Leave it") : tr("Leave those"), QMessageBox::AcceptRole);
    number->setToolTip(tr("The new files get a number after their name"));
    leave->setToolTip(tr("Only the others are written"));
    box->setDefaultButton(number);
    ask::withButtons(box, [=](const QPushButton* pressed) {
        if (pressed == replace) then(Existing::Replace);
        if (pressed == leave) then(Existing::Leave);
        if (pressed == number) then(Existing::Number);
    });
}

void ExportPage::write() {
    if (m_writing || !m_session.current.hasSong()) return;
    auto songs = ticked();
    if (songs.empty()) return;
    std::vector<int> places;
    std::vector<std::filesystem::path> there;
    std::uintmax_t bytes = 0;
    const ExportOptions options = optionsOf(m_options->recipe(), m_options->folder());
    for (const SongExport& song : songs) {
        places.push_back(song.number - 1);
        bytes += bytesNeeded(song.song, song.items, options);
        const auto here = alreadyThere(song.items, options.folder);
        there.insert(there.end(), here.begin(), here.end());
    }
    if (const auto problem = foreseen(options.folder, bytes)) {
        Q_EMIT m_session.messages.problem(tr("The files cannot be written there"),
                                          QString::fromStdString(problem->message()));
        return;
    }
    if (m_options->recipe().playlists) {
        const auto lists = playlistsThere(songs, options.folder);
        there.insert(there.end(), lists.begin(), lists.end());
    }
    if (there.empty()) return writeSongs(songs, places, Existing::Number);
    askAboutExisting(there,
                     [this, songs, places](Existing existing) { writeSongs(songs, places, existing); });
}

void ExportPage::writeSongs(const std::vector<SongExport>& songs, const std::vector<int>& places,
                            Existing existing) {
    if (m_writing || !m_session.current.hasSong()) return;
    m_writing = true;
    m_options->rememberSound();
    m_writtenAs = asNow();
    m_stopSource = std::stop_source();
    m_since.start();
    m_grid->setWaiting(places);
    std::size_t files = 0;
    for (const SongExport& song : songs) files += song.items.size();
    m_status->setText(tr("Writing %1…").arg(filesText(files)));
    showProgress(0);
    refreshCount();
    SetExportOptions options;
    options.each = optionsOf(m_options->recipe(), m_options->folder());
    options.each.stretch = m_options->stretch();
    options.each.stop = m_stopSource.get_token();
    options.each.existing = existing;
    options.each.album = m_session.current.set().name;
    options.jobs = QThread::idealThreadCount();
    options.playlists = m_options->recipe().playlists;
    QPointer<ExportPage> self(this);
    const auto here = [self](auto work) {
        QMetaObject::invokeMethod(qApp, [self, work] {
            if (self) work(*self);
        });
    };
    options.progress = [here](double share) {
        here([share](ExportPage& page) { page.showProgress(share); });
    };
    options.done = [here, songs, places, finish = options.each.finish](
                       std::size_t song, const std::vector<ExportOutcome>& outcomes) {
        here([=](ExportPage& page) {
            page.m_grid->takeOutcomes(places[song], songs[song], outcomes, finish);
        });
    };
    runJob(
        this, QThreadPool::globalInstance(),
        [songs, catalogue = m_session.sounds.catalogue(), options]() mutable {
            ExportEnd end;
            options.silent = [&](std::size_t, const Error& error) {
                end.silent << QString::fromStdString(error.message());
            };
            end.made = writeSet(songs, catalogue, options);
            return end;
        },
        [this, songs, places, finish = options.each.finish](const Result<ExportEnd>& ended) {
            ExportEnd end;
            if (ended)
                end = ended.value();
            else
                for (const SongExport& song : songs) {
                    auto& outcomes = end.made.songs.emplace_back();
                    for (std::size_t i = 0; i < song.items.size(); ++i)
                        outcomes.push_back({i, false, {}, {}, ended.error()});
                }
            QStringList refused = problemsOf(end.made.playlists);
            for (std::size_t i = 0; i < songs.size(); ++i) {
                for (const ExportOutcome& outcome : end.made.songs[i])
                    if (outcome.written && songs[i].items[outcome.item].kind == ExportItem::Kind::Sheet)
                        if (const auto pdf = addPdf(outcome.path);
                            !pdf) // Qt lays out text on this thread alone
                            refused << QString::fromStdString(pdf.error().message());
                m_grid->takeOutcomes(places[i], songs[i], end.made.songs[i], finish);
            }
            takeEnd(end.made, end.silent);
            if (!refused.isEmpty())
                Q_EMIT m_session.messages.problem(tr("Some files were not written"),
                                                  refused.join(QStringLiteral("\n\n")));
        });
}

/// How many of the files are not as loud as was asked, and where the reason stands; empty when all are.
QString ExportPage::quieterText() const {
    std::ptrdiff_t quieter = 0;
    for (const int song : songsShown()) {
        const auto told = m_grid->toldIn(m_grid->songIndex(song));
        quieter += std::count_if(told.begin(), told.end(),
                                 [](const auto& file) { return file.result == ExportGrid::Otherwise; });
    }
    return quieter == 0 ? QString()
                        : tr(". Not as loud as asked: %1; select one (≈) to see why.").arg(quieter);
}

void ExportPage::takeEnd(const SetOutcome& made, const QStringList& silent) {
    m_writing = false;
    std::size_t written = 0, all = 0;
    for (const auto& outcomes : made.songs) {
        all += outcomes.size();
        written += static_cast<std::size_t>(std::count_if(outcomes.begin(), outcomes.end(),
                                                          [](const ExportOutcome& o) { return o.written; }));
    }
    m_status->setText(tr("%1 of %2 written").arg(written).arg(all) + quieterText());
    refreshCount();
    Q_EMIT m_session.messages.announced(m_status->text());
    if (!silent.isEmpty())
        Q_EMIT m_session.messages.problem(tr("Something is missing from the sound files"),
                                          silent.join(QStringLiteral("\n\n")));
    Q_EMIT finished();
}

void ExportPage::stop() { m_stopSource.request_stop(); }

void ExportPage::showProgress(double share) {
    m_progress->setValue(static_cast<int>(share * 1000));
    const double seconds = static_cast<double>(m_since.elapsed()) / 1000;
    if (m_writing && share > 0.05 && seconds > 2)
        m_status->setText(
            tr("%1 % · %2").arg(std::lround(share * 100)).arg(leftText(seconds / share * (1 - share))));
}

} // namespace cobbleway
