/// Work that is not saved is kept beside the set, and found again when the program ended by force.
#pragma once
#include "files/project.h"

#include <QDateTime>
#include <QLockFile>
#include <QObject>
#include <QStringList>
#include <QTimer>
#include <memory>

namespace cobbleway {

class CurrentSet;
class Messages;

/// Within five seconds of a change the set is written to the XDG state folder, never over the person's own
/// file; when it is saved, thrown away or closed, that copy goes. Each window has a copy of its own, which it
/// holds a lock on.
class Recovery : public QObject {
    Q_OBJECT
  public:
    Recovery(CurrentSet& current, Messages& messages);
    ~Recovery() override; ///< leaves nothing behind

    /// A copy that a program which has ended left.
    struct Left {
        QString file;        ///< the copy
        QString path;        ///< where the set was kept; empty for nowhere
        QDateTime time;      ///< when the copy was written
        QStringList changes; ///< steps that were not saved, the newest last
    };
    [[nodiscard]] static QList<Left> left(); ///< the newest first
    void open(const Left& left);             ///< reads it beside the interface, and shows it as the set
    static void discard(const Left& left);
    void writeSoon(); ///< with no more delay

    static QString folder();

  private:
    void takeChange();
    void write();
    void forget();
    CurrentSet& m_current;
    Messages& m_messages;
    QString m_file; ///< empty when the folder cannot be written
    std::unique_ptr<QLockFile> m_lock;
    QTimer m_timer;
    bool m_writing = false, m_again = false, m_told = false;
};

} // namespace cobbleway
