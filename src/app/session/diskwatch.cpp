#include "app/session/diskwatch.h"

#include "app/session/currentset.h"
#include "app/session/jobs.h"
#include "app/session/messages.h"
#include "app/session/paths.h"
#include "app/session/setfiles.h"
#include "files/songfile.h"
#include "song/shape/readanew.h"

#include <QGuiApplication>

namespace cobbleway {

DiskWatch::DiskWatch(CurrentSet& current, const SetFiles& files, Messages& messages)
    : m_current(current), m_files(files), m_messages(messages) {
    m_thread.setMaxThreadCount(1);
    m_thread.setThreadPriority(QThread::LowPriority);
    m_soon.setSingleShot(true);
    m_soon.setInterval(1000); // when a set is opened other things come first
    connect(&m_soon, &QTimer::timeout, this, &DiskWatch::look);
    connect(&current, &CurrentSet::songsChanged, &m_soon, QOverload<>::of(&QTimer::start));
    connect(&current, &CurrentSet::songChanged, this, [this](Sides sides) {
        if (sides.has(Side::File)) tell();
    });
    if (auto* application = qobject_cast<QGuiApplication*>(qApp))
        connect(application, &QGuiApplication::applicationStateChanged, this,
                [this](Qt::ApplicationState state) {
                    if (state == Qt::ApplicationActive) look();
                });
}

DiskWatch::~DiskWatch() { m_thread.waitForDone(); }

void DiskWatch::look() {
    m_again = m_looking;
    if (m_looking || m_files.isBusy()) return; // what is being written is looked at by whoever writes it
    m_looking = true;
    std::set<std::shared_ptr<const SourceFile>> sources;
    for (const auto& song : m_current.set().songs) sources.insert(song->source);
    struct Seen {
        std::set<std::shared_ptr<const SourceFile>> changed;
        bool set = false;
    };
    runJob(
        this, &m_thread,
        [sources, path = pathOf(m_current.projectPath()), mark = m_current.projectMark()] {
            Seen seen;
            for (const auto& source : sources)
                if (stateOnDisk(*source) == OnDisk::Changed) seen.changed.insert(source);
            seen.set = !path.empty() && hasChanged(path, mark);
            return seen;
        },
        [this, mark = m_current.projectMark()](Result<Seen> seen) {
            m_looking = false;
            if (seen) {
                m_changed = std::move(seen.value().changed);
                m_setChanged = seen.value().set && mark == m_current.projectMark();
                tell();
            }
            if (std::exchange(m_again, false)) look();
        });
}

bool DiskWatch::songHasChanged() const {
    return m_current.hasSong() && m_changed.contains(m_current.song().source);
}

void DiskWatch::tell() {
    Q_EMIT m_messages.noted(QStringLiteral("set file"),
                            m_setChanged ? tr("Another program has changed this set since it was read.")
                                         : QString(),
                            QStringLiteral("reload"));
    Q_EMIT m_messages.noted(
        QStringLiteral("song file"),
        songHasChanged()
            ? tr("%1 has changed on disk since it was read. Reading it again keeps what you have decided.")
                  .arg(QString::fromStdString(m_current.song().source->name))
            : QString(),
        QStringLiteral("readAnew"));
    Q_EMIT looked();
}

void DiskWatch::readAnew() {
    if (!m_current.hasSong() || m_current.song().source->path.empty()) return;
    runJob(
        this, &m_thread,
        [before = m_current.song()]() -> Result<Song> {
            const auto read = openSong(before.source->path);
            if (!read) return read.error();
            return edits::readAnew(before, read.value().source);
        },
        [this, before = m_current.song()](const Result<Song>& read) {
            if (!m_current.hasSong() || m_current.song().source != before.source) return; // another is shown
            if (!read)
                return void(Q_EMIT m_messages.problem(tr("The file was not read again"),
                                                      QString::fromStdString(read.error().message())));
            if (m_current.song() != before) return readAnew(); // it was edited meanwhile
            m_changed.erase(before.source);
            m_current.edit(tr("Read the file again"), [&read](const Song&) { return read.value(); });
            Q_EMIT m_messages.announced(tr("The file was read again"));
            tell();
        });
}

} // namespace cobbleway
