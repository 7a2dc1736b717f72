#include "app/session/tasting.h"

#include "app/session/currentset.h"
#include "app/session/findings.h"
#include "app/session/planner.h"
#include "app/session/sounds.h"
#include "app/session/transport.h"

#include <utility>

namespace cobbleway {

Tasting::Tasting(CurrentSet& current, Sounds& sounds, Findings& findings, Planner& planner,
                 Transport& transport)
    : m_current(current), m_sounds(sounds), m_findings(findings), m_transport(transport) {
    m_timer.setTimerType(Qt::PreciseTimer);
    constexpr int every = 10; // milliseconds
    m_timer.setInterval(every);
    connect(&m_timer, &QTimer::timeout, this, &Tasting::playOn);
    connect(&sounds, &Sounds::triedChanged, this, [this] {
        end();
        m_due = m_sounds.isTrying() && !m_transport.isPlaying();
    });
    connect(&planner, &Planner::planReady, this, [this] {
        if (std::exchange(m_due, false)) begin();
    });
    connect(&transport, &Transport::playingChanged, this, &Tasting::end);
}

void Tasting::begin() {
    const Part* part = m_current.part();
    if (!m_sounds.isTrying() || m_transport.isPlaying() || !part) return;
    end();
    const Song& song = m_current.song();
    m_part = part->id;
    m_phrase = phraseOf(song, *m_findings.derived()->heard(song, *part), m_transport.place());
    if (m_phrase.empty()) m_phrase = scaleIn({48, 76});
    m_next = 0;
    m_clock.start();
    m_timer.start();
    playOn();
}

void Tasting::end() {
    m_due = false;
    m_timer.stop();
    for (const auto& [time, key] : std::exchange(m_held, {}))
        m_transport.player().audition(m_part, Key{static_cast<std::uint8_t>(key)}, Velocity{0});
    m_phrase.clear();
}

/// Ends what is over, and begins what is due.
void Tasting::playOn() {
    const double now = static_cast<double>(m_clock.nsecsElapsed()) * 1e-9;
    while (!m_held.empty() && m_held.begin()->first <= now) {
        const int key = m_held.begin()->second;
        m_held.erase(m_held.begin());
        m_transport.player().audition(m_part, Key{static_cast<std::uint8_t>(key)}, Velocity{0});
    }
    for (; m_next < m_phrase.size() && m_phrase[m_next].start <= now; ++m_next) {
        const PhraseNote& note = m_phrase[m_next];
        m_transport.player().audition(m_part, note.key, note.velocity);
        m_held.insert({note.end, note.key.value});
    }
    if (m_held.empty() && m_next == m_phrase.size()) m_timer.stop();
}

} // namespace cobbleway
