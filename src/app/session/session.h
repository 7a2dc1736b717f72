/// What the window shows and changes: the set, the song, the selected part, what plays.
#pragma once
#include "files/loudness.h"
#include "files/project.h"
#include "song/derived.h"
#include "song/history.h"
#include "song/splits.h"
#include "sound/player.h"

#include <QFileSystemWatcher>
#include <QObject>
#include <QStringList>
#include <QThreadPool>
#include <QTimer>
#include <functional>
#include <stop_token>

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
    [[nodiscard]] const std::vector<PartMatch>& matches() const { return *m_matches; }
    [[nodiscard]] const PartMatch* matchOf(PartId part) const;
    [[nodiscard]] const std::vector<Snag>& snags() const { return *m_snags; }
    [[nodiscard]] Derived::Kept<std::vector<Snag>> snagsOf(int song) const; ///< of any song in the set
    [[nodiscard]] Derived& derived() const { return *m_derived; }
    // Of a part of the song that is shown; of one that is not there: empty
    [[nodiscard]] Derived::Kept<HeardPart> heard(PartId part) const;
    [[nodiscard]] Derived::Kept<Overview> overview(PartId part) const;
    [[nodiscard]] Derived::Kept<std::vector<ControlPoint>> volume(PartId part) const;
    [[nodiscard]] Derived::Kept<std::vector<OriginCount>> origins(PartId part) const;
    void mendAllSafe();
    /// Splits a part, or says why there is nothing to split; the first new part is selected.
    void split(const QString& name, const std::function<Split(const Song&, const Part&)>& way);
    /// Puts the songs that a type 2 file's tracks make in place of the song that is shown.
    void tracksToSongs();

    // Sounds
    /// All sounds, in the order of fonts that the set wants, or else the person.
    [[nodiscard]] const Catalogue& catalogue() const { return m_catalogue; }
    void setCatalogue(Catalogue catalogue);
    void rescanFonts();   ///< fonts and MIDI ports; beside the interface
    void rescanPlugins(); ///< LV2, in a helper process; beside the interface
    [[nodiscard]] QString pluginBeingTried() const { return m_pluginTried; } ///< empty when none is
    /// Whose order of fonts: the person's own, the set's, the song's.
    enum class Scope { Mine, Set, Song };
    [[nodiscard]] QStringList fontOrder(Scope scope) const; ///< ids; empty where there is none of its own
    void setFontOrder(Scope scope, const QStringList& ids);
    void setDefaultFont(const QString& fontId) { setFontOrder(Scope::Mine, {fontId}); }
    [[nodiscard]] QStringList fontFolders() const { return m_fontFolders; }
    void addFontFolder(const QString& folder);
    void removeFontFolder(const QString& folder);

    /// Lets the selected part be heard with a sound without keeping it.
    void trySound(const SoundRef& sound);
    [[nodiscard]] bool isTrying() const { return m_tried.has_value(); }
    [[nodiscard]] const std::optional<SoundRef>& tried() const { return m_tried; }
    void keepTried() { keepTriedFor({m_part}); }
    void keepTriedFor(const std::vector<PartId>& parts);
    void dropTried();
    /// Whether only the part is heard while a sound is tried.
    [[nodiscard]] bool triesAlone() const { return m_triesAlone; }
    void setTriesAlone(bool alone);
    /// Lets the song be heard with another font in front, and back again, without keeping it.
    void toggleCompare();
    [[nodiscard]] const SoundFont* comparedFont() const; ///< null when none is
    void setCompareFont(const QString& id) { m_compareWith = id.toStdString(); }
    /// The font that toggleCompare() turns to: the one set, else the next in order, else any other.
    [[nodiscard]] const SoundFont* compareFont() const;

    /// The settings that a preset of a plug-in stands for, asked of the plug-in itself beside the interface.
    void askPreset(const QString& pluginUri, const QString& preset, std::function<void(PluginSettings)> take);
    struct PluginFace {
        std::vector<PluginControl> controls;
        std::vector<PluginPreset> presets;
    };
    void askFace(const QString& pluginUri, std::function<void(PluginFace)> take);

    /// Measures the song beside the interface and sets the master level so that it is as loud as others.
    void bringToLevel();
    [[nodiscard]] bool isMeasuring() const { return m_measuring; }
    void stopMeasuring() { m_measureStop.request_stop(); }
    /// What bringToLevel() found for the song that is shown; none when it has changed since.
    [[nodiscard]] std::optional<Measured> measured() const;

    // Playing
    [[nodiscard]] Player& player() { return *m_player; }
    void togglePlay();
    /// Whether it plays, or will as soon as its sounds are loaded.
    [[nodiscard]] bool isPlaying() const { return m_player->isPlaying() || m_playPending; }
    /// Whether the song that is shown is ready to be played.
    [[nodiscard]] bool plannedSong() const { return hasSong() && m_planSong == m_song; }
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
    void measuringChanged();
    void outputMetered(double left, double right); ///< peaks of what is heard, some thirty times a second
    void comparedChanged();
    void pluginsChanged(); ///< the scan goes on or has ended
    void planReady();      ///< what is heard is what is shown
    void problem(const QString& title, const QString& text);
    void announced(const QString& text); ///< for a screen reader

  private:
    void changeSet(const QString& name, SongSet set, const QString& gesture = {});
    void afterChange();
    void refresh();
    void updatePlan();
    void startPlanJob();
    void loadFontsAhead();
    void deriveCatalogue();
    void takePlan(std::shared_ptr<Plan> plan, int forSong);
    void refreshTrial();
    void watchFolders();
    void checkOutput();
    void checkPlugins();
    void takeRead(struct ReadResult result);

    History<SongSet> m_history;
    int m_song = -1;
    PartId m_part = 0;
    QString m_projectPath;
    std::optional<Song> m_trial; ///< what is heard in place of the song
    std::optional<SoundRef> m_tried;
    bool m_triesAlone = false, m_comparing = false;
    std::string m_compareWith;
    Catalogue m_found, m_catalogue;        ///< as scanned; and as it serves
    QStringList m_mine;                    ///< the person's own order of fonts
    std::vector<std::string> m_unplayable; ///< fonts that could not be loaded
    std::vector<std::string> m_derivedOrder;
    std::vector<FontMemory> m_derivedFonts;
    QStringList m_fontFolders;
    std::shared_ptr<FontScanner> m_fontScanner; ///< the reader thread's alone
    QFileSystemWatcher m_watcher;
    QTimer m_watchTimer, m_outputTimer;
    QString m_pluginTried;
    std::stop_source m_scanStop, m_measureStop;
    bool m_measuring = false;
    Measured m_measuredLoudness;
    Song m_measuredSong; ///< without its master level
    QStringList m_toldProblems;
    std::shared_ptr<Derived> m_derived = std::make_shared<Derived>();
    Derived::Kept<std::vector<PartMatch>> m_matches = std::make_shared<const std::vector<PartMatch>>();
    Derived::Kept<std::vector<Snag>> m_snags = std::make_shared<const std::vector<Snag>>();
    Loop m_loop;
    int m_pace = 100;
    int m_reading = 0;

    std::unique_ptr<Player> m_player;
    QThreadPool m_planner; ///< one thread: the instrument bank is its alone
    QThreadPool m_reader;
    QThreadPool m_scanner; ///< plug-ins, and measuring
    std::shared_ptr<InstrumentBank> m_bank;
    std::shared_ptr<Plan> m_plan; ///< the newest that the player has
    bool m_planRunning = false, m_planWanted = false;
    bool m_playPending = false; ///< play was asked for before the plan was there
    bool m_loadAhead = false;   ///< fonts are to be loaded once the song can play
    int m_planSong = -1;        ///< the song that m_plan plays
};

} // namespace cobbleway
