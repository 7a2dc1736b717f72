/// Things that several pages draw: stones, notes, pills.
#pragma once
#include "midi/gm.h"
#include "song/heard/controllers.h"
#include "song/heard/overview.h"

#include <QColor>
#include <QPainter>
#include <QRectF>
#include <QString>

namespace cobbleway {

inline constexpr int lowestShown = 21, highestShown = 108; ///< the piano's keys

/// The stretch of the song that lanes show, in ticks.
struct LaneRange {
    Tick from = 0, to = 1;
    bool operator==(const LaneRange&) const = default;
};

/// A part's notes along a stretch of the song as rounded stones; drum hits as pebbles, sized by velocity,
/// each piece of the kit on a row of its own.
/// Where they lie too thick for that, as a texture. `volume`, when not empty, goes over them as a curve.
void paintLane(QPainter& painter, const QRectF& rect, const Overview& overview,
               const std::vector<ControlPoint>& volume, LaneRange range, bool drums, const QColor& colour);

/// The row of a piece of the kit wherever drums are drawn, 0 the top of pieceCount rows.
int rowOfPiece(DrumPiece piece);
/// The piece in a row, for people: "Hats".
QString pieceText(DrumPiece piece);

/// Paints from right to left what is laid out from left to right, as layouts do where text runs so. Text
/// stays readable (paintText(), paintPill()); for pictures of music, where time and pitch go to the right in
/// every language, see Upright.
class Mirrored {
  public:
    Mirrored(QPainter& painter, const QRectF& within, Qt::LayoutDirection direction);
    ~Mirrored() { m_painter.restore(); }
    Mirrored(const Mirrored&) = delete;
    Mirrored& operator=(const Mirrored&) = delete;

  private:
    QPainter& m_painter;
};

/// Paints a part of what is Mirrored as it is.
class Upright {
  public:
    Upright(QPainter& painter, const QRectF& part);
    ~Upright() {
        if (m_turned) m_painter.restore();
    }
    Upright(const Upright&) = delete;
    Upright& operator=(const Upright&) = delete;
    [[nodiscard]] const QRectF& rect() const { return m_rect; } ///< where the part is now

  private:
    QPainter& m_painter;
    QRectF m_rect;
    bool m_turned;
};

/// A short remark on a rounded ground; gives the space it took. `right` is its right edge.
enum class Tone { Quiet, Good, Look, Wrong, Action };
QRectF paintPill(QPainter& painter, double right, double middle, const QString& text, Tone tone);

/// A row's card: panel, line, selected or not.
void paintCard(QPainter& painter, const QRectF& rect, bool selected, double radius = 8);

/// Text cut with "…" to fit, drawn left and vertically centred.
void paintText(QPainter& painter, const QRectF& rect, const QString& text, const QFont& font,
               const QColor& colour, Qt::Alignment alignment = Qt::AlignLeft | Qt::AlignVCenter);

/// The application's mark: a few paving stones.
void paintMark(QPainter& painter, const QRectF& rect);

/// m:ss, or h:mm:ss.
QString timeText(double seconds);
/// "−12 dB", "+3.5 dB", "0 dB".
QString dbText(double db);

} // namespace cobbleway
