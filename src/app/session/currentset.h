/// The set that is open: its songs and their history, the song that is shown, the part that is selected.
#pragma once
#include "app/session/songnotes.h"
#include "files/filemark.h"
#include "files/project.h"
#include "song/model/history.h"
#include "song/model/songchange.h"
#include "song/shape/splits.h"

#include <QObject>
#include <QStringList>
#include <QTimer>
#include <functional>

namespace cobbleway {

class Messages;

/// The one place where songs live. Every change of a song goes through edit(), every change of the set
/// through changeSet(), and can be undone.
class CurrentSet : public QObject {
    Q_OBJECT
  public:
    explicit CurrentSet(Messages& messages);

    [[nodiscard]] const SongSet& set() const { return m_history.now(); }
    [[nodiscard]] bool hasSong() const { return m_song >= 0; }
    [[nodiscard]] int songIndex() const { return m_song; } ///< 0-based; −1 for none
    [[nodiscard]] const Song& song() const;                ///< the one that is shown; only when hasSong()
    /// A part of the song that is shown; null when there is none, or no song.
    [[nodiscard]] const Part* partWith(PartId id) const { return hasSong() ? song().part(id) : nullptr; }
    void showSong(int index);
    /// Adds songs and shows the first of them; those of one `gesture`, of which `before` came earlier, are
    /// one step to undo.
    void addSongs(std::vector<Shared<Song>> songs, int before, const QString& gesture);
    void removeSongs(std::vector<int> songs); ///< indexes, in one step
    /// Puts songs together before another (by indexes as they are; the number of songs: at the end).
    void moveSongs(std::vector<int> songs, int before);

    // Changes
    /// Changes the song. Edits of one non-empty `gesture` in a row are one step to undo, until the mouse is
    /// let go or nothing comes for a second and a half.
    void edit(const QString& name, const std::function<Song(const Song&)>& change,
              const QString& gesture = {});
    void changeSet(const QString& name, SongSet set, const QString& gesture = {});
    void endGesture(); ///< what is edited next is a step of its own
    /// While it is held (once or more), no step ends: songs that are being read are one.
    void holdStep(bool held);
    void undo(); ///< shows the song that it changes; so does redo()
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

    // The file that it is kept in (SetFiles reads and writes it)
    [[nodiscard]] QString projectPath() const { return m_projectPath; }
    /// The set's file as it was read or written last.
    [[nodiscard]] const FileMark& projectMark() const { return m_projectMark; }
    /// Another set, kept at `path`, or nowhere.
    void replace(History<SongSet> history, const QString& path, const FileMark& mark);
    /// `saved` is what stands at `path` now; it may be an earlier state of the set.
    void markSaved(const SongSet& saved, const QString& path, const FileMark& mark);
    /// Takes a set that was not saved before the program ended, or an earlier save; it counts as changed.
    /// `path` is where it was kept, if anywhere, and `mark` that file as it was then.
    void takeRecovered(SongSet set, const QString& path, const FileMark& mark);
    /// Names of the steps since it was saved, the newest last; at most so many of the newest.
    [[nodiscard]] QStringList unsavedChanges(int most) const;
    /// What is known of its songs beside what can be undone.
    [[nodiscard]] const SongNotes& notes() const { return m_notes; }
    [[nodiscard]] SongNotes& notes() { return m_notes; }

    // The selected part
    [[nodiscard]] PartId selectedPart() const { return m_part; } ///< 0 for none
    [[nodiscard]] const Part* part() const;                      ///< the selected one, or null
    void selectPart(PartId part);

  Q_SIGNALS:
    void songChanged(Sides sides); ///< another song is shown (all sides), or sides of it have changed
    void setReplaced();            ///< another set is open, of which nothing of the one before is kept
    void songsChanged();     ///< songs were added or removed, another is shown, or one has another title
    void historyChanged();   ///< what can be undone, whether it is saved, where it is kept
    void selectionChanged(); ///< another part is selected

  private:
    void afterChange(const SongSet& before, bool showChanged);
    void show(int index, Sides sides);
    void setPart(PartId part);

    Messages& m_messages;
    History<SongSet> m_history;
    int m_song = -1;
    PartId m_part = 0;
    SongNotes m_notes;
    QString m_projectPath;
    FileMark m_projectMark;
    int m_held = 0; ///< holdStep()
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
