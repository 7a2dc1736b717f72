#include "app/session/rounds.h"

#include "app/session/currentset.h"
#include "app/session/messages.h"

#include <algorithm>
#include <utility>

namespace cobbleway {

Rounds::Rounds(CurrentSet& current, Transport& transport, Messages& messages)
    : m_current(current), m_transport(transport), m_messages(messages) {
    connect(&transport, &Transport::ticked, this, [this] { isWorking() ? workOn() : growAfterRound(); });
    connect(&transport, &Transport::sought, this, [this] { m_lastPlace = 0; }); // no round of the loop
    connect(&transport, &Transport::placesChanging, this, &Rounds::stopWork);
}

/// A round has ended when the place has jumped back and nobody moved it.
void Rounds::growAfterRound() {
    const Tick now = m_transport.place();
    const bool round =
        m_transport.loop().on && m_transport.player().isPlaying() && now < std::exchange(m_lastPlace, now);
    if (round && m_growth.on && m_transport.pace() < m_growth.target)
        m_transport.setPace(std::min(m_growth.target, m_transport.pace() + m_growth.step));
}

void Rounds::setGrowth(Growth growth) {
    growth.step = std::clamp(growth.step, 1, 25);
    growth.target = std::clamp(growth.target, 25, 200);
    if (growth == m_growth) return;
    if (growth.on && !m_growth.on) m_firstPace = m_transport.pace();
    m_growth = growth;
    Q_EMIT growthChanged();
}

void Rounds::fallBack() {
    if (m_growth.on) m_transport.setPace(m_firstPace);
}

void Rounds::startWork(const WorkWish& wish) {
    if (!m_current.hasSong()) return;
    auto rounds = workThrough(m_current.song(), m_transport.place(), wish);
    if (rounds.empty()) return;
    stopWork();
    m_workWish = wish;
    m_loopBefore = m_transport.loop();
    m_paceBefore = m_transport.pace();
    m_work = std::move(rounds);
    m_round = 0;
    playRound();
    m_transport.seek(workRound().start);
    if (!m_transport.isPlaying()) m_transport.togglePlay();
    Q_EMIT workChanged();
}

void Rounds::stopWork() {
    if (m_work.empty()) return;
    m_work.clear();
    m_round = 0;
    m_transport.setPace(m_paceBefore);
    m_transport.setLoop(m_loopBefore);
    Q_EMIT workChanged();
}

void Rounds::playRound() {
    const WorkRound& round = workRound();
    const bool last = m_round + 1 == m_work.size(); // it is over at its end
    m_transport.playRound({round.start, round.end, true},
                          last ? std::nullopt : std::optional(m_work[m_round + 1].start));
    m_transport.setPace(round.pace);
}

/// The player jumps from the end of a round to the start of the next; then the next is set.
void Rounds::workOn() {
    const bool last = m_round + 1 == m_work.size();
    if (last && (m_transport.place() >= workRound().end || !m_transport.isPlaying())) {
        if (m_transport.isPlaying()) m_transport.togglePlay();
        stopWork();
        Q_EMIT m_messages.announced(tr("Worked through"));
        return;
    }
    if (last || m_transport.player().loopRounds() == 0) return;
    ++m_round;
    playRound();
    const WorkRound& round = workRound();
    Q_EMIT workChanged();
    Q_EMIT m_messages.announced(
        tr("%1, round %2 of %3").arg(QString::fromStdString(round.name)).arg(round.round).arg(round.rounds));
}

} // namespace cobbleway
