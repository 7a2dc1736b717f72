#pragma once
#include "app/session/uses.h"
#include "app/widgets/painting.h"

#include <QObject>

namespace cobbleway {

/// Which stretch of the song the lanes of all rows show. The whole song until it is zoomed.
class LaneZoom : public QObject {
    Q_OBJECT
  public:
    explicit LaneZoom(Uses<uses::Set> session, QObject* parent = nullptr);
    [[nodiscard]] LaneRange range() const;
    [[nodiscard]] bool isZoomed() const { return m_share < 1; }
    void zoom(double factor, double anchor); ///< `anchor`: the place that stays, 0–1 of what is shown
    void scroll(double screens);             ///< by so many times what is shown; negative to the left
    void showAll();

  Q_SIGNALS:
    void changed();

  private:
    Uses<uses::Set> m_session;
    double m_from = 0, m_share = 1; ///< of the song, 0–1
    int m_song = -1;
};

} // namespace cobbleway
