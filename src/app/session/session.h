/// What the window shows and changes: the set, the song, the selected part, what plays.
#pragma once
#include "files/project.h"
#include "song/controllers.h"
#include "song/history.h"
#include "song/notes.h"
#include "song/overview.h"
#include "song/snags.h"
#include "song/splits.h"
#include "sound/player.h"

#include <QObject>
#include <QStringList>
#include <QThreadPool>
#include <functional>

namespace cobbleway {

/// The one place where the application's state lives. Views read it and listen; every change of a song goes
/// through edit(), every change of the set through changeSet(), and can be undone.
class Session : public QObject {
    Q_OBJECT
  public:
    explicit Session(QObject* parent = nullptr);
    ~Session() override;

    // The set
    [[nodiscard]] const SongSet& set() const { return m_history.now(); }
    [[nodiscard]] bool hasSong() const { return m_song >= 0; }
    [[nodiscard]] int songIndex() const { return m_song; } ///< 0-based; −1 for none
    [[nodiscard]] const Song& song() const;                ///< as it is kept; only when hasSong()
    [[nodiscard]] const Song& heardSong() const;           ///< the same, with a sound that is being tried
    void openSong(int index);
    /// Reads files and folders beside the interface and adds what they give. A project file opens as the set.
    void addPaths(const QStringList& paths);
    void removeSong(int index);
    [[nodiscard]] bool isBusy() const { return m_reading > 0; }

    // Changes
    /// Changes the song. Edits of one non-empty `gesture` in a row are one step to undo.
    void edit(const QString& name, const std::function<Song(const Song&)>& change,
              const QString& gesture = {});
    void undo();
    void redo();
    [[nodiscard]] bool canUndo() const { return m_history.canUndo(); }
    [[nodiscard]] bool canRedo() const { return m_history.canRedo(); }
    [[nodiscard]] QString undoName() const;
    [[nodiscard]] QString redoName() const;
    [[nodiscard]] bool isClean() const { return m_history.isClean(); }

    // Project files
    [[nodiscard]] QString projectPath() const { return m_projectPath; }
    bool save(const QString& path); ///< false, and problem() sent, when it cannot be
    bool open(const QString& path);
    void newSet();

    // The selected part
    [[nodiscard]] PartId selectedPart() const { return m_part; } ///< 0 for none
    [[nodiscard]] const Part* part() const;                      ///< the selected one, or null
    void selectPart(PartId part);

    // Computed from the song; kept until it changes
    [[nodiscard]] const std::vector<PartMatch>& matches() const { return m_matches; }
    [[nodiscard]] const PartMatch* matchOf(PartId part) const;
    [[nodiscard]] const std::vector<Snag>& snags() const { return m_snags; }
    [[nodiscard]] const std::vector<Snag>& snagsOf(int song) const; ///< of any song in the set
    [[nodiscard]] const Line& line(PartId part) const;              ///< realise(), as kept
    /// More of a part that is worth keeping once found.
    struct Digest {
        Overview overview;
        std::vector<ControlPoint> volume; ///< the volume along the song, when it moves
        std::vector<OriginCount> origins;
        std::uint64_t stamp = 0; ///< another after every change of the part
    };
    [[nodiscard]] const Digest& digest(PartId part) const;
    void mendAllSafe();
    /// Splits a part, or says why there is nothing to split; the first new part is selected.
    void split(const QString& name, const std::function<Split(const Song&, const Part&)>& way);
    /// Puts the songs that a type 2 file's tracks make in place of the song that is shown.
    void tracksToSongs();

    // Sounds
    [[nodiscard]] const Catalogue& catalogue() const { return m_catalogue; }
    void setCatalogue(Catalogue catalogue);
    void rescanFonts(); ///< beside the interface
    void setDefaultFont(const QString& fontId);
    [[nodiscard]] QStringList fontFolders() const { return m_fontFolders; }
    void addFontFolder(const QString& folder);
    /// Lets the selected part be heard with a sound without keeping it.
    void trySound(const SoundRef& sound);
    [[nodiscard]] bool isTrying() const { return m_trial.has_value(); }
    void keepTried();
    void dropTried();

    // Playing
    [[nodiscard]] Player& player() { return *m_player; }
    void togglePlay();
    /// Whether it plays, or will as soon as its sounds are loaded.
    [[nodiscard]] bool isPlaying() const { return m_player->isPlaying() || m_playPending; }
    void seek(Tick tick);
    void seekSection(int by);         ///< +1 to the next section's start, −1 to the one before
    [[nodiscard]] Tick place() const; ///< where the player is
    struct Loop {
        Tick start = 0, end = 0;
        bool on = false;
        bool operator==(const Loop&) const = default;
    };
    [[nodiscard]] const Loop& loop() const { return m_loop; }
    void setLoop(Loop loop);
    [[nodiscard]] int pace() const { return m_pace; } ///< percent, 25–200
    void setPace(int percent);

  Q_SIGNALS:
    void setChanged();  ///< songs were added, removed or opened, or any of them changed
    void songChanged(); ///< the song that is shown is another or has changed
    void selectionChanged();
    void catalogueChanged();
    void triedChanged();
    void loopChanged();
    void paceChanged();
    void playingChanged();
    void busyChanged();
    void planReady(); ///< what is heard is what is shown
    void problem(const QString& title, const QString& text);
    void announced(const QString& text); ///< for a screen reader

  private:
    void changeSet(const QString& name, SongSet set, const QString& gesture = {});
    void afterChange();
    void refresh();
    void updatePlan();
    void startPlanJob();
    void loadFontsAhead();
    void takeRead(struct ReadResult result);

    History<SongSet> m_history;
    int m_song = -1;
    PartId m_part = 0;
    QString m_projectPath;
    std::optional<Song> m_trial;
    Catalogue m_catalogue;
    QStringList m_fontFolders;
    std::vector<PartMatch> m_matches;
    std::vector<Snag> m_snags;
    struct CachedSnags;
    mutable std::vector<std::shared_ptr<CachedSnags>>
        m_setSnags; ///< held apart, so that references stay good
    struct CachedLine;
    [[nodiscard]] CachedLine& cached(const Part& part) const;
    mutable std::vector<std::shared_ptr<CachedLine>> m_lines;
    mutable std::uint64_t m_stamp = 0;
    Loop m_loop;
    int m_pace = 100;
    int m_reading = 0;

    std::unique_ptr<Player> m_player;
    QThreadPool m_planner; ///< one thread: the instrument bank is its alone
    QThreadPool m_reader;
    std::shared_ptr<InstrumentBank> m_bank;
    std::shared_ptr<Plan> m_plan; ///< the newest that the player has
    bool m_planRunning = false, m_planWanted = false;
    bool m_playPending = false; ///< play was asked for before the plan was there
    bool m_loadAhead = false;   ///< fonts are to be loaded once the song can play
    int m_planSong = -1;        ///< the song that m_plan plays
};

} // namespace cobbleway
