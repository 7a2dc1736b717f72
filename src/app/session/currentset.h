/// The set that is open: its songs and their history, the song that is shown, the part that is selected.
#pragma once
#include "files/filemark.h"
#include "files/loudness.h"
#include "files/project.h"
#include "song/model/history.h"
#include "song/model/songchange.h"
#include "song/shape/splits.h"

#include <QObject>
#include <QStringList>
#include <QThreadPool>
#include <QTimer>
#include <functional>
#include <map>
#include <optional>

namespace cobbleway {

class Messages;

/// The one place where songs live. Every change of a song goes through edit(), every change of the set
/// through changeSet(), and can be undone.
class CurrentSet : public QObject {
    Q_OBJECT
  public:
    explicit CurrentSet(Messages& messages);
    ~CurrentSet() override;

    [[nodiscard]] const SongSet& set() const { return m_history.now(); }
    [[nodiscard]] bool hasSong() const { return m_song >= 0; }
    [[nodiscard]] int songIndex() const { return m_song; } ///< 0-based; −1 for none
    [[nodiscard]] const Song& song() const;                ///< the one that is shown; only when hasSong()
    /// A part of the song that is shown; null when there is none, or no song.
    [[nodiscard]] const Part* partWith(PartId id) const { return hasSong() ? song().part(id) : nullptr; }
    void showSong(int index);
    /// Reads files and folders beside the interface and adds what they give as it comes, in one step to undo.
    /// A project among them opens as the set, when mayReplace() allows it.
    void addPaths(const QStringList& paths);
    void removeSongs(std::vector<int> songs); ///< indexes, in one step
    /// Puts songs together before another (by indexes as they are; the number of songs: at the end).
    void moveSongs(std::vector<int> songs, int before);
    [[nodiscard]] bool isBusy() const { return m_working > 0; } ///< reading or saving

    // Changes
    /// Changes the song. Edits of one non-empty `gesture` in a row are one step to undo, until the mouse is
    /// let go or nothing comes for a second and a half.
    void edit(const QString& name, const std::function<Song(const Song&)>& change,
              const QString& gesture = {});
    void changeSet(const QString& name, SongSet set, const QString& gesture = {});
    void endGesture(); ///< what is edited next is a step of its own
    void undo();       ///< shows the song that it changes; so does redo()
    void redo();
    [[nodiscard]] bool canUndo() const { return m_history.canUndo(); }
    [[nodiscard]] bool canRedo() const { return m_history.canRedo(); }
    [[nodiscard]] QString undoName() const;
    [[nodiscard]] QString redoName() const;
    [[nodiscard]] bool isClean() const { return m_history.isClean(); } ///< as it is on disk
    /// Splits a part, or says why there is nothing to split; the first new part is selected.
    void split(const QString& name, const std::function<Split(const Song&, const Part&)>& way);
    /// Puts the songs that a type 2 file's tracks make in place of the song that is shown.
    void tracksToSongs();

    // Project files
    [[nodiscard]] QString projectPath() const { return m_projectPath; }
    /// The one gate before the set is replaced: calls `then` at once or later, or never. Set by the window,
    /// which asks about changes that are not saved.
    std::function<void(std::function<void()> then)> mayReplace = [](const std::function<void()>& then) {
        then();
    };
    /// What is worked out of each song that was read before it is shown, so that showing it waits for
    /// nothing. Called when reading begins; what it gives is called on the thread that reads.
    std::function<std::function<void(const Song&)>()> preparing = [] { return [](const Song&) {}; };
    /// How loud a song of the set was measured to be, if it was.
    [[nodiscard]] std::optional<Measured> loudnessOf(const Song& song) const;
    void keepLoudness(const std::shared_ptr<const SourceFile>& file, const Measured& measured);
    /// Which files of a song of the set were ticked to be written (SongTicks), if any were.
    [[nodiscard]] std::optional<std::set<std::string>> ticksOf(const Song& song) const;
    void keepTicks(const Song& song, std::set<std::string> ticked);
    /// What adds to a set what a project remembers beside it: how loud songs are, and what the sounds give.
    /// It holds what it needs, and may be called on any thread.
    using Remember = std::function<SongSet(SongSet)>;
    [[nodiscard]] Remember remembering() const;
    /// What the sounds give to that; called here, it gives what may be called on any thread.
    std::function<Remember()> rememberSounds = [] { return [](SongSet set) { return set; }; };
    /// Writes beside the interface; `then` gets whether it is on disk, after problem() was told. What stood
    /// there is kept as an earlier save. Where another program has changed the set's file since it was read,
    /// askAboutChanged() is called instead, but for `Anyway`.
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
    /// Reads the set's file anew, as a step that can be undone.
    void reload();
    /// Takes a set that was not saved before the program ended, or an earlier save; it counts as changed.
    /// `path` is where it was kept, if anywhere, and `mark` that file as it was then.
    void takeRecovered(SongSet set, const QString& path, const FileMark& mark);
    void openEarlier(const QString& file, const QString& path); ///< an earlier save of the set at `path`
    /// The set's file as it was read or written last.
    [[nodiscard]] const FileMark& projectMark() const { return m_projectMark; }
    /// Names of the steps since it was saved, the newest last; at most so many of the newest.
    [[nodiscard]] QStringList unsavedChanges(int most) const;
    [[nodiscard]] QThreadPool& files() { return m_files; } ///< one thread, for what reads and writes sets

    // The selected part
    [[nodiscard]] PartId selectedPart() const { return m_part; } ///< 0 for none
    [[nodiscard]] const Part* part() const;                      ///< the selected one, or null
    void selectPart(PartId part);

    void stop();                        ///< gives up reading
    bool waitForDone(int milliseconds); ///< false when something still runs then

  Q_SIGNALS:
    void songChanged(Sides sides); ///< another song is shown (all sides), or sides of it have changed
    void setReplaced();            ///< another set is open, of which nothing of the one before is kept
    void songsChanged();     ///< songs were added or removed, another is shown, or one has another title
    void historyChanged();   ///< what can be undone, whether it is saved, where it is kept
    void selectionChanged(); ///< another part is selected
    void busyChanged();

  private:
    void readSet(const QString& file, std::function<void(SongSet, const FileMark&)> then);
    void replaceSet(History<SongSet> history, const QString& path, const FileMark& mark);
    void afterChange(const SongSet& before, bool showChanged);
    void show(int index, Sides sides);
    void setPart(PartId part);
    void takeRead(struct ReadResult result);
    void takeSongs(std::vector<Shared<Song>> songs, int before, const QString& gesture);
    void setWorking(int by);

    Messages& m_messages;
    History<SongSet> m_history;
    int m_song = -1;
    PartId m_part = 0;
    /// Of a file; the last one is asked for again and again.
    [[nodiscard]] std::uint64_t digestOf(const std::shared_ptr<const SourceFile>& file) const;
    std::map<std::uint64_t, Measured> m_loudness; ///< by fileDigest(); no side of the set: nothing to undo
    std::map<std::uint64_t, std::set<std::string>> m_ticks; ///< the same of ticks
    mutable std::pair<std::shared_ptr<const SourceFile>, std::uint64_t> m_digested;
    QString m_projectPath;
    FileMark m_projectMark;
    int m_working = 0;
    int m_readings = 0;  ///< so far; numbers them
    QThreadPool m_files; ///< one thread: reading and writing follow each other
    std::stop_source m_stop;
    QTimer m_gesturePause;
};

/// Calls `refresh` of `receiver` when another song is shown or one of these sides of it has changed.
template <class Receiver, class Refresh>
void follow(const CurrentSet& set, Sides sides, Receiver* receiver, Refresh refresh) {
    QObject::connect(&set, &CurrentSet::songChanged, receiver, [sides, receiver, refresh](Sides changed) {
        if (changed.has(sides)) std::invoke(refresh, receiver);
    });
}

} // namespace cobbleway
