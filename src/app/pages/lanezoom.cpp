#include "app/pages/lanezoom.h"

#include "app/session/session.h"

#include <algorithm>

namespace cobbleway {

LaneZoom::LaneZoom(Uses<uses::Set> session, QObject* parent) : QObject(parent), m_session(session) {
    follow(session.current, Side::File, this, &LaneZoom::showAll);
}

LaneRange LaneZoom::range() const {
    const auto end = m_session.current.hasSong()
                         ? static_cast<double>(std::max<Tick>(1, m_session.current.song().end))
                         : 1;
    const auto from = static_cast<Tick>(m_from * end);
    return {from, from + std::max<Tick>(1, static_cast<Tick>(m_share * end))};
}

void LaneZoom::zoom(double factor, double anchor) {
    const double narrowest = 1.0 / 512;
    const double share = std::clamp(m_share / factor, narrowest, 1.0);
    m_from = std::clamp(m_from + (m_share - share) * anchor, 0.0, 1 - share);
    m_share = share;
    Q_EMIT changed();
}

void LaneZoom::scroll(double screens) {
    m_from = std::clamp(m_from + screens * m_share, 0.0, 1 - m_share);
    Q_EMIT changed();
}

void LaneZoom::showAll() {
    m_from = 0;
    m_share = 1;
    Q_EMIT changed();
}

} // namespace cobbleway
