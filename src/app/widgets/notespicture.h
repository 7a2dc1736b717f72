#pragma once
#include "app/session/uses.h"
#include "app/widgets/surface.h"
#include "song/model/song.h"

#include <QPixmap>
#include <QWidget>

namespace cobbleway {

/// The lead's notes, as long as eight bars, large over the faint rest. While the song plays they move evenly
/// under the playhead, which stays; while it stands they are turned like pages. A click moves the place; the
/// wheel turns pages; with Ctrl it shows more or fewer bars.
class NotesPicture : public QWidget, public Surface {
    Q_OBJECT
  public:
    explicit NotesPicture(Uses<uses::Set, uses::Findings, uses::Transport> session,
                          QWidget* parent = nullptr);
    /// Follows the playhead; true when another bar is the first.
    bool follow();
    [[nodiscard]] int firstBar() const { return m_firstBar; }
    [[nodiscard]] int barCount() const { return m_bars; }
    void setBarCount(int bars); ///< 2–32
    /// How large letters and notes are, 1 for the usual; whether the lead's notes have their names, and by
    /// how many semitones those are written above where they sound.
    void setLook(double scale, bool named, int written = 0);
    [[nodiscard]] QString surfaceValue() const override;
    [[nodiscard]] std::vector<SurfaceRow> surfaceRows() const override; ///< the bars shown, with their notes

  Q_SIGNALS:
    void pageTurned();

  private:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void turnTo(int bar);
    [[nodiscard]] Tick startTick() const { return m_start; }
    [[nodiscard]] Tick endTick() const { return m_start + m_span; }
    void moveTo(Tick start);
    bool scroll(Tick place);
    [[nodiscard]] QRectF area() const;
    [[nodiscard]] double xOf(Tick tick) const;
    [[nodiscard]] bool showsDrums() const; ///< then pieces of the kit stand in rows, in place of keys
    /// Where a key stands: the key itself, or of drums the row of its piece from the lowest up.
    [[nodiscard]] int heightOf(Key key) const;
    [[nodiscard]] std::pair<int, int> keySpan() const;                 ///< lowest and highest height shown
    void paintKeys(QPainter& painter, std::pair<int, int> span) const; ///< lines and names, which stay
    void paintBars(QPainter& painter, Tick from, Tick to) const;
    [[nodiscard]] QString notesBetween(Tick from, Tick to, int most) const; ///< their names, or "rest"
    void paintRowNames(QPainter& painter, std::pair<int, int> span) const;
    enum class Layer { Back, Lead, Sounding };
    void paintNotes(QPainter& painter, const Part& part, std::pair<int, int> span, Layer layer, Tick from,
                    Tick to) const;
    void paintMoving(const Part& lead, std::pair<int, int> span); ///< two pages of what moves, into m_moving
    void refresh();
    Uses<uses::Set, uses::Findings, uses::Transport> m_session;
    int m_firstBar = 1;
    int m_bars = 8;
    Tick m_start = 0, m_span = 1; ///< what is shown
    double m_paintedX = -1;
    double m_scale = 1;
    bool m_named = false;
    int m_written = 0;
    QPixmap m_moving;      ///< null: to be painted anew
    Tick m_movingFrom = 0; ///< its left edge
};

} // namespace cobbleway
