#include "app/session/difference.h"

#include "app/look/sentence.h"
#include "app/session/session.h"

#include <algorithm>

namespace cobbleway {
namespace {

constexpr int bars = 4; // of the loop, where none is on

} // namespace

Difference::Difference(Uses<uses::Set, uses::Sounds, uses::Transport, uses::Messages> session,
                       QObject* parent)
    : QObject(parent), m_session(session) {
    connect(&session.current, &CurrentSet::songChanged, this, &Difference::end);
}

void Difference::begin(Tick place) {
    const Song& song = m_session.current.song();
    if (!m_session.transport.loop().on) {
        const int bar = song.tempo->position(place).bar;
        m_before = m_session.transport.loop();
        m_mine = Loop{song.tempo->barStart(bar), std::min(song.end, song.tempo->barStart(bar + bars)), true};
        m_session.transport.setLoop(*m_mine);
        m_session.transport.seek(m_mine->start);
    }
    m_started = !m_session.transport.isPlaying();
    if (m_started) m_session.transport.togglePlay();
}

void Difference::toggle(const QString& name, const Fix& fix, Tick place) {
    if (!m_session.current.hasSong()) return;
    const bool goesOn = isOf(name);
    if (!goesOn) {
        end();
        m_name = name;
        begin(place);
    } else if (!m_session.transport.isPlaying()) {
        m_session.transport.togglePlay();
    }
    m_after = goesOn && !m_after;
    m_session.sounds.hearEdited(m_after ? fix.apply : nullptr);
    Q_EMIT m_session.messages.announced(m_after ? tr("After: %1").arg(sentence(fix.label))
                                                : tr("Before: as it is now"));
    Q_EMIT changed();
}

void Difference::end() {
    if (m_name.isEmpty()) return;
    m_name.clear();
    m_after = false;
    m_session.sounds.hearEdited(nullptr);
    if (std::exchange(m_started, false) && m_session.transport.isPlaying()) m_session.transport.togglePlay();
    if (m_mine && m_session.transport.loop() == *m_mine) m_session.transport.setLoop(*m_before);
    m_mine.reset();
    Q_EMIT changed();
}

} // namespace cobbleway
