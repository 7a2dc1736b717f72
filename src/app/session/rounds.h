#pragma once
#include "app/session/transport.h"
#include "song/heard/workthrough.h"

#include <QObject>
#include <vector>

namespace cobbleway {

/// How the pace grows with each round of the loop.
struct Growth {
    bool on = false;
    int step = 5;     ///< percent, 1–25
    int target = 100; ///< percent, 25–200
    bool operator==(const Growth&) const = default;
};

/// What practice does with loop and pace, round by round: the pace grows, or a song is worked through.
class Rounds : public QObject {
    Q_OBJECT
  public:
    Rounds(CurrentSet& current, Transport& transport, Messages& messages);

    [[nodiscard]] const Growth& growth() const { return m_growth; }
    void setGrowth(Growth growth); ///< it begins at the pace that is set now
    void fallBack();               ///< to the pace that growth began with
    /// Plays round after round (workThrough()) from the section at the present place; loop and pace are as
    /// before when it ends. Says nothing when there is nothing to work through.
    void startWork(const WorkWish& wish);
    void stopWork();
    [[nodiscard]] bool isWorking() const { return m_round < m_work.size(); }
    /// The round that is played; only while isWorking().
    [[nodiscard]] const WorkRound& workRound() const { return m_work[m_round]; }
    [[nodiscard]] const WorkWish& workWish() const { return m_workWish; }

  Q_SIGNALS:
    void growthChanged();
    void workChanged(); ///< another round, or none

  private:
    void growAfterRound();
    void workOn();
    void playRound();
    CurrentSet& m_current;
    Transport& m_transport;
    Messages& m_messages;
    Growth m_growth;
    int m_firstPace = 100; ///< that growth began with
    Tick m_lastPlace = 0;  ///< at the last tick; to see a round of the loop end
    std::vector<WorkRound> m_work;
    std::size_t m_round = 0; ///< of m_work
    WorkWish m_workWish;
    Loop m_loopBefore; ///< what stopWork() gives back
    int m_paceBefore = 100;
};

} // namespace cobbleway
