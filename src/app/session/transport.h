#pragma once
#include "app/session/settings.h"
#include "song/model/songchange.h"
#include "sound/evenplace.h"
#include "sound/player.h"

#include <QElapsedTimer>
#include <QObject>
#include <memory>
#include <optional>

namespace cobbleway {

class CurrentSet;
class Messages;
class Output;
class Planner;

/// A stretch of the song that is repeated.
struct Loop {
    Tick start = 0, end = 0;
    bool on = false;
    bool operator==(const Loop&) const = default;
};

/// Where and how the song that is shown plays: start and stop, the place, the loop, the pace, the click.
class Transport : public QObject {
    Q_OBJECT
  public:
    Transport(CurrentSet& current, Planner& planner, Output& output, Messages& messages);

    [[nodiscard]] Player& player();
    [[nodiscard]] const Player& player() const;
    void togglePlay();
    /// Whether it plays, or will as soon as its sounds are loaded.
    [[nodiscard]] bool isPlaying() const { return player().isPlaying() || m_pending; }
    void seek(Tick tick);
    void seekSection(int by);         ///< +1 to the next section's start, −1 to the one before
    [[nodiscard]] Tick place() const; ///< where the player is
    /// The same, moving evenly while it plays: outputs ask for sound in bursts.
    [[nodiscard]] Tick evenPlace() const;
    [[nodiscard]] const Loop& loop() const { return m_loop; }
    void setLoop(Loop loop);
    /// Shows a stretch as the loop, from whose end it goes on at `next`; where there is none it plays on.
    void playRound(const Loop& loop, std::optional<Tick> next);
    [[nodiscard]] int pace() const { return m_pace; } ///< percent, 25–200
    void setPace(int percent);
    [[nodiscard]] const settings::Clicking& clicking() const { return m_clicking; }
    void setClicking(const settings::Clicking& clicking); ///< kept for the next time

  Q_SIGNALS:
    void ticked(); ///< some thirty times a second: the place and the peaks are others
    void playingChanged();
    void loopChanged();
    void paceChanged();
    void clickingChanged();
    void sought(); ///< the place was moved by hand
    /// Another song is shown, or what is at a place of this one is elsewhere now; the place and the loop
    /// follow after this.
    void placesChanging();

  private:
    void takeSongChange(Sides sides);
    void keepToTheNotes(const Song& before);
    void tick();
    void glideOn();
    void start();
    void sendLoop();
    void sendClick();

    CurrentSet& m_current;
    Planner& m_planner;
    Output& m_output;
    Messages& m_messages;
    std::shared_ptr<const Song> m_before; ///< the song as it was before the last change
    bool m_pending = false;               ///< play was asked for before the plan was there
    bool m_wasPlaying = false;
    Loop m_loop;
    std::optional<Tick> m_next = 0; ///< where it goes from the loop's end
    int m_pace = 100;
    settings::Clicking m_clicking;
    EvenPlace m_evenPlace;
    QElapsedTimer m_sinceEven;
};

} // namespace cobbleway
