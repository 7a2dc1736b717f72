#include "app/session/meters.h"

#include "app/session/currentset.h"
#include "app/session/output.h"

namespace cobbleway {

Meters::Meters(CurrentSet& current, Output& output) : m_current(current), m_played(output) {
    connect(&output, &Output::ticked, this, &Meters::look);
}

void Meters::look() {
    Player& player = m_played.player();
    for (int side = 0; side < 2; ++side) m_output[static_cast<std::size_t>(side)] = player.outputPeak(side);
    m_parts.clear();
    if (m_current.hasSong())
        for (const Part& part : m_current.song().parts)
            if (const double peak = player.partPeak(part.id); peak > 0) m_parts[part.id] = peak;
}

double Meters::part(PartId part) const {
    const auto at = m_parts.find(part);
    return at == m_parts.end() ? 0 : at->second;
}

} // namespace cobbleway
