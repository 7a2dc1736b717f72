/// Reading and saving the set that is open, beside the interface.
#pragma once
#include "app/session/pathreader.h"

#include <QObject>
#include <QThreadPool>

namespace cobbleway {

class CurrentSet;
class Findings;
class Messages;
class Sounds;

class SetFiles : public QObject {
    Q_OBJECT
  public:
    SetFiles(CurrentSet& current, const Sounds& sounds, const Findings& findings, Messages& messages);
    ~SetFiles() override;

    [[nodiscard]] bool isBusy() const { return m_working > 0; } ///< reading or saving
    /// Reads files and folders and adds what they give as it comes, in one step to undo. A project among them
    /// opens as the set, when mayReplace() allows it.
    void addPaths(const QStringList& paths);
    /// The one gate before the set is replaced: calls `then` at once or later, or never. Set by the window,
    /// which asks about changes that are not saved.
    std::function<void(std::function<void()> then)> mayReplace = [](const std::function<void()>& then) {
        then();
    };
    /// `then` gets whether it is on disk, after problem() was told. What stood there is kept as an earlier
    /// save. Where another program has changed the set's file since it was read, askAboutChanged() is called
    /// instead, but for `Anyway`.
    enum class Saving { Asking, Anyway };
    void save(const QString& path, std::function<void(bool)> then = {}, Saving saving = Saving::Asking);
    /// What becomes of a set whose file is another now, set by the window: it saves anyway, elsewhere, or
    /// reads it anew; `then` as in save().
    std::function<void(const QString& path, std::function<void(bool)> then)> askAboutChanged =
        [](const QString&, const std::function<void(bool)>& then) {
            if (then) then(false);
        };
    void open(const QString& path); ///< asks mayReplace() when the file can be read
    void newSet();                  ///< asks mayReplace()
    void reload();                  ///< reads the set's file anew, as a step that can be undone
    /// Copies the files of plug-ins beside the set's file, and takes them from there: a step that can be
    /// undone.
    void collect();
    void openEarlier(const QString& file, const QString& path); ///< an earlier save of the set at `path`

    /// What adds to a set what a project remembers beside it: how loud songs are, and which fonts there were.
    /// It holds what it needs, and may be called on any thread.
    [[nodiscard]] std::function<SongSet(SongSet)> remembering() const;
    /// One thread, for what reads and writes sets: reading and writing follow each other.
    [[nodiscard]] QThreadPool& thread() { return m_thread; }

    void stop();                        ///< gives up reading
    bool waitForDone(int milliseconds); ///< false when something still runs then

  Q_SIGNALS:
    void busyChanged();

  private:
    [[nodiscard]] Prepare preparing() const;
    void readSet(const QString& file, std::function<void(SongSet, const FileMark&)> then);
    void takeRead(ReadResult result);
    void setWorking(int by);

    CurrentSet& m_current;
    const Sounds& m_sounds;
    const Findings& m_findings;
    Messages& m_messages;
    int m_working = 0;
    int m_readings = 0; ///< so far; numbers them
    QThreadPool m_thread;
    std::stop_source m_stop;
};

} // namespace cobbleway
