#include "app/session/recovery.h"

#include "app/session/currentset.h"
#include "app/session/jobs.h"
#include "app/session/messages.h"
#include "app/session/paths.h"
#include "app/session/setfiles.h"
#include "files/folders.h"

#include <QCoreApplication>
#include <QDir>
#include <QFile>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QPointer>
#include <algorithm>

namespace cobbleway {
namespace {

constexpr std::chrono::milliseconds delay(3000); ///< from a change to its copy; writing takes some more
constexpr int mostChanges = 8;

QString lockOf(const QString& file) { return file + QStringLiteral(".lock"); }
QString noteOf(const QString& file) { return file + QStringLiteral(".json"); }

void removeCopy(const QString& file) {
    QFile::remove(file);
    QFile::remove(noteOf(file));
}

/// What is known of a copy, beside it.
QByteArray noteText(const QString& path, const QStringList& changes, const FileMark& mark) {
    return QJsonDocument(
               QJsonObject{{QStringLiteral("path"), path},
                           {QStringLiteral("time"), QDateTime::currentDateTimeUtc().toString(Qt::ISODate)},
                           {QStringLiteral("changes"), QJsonArray::fromStringList(changes)},
                           {QStringLiteral("version"), QString::fromStdString(mark.version)},
                           {QStringLiteral("digest"), QString::number(mark.digest)}})
        .toJson();
}

} // namespace

QString Recovery::folder() { return textOfPath(stateFolder() / "recovery"); }

Recovery::Recovery(CurrentSet& current, SetFiles& files, Messages& messages)
    : m_current(current), m_files(files), m_messages(messages) {
    const auto told = [self = QPointer(this)](const Error& error) {
        QMetaObject::invokeMethod(qApp, [self, text = QString::fromStdString(error.message())] {
            if (self) Q_EMIT self->m_messages.problem(tr("Unsaved changes could not be backed up"), text);
        });
    };
    connect(&current, &CurrentSet::historyChanged, this, &Recovery::takeChange);
    const auto state = stateFolder();
    if (state.empty() || !makePrivateFolder(state) || !makePrivateFolder(state / "recovery")) return;
    for (int number = 1; number < 1000; ++number) { // another window of this program may have the first
        const QString file = QStringLiteral("%1/%2-%3.cobbleway")
                                 .arg(folder())
                                 .arg(QCoreApplication::applicationPid())
                                 .arg(number);
        m_lock = std::make_unique<QLockFile>(lockOf(file));
        m_lock->setStaleLockTime(0); // held for as long as the program runs
        if (!m_lock->tryLock(0)) continue;
        m_writer = std::make_unique<BackupWriter>(pathOf(file), delay, told);
        return;
    }
}

Recovery::~Recovery() {
    if (m_current.isClean()) end();
}

void Recovery::end() {
    if (!m_writer) return;
    m_writer->forget();
    m_lock->unlock();
    m_writer.reset();
}

void Recovery::takeChange() {
    if (!m_writer) return;
    if (m_current.isClean()) {
        m_writer->forget(std::chrono::milliseconds(0)); // one that is being written does not take its place
        return;
    }
    m_writer->take(
        {[set = m_current.set(), remember = m_files.remembering()] { return remember(set); },
         noteText(m_current.projectPath(), m_current.unsavedChanges(mostChanges), m_current.projectMark())
             .toStdString()});
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
                  {},
                  {notes[QLatin1String("version")].toString().toStdString(),
                   notes[QLatin1String("digest")].toString().toULongLong()}};
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
        this, &m_files.thread(), [file = left.file.toStdString()] { return openProject(file); },
        [this, left](const Result<SongSet>& read) {
            if (!read) {
                Q_EMIT m_messages.problem(tr("The unsaved work could not be recovered"),
                                          QString::fromStdString(read.error().message()));
                return;
            }
            m_current.takeRecovered(read.value(), left.path, left.mark);
            // The old copy goes only when this window has one of its own.
            if (m_writer)
                m_writer->whenWritten([self = QPointer(this), left] {
                    QMetaObject::invokeMethod(qApp, [self, left] {
                        if (self) discard(left);
                    });
                });
        });
}

} // namespace cobbleway
