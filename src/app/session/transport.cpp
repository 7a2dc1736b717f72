#include "app/session/transport.h"

#include "app/session/currentset.h"
#include "app/session/messages.h"
#include "app/session/output.h"
#include "app/session/planner.h"

#include <algorithm>
#include <utility>

namespace cobbleway {

Transport::Transport(CurrentSet& current, Planner& planner, Output& output, Messages& messages)
    : m_current(current), m_planner(planner), m_output(output), m_messages(messages),
      m_clicking(settings::clicking()) {
    sendClick();
    connect(&current, &CurrentSet::songChanged, this, &Transport::takeSongChange);
    connect(&planner, &Planner::playable, this, [this] {
        if (std::exchange(m_pending, false)) start();
    });
    connect(&output, &Output::ticked, this, &Transport::tick);
}

Player& Transport::player() { return m_output.player(); }
const Player& Transport::player() const { return m_output.player(); }

/// Another song begins anew.
void Transport::takeSongChange(Sides sides) {
    const auto before = std::exchange(
        m_before, m_current.hasSong() ? std::make_shared<const Song>(m_current.song()) : nullptr);
    if (sides.has(Side::File)) {
        if (isPlaying()) togglePlay();
        player().seek(0);
        Q_EMIT placesChanging();
        setLoop({});
    } else if (before && sides.has(Side::Time)) {
        Q_EMIT placesChanging();
        keepToTheNotes(*before);
    }
}

/// The loop and the place stay at the notes where they were.
void Transport::keepToTheNotes(const Song& before) {
    const Song& song = m_current.song();
    const Tick shift = shiftOf(before, song);
    const Tick place = before.tempo->tickAt(player().seconds()) + shift;
    if (!player().isPlaying() || shift != 0) seek(place);
    Loop loop = m_loop;
    loop.start = std::clamp<Tick>(loop.start + shift, 0, song.end);
    loop.end = std::clamp<Tick>(loop.end + shift, 0, song.end);
    if (loop == m_loop)
        sendLoop(); // the same ticks are at other seconds now
    else
        setLoop(loop);
}

void Transport::tick() {
    if (std::exchange(m_wasPlaying, isPlaying()) != isPlaying())
        Q_EMIT playingChanged(); // the song has ended
    glideOn();
    Q_EMIT ticked();
}

void Transport::setClicking(const settings::Clicking& clicking) {
    if (clicking == m_clicking) return;
    m_clicking = clicking;
    settings::setClicking(clicking);
    sendClick();
    Q_EMIT clickingChanged();
}

void Transport::sendClick() { player().setClick(m_clicking.on, m_clicking.shape); }

/// Counts first, where that is wished.
void Transport::start() {
    m_output.lookOften();
    if (m_clicking.countIn == 0) return player().play();
    const Song& song = m_current.song();
    const Tick from = place() >= song.end ? 0 : place();
    player().play(countInBefore(*song.tempo, from, m_clicking.countIn, m_pace / 100.0));
}

void Transport::togglePlay() {
    if (isPlaying()) {
        m_pending = false;
        player().stop();
    } else if (m_current.hasSong()) {
        if (m_planner.isPlanned())
            start();
        else
            m_pending = true;
    }
    m_wasPlaying = isPlaying();
    Q_EMIT playingChanged();
    Q_EMIT m_messages.announced(isPlaying() ? tr("Playing") : tr("Stopped"));
}

void Transport::seek(Tick tick) {
    if (!m_current.hasSong()) return;
    const Song& song = m_current.song();
    player().seek(song.tempo->seconds(std::clamp<Tick>(tick, 0, song.end)));
    Q_EMIT sought();
}

void Transport::seekSection(int by) {
    if (!m_current.hasSong()) return;
    const Song& song = m_current.song();
    const Tick now = place(),
               grace = song.tempo->quarter(); // just after a start, "previous" means the one before
    Tick to = by > 0 ? song.end : 0;
    for (const Section& section : song.sections) {
        if (by > 0 && section.start > now) to = std::min(to, section.start);
        if (by < 0 && section.start < now - grace) to = std::max(to, section.start);
    }
    seek(to);
}

Tick Transport::place() const {
    return m_current.hasSong() ? m_current.song().tempo->tickAt(player().seconds()) : 0;
}

Tick Transport::evenPlace() const {
    return m_current.hasSong() && player().isPlaying() ? m_current.song().tempo->tickAt(m_evenPlace.seconds())
                                                       : place();
}

void Transport::glideOn() {
    const double passed = m_sinceEven.isValid() ? static_cast<double>(m_sinceEven.nsecsElapsed()) * 1e-9 : 0;
    m_sinceEven.start();
    m_evenPlace.look(player().seconds(), player().isPlaying(), passed * m_pace / 100);
}

void Transport::setLoop(Loop loop) {
    if (loop.end < loop.start) std::swap(loop.start, loop.end);
    if (loop.start == loop.end) loop.on = false;
    if (loop == m_loop && m_next == loop.start) return;
    playRound(loop, loop.start);
}

void Transport::playRound(const Loop& loop, std::optional<Tick> next) {
    m_loop = loop;
    m_next = next;
    sendLoop();
    Q_EMIT loopChanged();
}

void Transport::sendLoop() {
    if (m_current.hasSong() && m_loop.on && m_next)
        player().setLoop(m_current.song().tempo->seconds(*m_next),
                         m_current.song().tempo->seconds(m_loop.end));
    else
        player().setLoop(0, 0);
}

void Transport::setPace(int percent) {
    percent = std::clamp(percent, 25, 200);
    if (percent == m_pace) return;
    m_pace = percent;
    player().setPace(percent);
    Q_EMIT paceChanged();
}

} // namespace cobbleway
