#include "app/session/startingnote.h"

#include "app/session/currentset.h"
#include "app/session/findings.h"
#include "app/session/messages.h"
#include "app/session/transport.h"
#include "midi/gm.h"
#include "song/heard/firstnote.h"

#include <QTimer>
#include <algorithm>

namespace cobbleway {

StartingNote::StartingNote(CurrentSet& current, Findings& findings, Transport& transport, Messages& messages)
    : m_current(current), m_findings(findings), m_transport(transport), m_messages(messages) {}

void StartingNote::play() {
    if (!m_current.hasSong()) return;
    const Song& song = m_current.song();
    const auto leads = std::find_if(song.parts.begin(), song.parts.end(),
                                    [](const Part& p) { return !p.aside && p.mix.role == Role::Lead; });
    const PartId lead = leads != song.parts.end() ? leads->id : m_current.selectedPart();
    const auto first = firstNoteAfter(song, lead, m_transport.place(), [&](const Part& part) {
        return m_findings.derived()->heard(song, part);
    });
    if (!first) {
        Q_EMIT m_messages.announced(tr("No note begins after this place"));
        return;
    }
    Player& player = m_transport.player();
    std::vector<std::pair<PartId, Key>> sounding = first->harmony;
    for (const auto& [part, key] : sounding) player.audition(part, key, Velocity{45});
    sounding.emplace_back(lead, first->key);
    player.audition(lead, first->key, Velocity{100});
    constexpr int lasts = 1500; // milliseconds
    QTimer::singleShot(lasts, this, [&player, sounding] {
        for (const auto& [part, key] : sounding) player.audition(part, key, Velocity{0});
    });
    Q_EMIT m_messages.announced(tr("%1, in bar %2")
                                    .arg(QString::fromStdString(keyName(first->key)))
                                    .arg(song.tempo->position(first->tick).bar));
}

} // namespace cobbleway
