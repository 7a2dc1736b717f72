/// Playing: the plan, the player, the place, the loop, the pace.
#pragma once
#include "app/session/settings.h"
#include "files/loudness.h"
#include "files/project.h"
#include "song/heard/workthrough.h"
#include "song/model/songchange.h"
#include "sound/evenplace.h"
#include "sound/player.h"

#include <QElapsedTimer>
#include <QObject>
#include <QStringList>
#include <QThreadPool>
#include <QTimer>
#include <map>
#include <stop_token>

namespace cobbleway {

class CurrentSet;
class Findings;
class Messages;
class Sounds;

/// A stretch of the song that is repeated.
struct Loop {
    Tick start = 0, end = 0;
    bool on = false;
    bool operator==(const Loop&) const = default;
};

/// How the pace grows with each round of the loop.
struct Growth {
    bool on = false;
    int step = 5;     ///< percent, 1–25
    int target = 100; ///< percent, 25–200
    bool operator==(const Growth&) const = default;
};

/// Plays the song that is shown, as it is heard now.
class Playback : public QObject {
    Q_OBJECT
  public:
    Playback(CurrentSet& current, Sounds& sounds, Findings& findings, Messages& messages);
    ~Playback() override;

    [[nodiscard]] Player& player() { return *m_player; }
    /// Opens an output by id beside the interface, and tells what becomes of it. `kept`: for the next time.
    void openOutput(const QString& id, bool kept = false);
    void togglePlay();
    /// Whether it plays, or will as soon as its sounds are loaded.
    [[nodiscard]] bool isPlaying() const { return m_player->isPlaying() || m_playPending; }
    /// Whether the song that is shown is ready to be played.
    [[nodiscard]] bool isPlanned() const;
    void seek(Tick tick);
    void seekSection(int by);         ///< +1 to the next section's start, −1 to the one before
    [[nodiscard]] Tick place() const; ///< where the player is
    /// The same, moving evenly while it plays: outputs ask for sound in bursts.
    [[nodiscard]] Tick evenPlace() const;
    [[nodiscard]] const Loop& loop() const { return m_loop; }
    void setLoop(Loop loop);
    [[nodiscard]] int pace() const { return m_pace; } ///< percent, 25–200
    void setPace(int percent);
    [[nodiscard]] const Growth& growth() const { return m_growth; }
    void setGrowth(Growth growth); ///< it begins at the pace that is set now
    void fallBack();               ///< to the pace that growth began with
    [[nodiscard]] const settings::Clicking& clicking() const { return m_clicking; }
    void setClicking(const settings::Clicking& clicking); ///< kept for the next time
    /// Plays round after round (workThrough()) from the section at the present place; loop and pace are as
    /// before when it ends. Says nothing when there is nothing to work through.
    void startWork(const WorkWish& wish);
    void stopWork();
    [[nodiscard]] bool isWorking() const { return m_round < m_work.size(); }
    /// The round that is played; only while isWorking().
    [[nodiscard]] const WorkRound& workRound() const { return m_work[m_round]; }
    [[nodiscard]] const WorkWish& workWish() const { return m_workWish; }
    /// Sounds the note that the lead, or else the selected part, begins with after this place, with the
    /// harmony around it, for a second and a half.
    void playFirstNote();

    /// Peaks since the last tick, as amplitudes.
    [[nodiscard]] double outputPeak(int side) const { return m_outputPeaks[static_cast<std::size_t>(side)]; }
    [[nodiscard]] double partPeak(PartId part) const;

    /// Measures the song beside the interface and sets the master level so that it is as loud as others.
    void bringToLevel();
    [[nodiscard]] bool isMeasuring() const { return m_measuring; }
    void stopMeasuring() { m_measureStop.request_stop(); }
    /// Whether songs that nobody has levelled are heard equally loud.
    [[nodiscard]] bool isEven() const { return m_even; }
    void setEven(bool even);
    /// The gain in dB at which the song that is shown is heard to be as loud as others; 0 when it has a level
    /// of its own, or is not measured yet.
    [[nodiscard]] double evenGain() const;
    /// Measures the song that is shown, when it has not been; of itself only where somebody can hear it.
    void measureForEvenness();
    /// What bringToLevel() found for the song that is shown; none when it has changed since.
    [[nodiscard]] std::optional<Measured> measured() const;

    void stop();                        ///< gives up measuring
    bool waitForDone(int milliseconds); ///< false when something still runs then

  Q_SIGNALS:
    void ticked(); ///< some thirty times a second: the place and the peaks are others
    void playingChanged();
    void loopChanged();
    void paceChanged();
    void growthChanged();
    void clickingChanged();
    void workChanged(); ///< another round, or none
    void evennessChanged();
    void measuringChanged();
    void sought();    ///< the place was moved by hand
    void planReady(); ///< what is heard is what is shown

  private:
    void takeSongChange(Sides sides);
    void sendLoop();
    void updatePlan();
    void startPlanJob();
    void takePlan(const Result<std::shared_ptr<Plan>>& made, const std::shared_ptr<const SourceFile>& source);
    void tick();
    void growAfterRound();
    void workOn();
    void sendClick();
    void startPlayer();
    void sendGain();
    void glideOn();
    void checkOutput();
    void takeOutputNews(OutputNews news);
    void checkHang();
    void checkPlugins();

    CurrentSet& m_current;
    Sounds& m_sounds;
    Findings& m_findings;
    Messages& m_messages;
    std::unique_ptr<Player> m_player;
    std::shared_ptr<Plan> m_plan;                ///< the newest that the player has
    std::shared_ptr<const SourceFile> m_planned; ///< the file of the song that it plays
    std::shared_ptr<const Song> m_before;        ///< the song as it was before the last change
    bool m_planRunning = false, m_planWanted = false;
    bool m_planStale = false;   ///< it must be made anew, whatever the song says
    bool m_playPending = false; ///< play was asked for before the plan was there
    bool m_wasPlaying = false;
    Loop m_loop;
    int m_pace = 100;
    Growth m_growth;
    settings::Clicking m_clicking;
    std::vector<WorkRound> m_work;
    std::size_t m_round = 0; ///< of m_work
    WorkWish m_workWish;
    Loop m_loopBefore; ///< what stopWork() gives back
    int m_paceBefore = 100;
    QString m_wantedOutput;     ///< id
    bool m_keepsOutput = false; ///< for the next time, when it opens
    bool m_outputGone = false, m_toldHang = false;
    bool m_even = true;
    bool m_evenRunning = false;
    std::stop_source m_evenStop;
    QTimer m_evenPause; ///< a song that is only looked at for a moment is not measured
    EvenPlace m_evenPlace;
    QElapsedTimer m_sinceEven;
    int m_firstPace = 100; ///< that growth began with
    Tick m_lastPlace = 0;  ///< at the last tick; to see a round of the loop end
    std::array<double, 2> m_outputPeaks{};
    std::map<PartId, double> m_partPeaks;
    QTimer m_timer, m_watch;
    QStringList m_toldProblems;
    std::stop_source m_measureStop;
    bool m_measuring = false;
    Measured m_measuredLoudness;
    Song m_measuredSong; ///< without its master level
    QThreadPool m_measurer;
};

} // namespace cobbleway
