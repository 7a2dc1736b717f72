#pragma once
#include "midi/reader.h"

#include <QObject>
#include <QThreadPool>
#include <QTimer>
#include <memory>
#include <set>

namespace cobbleway {

class CurrentSet;
class Messages;
class SetFiles;

/// Sees what other programs do to the files that are open: the MIDI files that songs were read from, and the
/// set's own. Looks when the window is turned to, and when songs come; tells it in a quiet line.
class DiskWatch : public QObject {
    Q_OBJECT
  public:
    DiskWatch(CurrentSet& current, const SetFiles& files, Messages& messages);
    ~DiskWatch() override;
    /// Looks beside the interface.
    void look();
    /// Whether the file of the song that is shown is another on disk than it was when it was read.
    [[nodiscard]] bool songHasChanged() const;
    /// Reads the file of the song that is shown anew; what was decided is kept. A step that can be undone.
    void readAnew();

  Q_SIGNALS:
    void looked(); ///< what songHasChanged() says may be another

  private:
    void tell();
    CurrentSet& m_current;
    const SetFiles& m_files;
    Messages& m_messages;
    std::set<std::shared_ptr<const SourceFile>> m_changed;
    bool m_setChanged = false;
    bool m_looking = false, m_again = false;
    QTimer m_soon;
    QThreadPool m_thread; ///< one, of low priority: disks on a network may be slow
};

} // namespace cobbleway
