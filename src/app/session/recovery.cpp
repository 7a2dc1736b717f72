#include "app/session/recovery.h"

#include "app/session/currentset.h"
#include "app/session/jobs.h"
#include "app/session/messages.h"

#include <QCoreApplication>
#include <QDir>
#include <QFile>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <algorithm>

namespace cobbleway {
namespace {

constexpr int delay = 3000; ///< milliseconds from a change to its copy; writing takes some more
constexpr qsizetype mostChanges = 8;

QString lockOf(const QString& file) { return file + QStringLiteral(".lock"); }
QString noteOf(const QString& file) { return file + QStringLiteral(".json"); }

void removeCopy(const QString& file) {
    QFile::remove(file);
    QFile::remove(noteOf(file));
}

/// What is known of a copy, beside it.
QByteArray noteText(const QString& path, const QStringList& changes) {
    return QJsonDocument(
               QJsonObject{{QStringLiteral("path"), path},
                           {QStringLiteral("time"), QDateTime::currentDateTimeUtc().toString(Qt::ISODate)},
                           {QStringLiteral("changes"), QJsonArray::fromStringList(changes)}})
        .toJson();
}

} // namespace

QString Recovery::folder() {
    const QString state = qEnvironmentVariable("XDG_STATE_HOME");
    return (state.isEmpty() ? QDir::homePath() + QStringLiteral("/.local/state") : state) +
           QStringLiteral("/cobbleway/recovery");
}

Recovery::Recovery(CurrentSet& current, Messages& messages) : m_current(current), m_messages(messages) {
    m_timer.setSingleShot(true);
    m_timer.setInterval(delay);
    connect(&m_timer, &QTimer::timeout, this, &Recovery::write);
    connect(&current, &CurrentSet::historyChanged, this, &Recovery::takeChange);
    if (!QDir().mkpath(folder())) return;
    for (int number = 1; number < 1000; ++number) { // another window of this program may have the first
        m_file = QStringLiteral("%1/%2-%3.cobbleway")
                     .arg(folder())
                     .arg(QCoreApplication::applicationPid())
                     .arg(number);
        m_lock = std::make_unique<QLockFile>(lockOf(m_file));
        m_lock->setStaleLockTime(0); // held for as long as the program runs
        if (m_lock->tryLock(0)) return;
    }
    m_file.clear();
}

Recovery::~Recovery() {
    m_current.files().waitForDone();
    m_writing = false; // what was being written is there, whether or not it has been told
    forget();
}

void Recovery::takeChange() {
    if (m_current.isClean())
        forget();
    else if (!m_timer.isActive())
        m_timer.start();
}

void Recovery::forget() {
    m_timer.stop();
    m_again = false;
    if (!m_file.isEmpty() && !m_writing) removeCopy(m_file);
}

void Recovery::writeSoon() { m_timer.start(0); }

void Recovery::write() {
    if (m_file.isEmpty() || m_current.isClean()) return;
    m_again = m_writing;
    if (m_writing) return;
    m_writing = true;
    const QByteArray note =
        noteText(m_current.projectPath(), m_current.unsavedChanges().mid(std::max<qsizetype>(
                                              0, m_current.unsavedChanges().size() - mostChanges)));
    runJob(
        this, &m_current.files(),
        [set = m_current.remember(m_current.set()), file = m_file, note]() -> Result<Done> {
            if (auto done = saveProject(set, file.toStdString()); !done) return done;
            return writeFile(noteOf(file).toStdString(), note.toStdString());
        },
        [this](const Result<Done>& done) {
            m_writing = false;
            if (m_current.isClean()) return forget(); // saved meanwhile
            if (!done && !std::exchange(m_told, true))
                Q_EMIT m_messages.problem(tr("Unsaved changes could not be backed up"),
                                          QString::fromStdString(done.error().message()));
            if (m_again) write();
        });
}

QList<Recovery::Left> Recovery::left() {
    QList<Left> found;
    const QDir dir(folder());
    for (const QString& name : dir.entryList({QStringLiteral("*.cobbleway")}, QDir::Files)) {
        const QString file = dir.filePath(name);
        QLockFile lock(lockOf(file));
        lock.setStaleLockTime(0);
        if (!lock.tryLock(0)) continue; // its program still runs
        QFile note(noteOf(file));
        const auto notes =
            note.open(QIODevice::ReadOnly) ? QJsonDocument::fromJson(note.readAll()).object() : QJsonObject();
        Left left{file,
                  notes[QLatin1String("path")].toString(),
                  QDateTime::fromString(notes[QLatin1String("time")].toString(), Qt::ISODate).toLocalTime(),
                  {}};
        for (const auto& change : notes[QLatin1String("changes")].toArray())
            left.changes << change.toString();
        found << left;
    }
    std::sort(found.begin(), found.end(), [](const Left& a, const Left& b) { return a.time > b.time; });
    return found;
}

void Recovery::discard(const Left& left) {
    removeCopy(left.file);
    QFile::remove(lockOf(left.file));
}

void Recovery::open(const Left& left) {
    runJob(
        this, &m_current.files(), [file = left.file.toStdString()] { return openProject(file); },
        [this, left](const Result<SongSet>& read) {
            if (!read) {
                Q_EMIT m_messages.problem(tr("The unsaved work could not be recovered"),
                                          QString::fromStdString(read.error().message()));
                return;
            }
            m_current.takeRecovered(read.value(), left.path);
            // The old copy goes only when this window has one of its own.
            runJob(
                this, &m_current.files(),
                [set = read.value(), file = m_file,
                 note = noteText(left.path, left.changes)]() -> Result<Done> {
                    if (auto done = saveProject(set, file.toStdString()); !done) return done;
                    return writeFile(noteOf(file).toStdString(), note.toStdString());
                },
                [left](const Result<Done>& done) {
                    if (done) discard(left);
                });
        });
}

} // namespace cobbleway
