/// Work that is not saved is kept beside the set, and found again when the program ended by force.
#pragma once
#include "files/backup.h"
#include "files/filemark.h"

#include <QDateTime>
#include <QLockFile>
#include <QObject>
#include <QStringList>
#include <memory>

namespace cobbleway {

class CurrentSet;
class Messages;
class SetFiles;

/// Within five seconds of a change the set is written to the XDG state folder, never over the person's own
/// file; when it is saved, thrown away or closed, that copy goes. Each window has a copy of its own, which it
/// holds a lock on. It is written by a thread of its own, so that the last work is kept though the window
/// should stall.
class Recovery : public QObject {
    Q_OBJECT
  public:
    Recovery(CurrentSet& current, SetFiles& files, Messages& messages);
    ~Recovery() override; ///< as end(); but for what is not saved, whose copy stays

    /// A copy that a program which has ended left.
    struct Left {
        QString file;        ///< the copy
        QString path;        ///< where the set was kept; empty for nowhere
        QDateTime time;      ///< when the copy was written
        QStringList changes; ///< steps that were not saved, the newest last
        FileMark mark;       ///< of the set's file as the program knew it
    };
    [[nodiscard]] static QList<Left> left(); ///< the newest first
    void open(const Left& left);             ///< reads it beside the interface, and shows it as the set
    static void discard(const Left& left);
    /// The person has closed the window, and saved or thrown away what was not saved: the copy goes, its lock
    /// is let go, and nothing is written any more.
    void end();

    static QString folder();

  private:
    void takeChange();
    CurrentSet& m_current;
    SetFiles& m_files;
    Messages& m_messages;
    std::unique_ptr<QLockFile> m_lock;
    std::unique_ptr<BackupWriter> m_writer; ///< null when the folder cannot be written, and after end()
};

} // namespace cobbleway
