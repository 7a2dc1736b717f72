#include "app/session/setfiles.h"

#include "app/session/currentset.h"
#include "app/session/findings.h"
#include "app/session/jobs.h"
#include "app/session/messages.h"
#include "app/session/paths.h"
#include "app/session/sounds.h"
#include "files/collectfiles.h"
#include "files/earliersaves.h"
#include "files/folders.h"

#include <QCoreApplication>
#include <QPointer>
#include <utility>

namespace cobbleway {
namespace {

QString listOf(const std::vector<Error>& errors) {
    QStringList lines;
    for (const Error& error : errors)
        if (lines.size() < 12) lines << QString::fromStdString(error.message());
    if (errors.size() > 12) lines << QObject::tr("… and %1 more.").arg(errors.size() - 12);
    return lines.join(QStringLiteral("\n\n"));
}

} // namespace

SetFiles::SetFiles(CurrentSet& current, const Sounds& sounds, const Findings& findings, Messages& messages)
    : m_current(current), m_sounds(sounds), m_findings(findings), m_messages(messages) {
    m_thread.setMaxThreadCount(1);
}

SetFiles::~SetFiles() {
    stop();
    m_thread.waitForDone();
}

void SetFiles::stop() { m_stop.request_stop(); }
bool SetFiles::waitForDone(int milliseconds) { return m_thread.waitForDone(milliseconds); }

void SetFiles::setWorking(int by) {
    m_working += by;
    Q_EMIT busyChanged();
}

Prepare SetFiles::preparing() const {
    return [derived = m_findings.derived(), catalogue = m_sounds.catalogue()](const Song& song) {
        (void)derived->snags(song, catalogue);
    };
}

std::function<SongSet(SongSet)> SetFiles::remembering() const {
    return [notes = m_current.notes(), catalogue = m_sounds.catalogue()](SongSet set) {
        return rememberFiles(rememberFonts(notes.addedTo(std::move(set)), catalogue));
    };
}

void SetFiles::addPaths(const QStringList& paths) {
    if (paths.isEmpty()) return;
    setWorking(1);
    m_current.holdStep(true);
    const QString gesture = QStringLiteral("reading %1").arg(++m_readings);
    const auto send = [guard = QPointer(&m_current), gesture](std::vector<Shared<Song>> songs, int before) {
        QMetaObject::invokeMethod(qApp, [guard, gesture, before, songs = std::move(songs)]() mutable {
            if (guard) guard->addSongs(std::move(songs), before, gesture);
        });
    };
    runJob(
        this, &m_thread,
        [paths, send, prepare = preparing(), stop = m_stop.get_token()] {
            return PathReader(send, prepare, stop).read(paths);
        },
        [this](Result<ReadResult> read) {
            setWorking(-1);
            m_current.holdStep(false);
            if (read)
                takeRead(std::move(read.value()));
            else
                Q_EMIT m_messages.problem(tr("Some files could not be opened"),
                                          QString::fromStdString(read.error().message()));
        });
}

void SetFiles::takeRead(ReadResult result) {
    if (!result.errors.empty())
        Q_EMIT m_messages.problem(tr("Some files could not be opened"), listOf(result.errors));
    if (result.project) {
        auto set = std::make_shared<SongSet>(std::move(*std::exchange(result.project, std::nullopt)));
        mayReplace([this, set, path = result.projectPath, mark = result.projectMark,
                    songs = std::move(result.heldBack)] {
            m_current.replace(History(*set), path, mark);
            if (!songs.empty()) m_current.addSongs(songs, 0, {});
        });
    }
    if (result.songs > 0)
        Q_EMIT m_messages.announced(result.songs == 1 ? tr("One song added")
                                                      : tr("%1 songs added").arg(result.songs));
}

void SetFiles::save(const QString& path, std::function<void(bool)> then, Saving saving) {
    setWorking(1);
    const SongSet saved = m_current.set();
    struct End {
        bool changed = false; ///< by another program; nothing was written
        FileMark mark;
    };
    const bool asks = saving == Saving::Asking && path == m_current.projectPath();
    const FileMark before = asks ? m_current.projectMark() : FileMark{};
    runJob(
        this, &m_thread,
        [saved, remember = remembering(), path = pathOf(path), before]() -> Result<End> {
            if (hasChanged(path, before)) return End{true, {}};
            if (auto done = saveKeepingEarlier(remember(saved), path, stateFolder()); !done)
                return done.error();
            return End{false, markOf(path)};
        },
        [this, saved, path, then = std::move(then)](const Result<End>& end) {
            setWorking(-1);
            if (end && end.value().changed) return askAboutChanged(path, then);
            if (end) {
                m_current.markSaved(saved, path, end.value().mark);
                Q_EMIT m_messages.announced(tr("Saved"));
            } else {
                Q_EMIT m_messages.problem(tr("The set was not saved"),
                                          QString::fromStdString(end.error().message()));
            }
            if (then) then(end.ok());
        });
}

/// Reads a set's file beside the interface; `then` gets it, unless it could not be read.
void SetFiles::readSet(const QString& file, std::function<void(SongSet, const FileMark&)> then) {
    setWorking(1);
    struct Read {
        SongSet set;
        FileMark mark;
    };
    runJob(
        this, &m_thread,
        [path = pathOf(file), prepare = preparing()]() -> Result<Read> {
            const FileMark mark = markOf(path);
            auto set = openProject(path);
            if (!set) return set.error();
            prepareFirst(set.value(), prepare);
            return Read{std::move(set.value()), mark};
        },
        [this, then = std::move(then)](Result<Read> read) {
            setWorking(-1);
            if (read) return then(std::move(read.value().set), read.value().mark);
            Q_EMIT m_messages.problem(tr("The set was not opened"),
                                      QString::fromStdString(read.error().message()));
        });
}

void SetFiles::open(const QString& path) {
    readSet(path, [this, path](SongSet set, const FileMark& mark) {
        mayReplace([this, set = std::move(set), path, mark] { m_current.replace(History(set), path, mark); });
    });
}

void SetFiles::reload() {
    if (m_current.projectPath().isEmpty()) return;
    readSet(m_current.projectPath(),
            [this, path = m_current.projectPath()](const SongSet& set, const FileMark& mark) {
                if (path != m_current.projectPath()) return; // another set was opened meanwhile
                m_current.changeSet(tr("Reload the set"), set);
                m_current.markSaved(set, path, mark);
                Q_EMIT m_messages.announced(tr("The set was read anew"));
            });
}

void SetFiles::collect() {
    const QString path = m_current.projectPath();
    if (path.isEmpty()) return;
    setWorking(1);
    const SongSet set = m_current.set();
    runJob(
        this, &m_thread, [set, path = pathOf(path)] { return collectFiles(set, path); },
        [this, set](Result<Collected> end) {
            setWorking(-1);
            if (!end)
                return Q_EMIT m_messages.problem(tr("The files were not collected"),
                                                 QString::fromStdString(end.error().message()));
            Collected& made = end.value();
            if (!made.left.empty())
                Q_EMIT m_messages.problem(tr("Some files could not be collected"), listOf(made.left));
            if (made.files == 0) {
                if (made.left.empty())
                    Q_EMIT m_messages.announced(tr("All files of plug-ins are beside the set already"));
                return;
            }
            if (!(m_current.set() == set)) // edited meanwhile: what is copied is found at the next try
                return Q_EMIT m_messages.announced(tr("The set was changed meanwhile. Collect files again."));
            m_current.changeSet(tr("Collect files"), std::move(made.set));
            Q_EMIT m_messages.announced(
                (made.files == 1 ? tr("1 file copied to “%1”. Save the set to keep this.")
                                 : tr("%2 files copied to “%1”. Save the set to keep this.").arg(made.files))
                    .arg(textOfPath(made.folder.filename())));
        });
}

void SetFiles::openEarlier(const QString& file, const QString& path) {
    readSet(file, [this, path](SongSet set, const FileMark&) {
        mayReplace(
            [this, set = std::move(set), path] { m_current.takeRecovered(set, path, markOf(pathOf(path))); });
    });
}

void SetFiles::newSet() {
    mayReplace([this] { m_current.replace(History<SongSet>(), {}, {}); });
}

} // namespace cobbleway
