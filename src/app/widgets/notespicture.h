#pragma once
#include "app/session/uses.h"
#include "app/widgets/surface.h"
#include "song/model/song.h"

#include <QPixmap>
#include <QWidget>

namespace cobbleway {

/// The lead's notes, eight bars at a time, large over the faint rest; the playhead runs through them. A click
/// moves the place; the wheel turns pages; with Ctrl it shows more or fewer bars.
class NotesPicture : public QWidget, public Surface {
    Q_OBJECT
  public:
    explicit NotesPicture(Uses<uses::Set, uses::Findings, uses::Playback> session, QWidget* parent = nullptr);
    /// Follows the playhead; true when the page turned.
    bool follow();
    [[nodiscard]] int firstBar() const { return m_firstBar; }
    [[nodiscard]] int barCount() const { return m_bars; }
    void setBarCount(int bars); ///< 2–32
    /// How large letters and notes are, 1 for the usual; whether the lead's notes have their names, and by
    /// how many semitones those are written above where they sound.
    void setLook(double scale, bool named, int written = 0);
    [[nodiscard]] bool isNamed() const { return m_named; }
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
    [[nodiscard]] Tick startTick() const;
    [[nodiscard]] Tick endTick() const;
    [[nodiscard]] QRectF area() const;
    [[nodiscard]] double xOf(Tick tick) const;
    [[nodiscard]] bool showsDrums() const; ///< then pieces of the kit stand in rows, in place of keys
    /// Where a key stands: the key itself, or of drums the row of its piece from the lowest up.
    [[nodiscard]] int heightOf(Key key) const;
    [[nodiscard]] std::pair<int, int> keySpan() const; ///< lowest and highest height shown
    void paintGrid(QPainter& painter, std::pair<int, int> span) const;
    [[nodiscard]] QString notesBetween(Tick from, Tick to, int most) const; ///< their names, or "rest"
    void paintRowNames(QPainter& painter, std::pair<int, int> span) const;
    enum class Layer { Back, Lead, Sounding };
    void paintNotes(QPainter& painter, const Part& part, std::pair<int, int> span, Layer layer) const;
    void paintStill(const Part& lead, std::pair<int, int> span); ///< all that does not move, into m_still
    void refresh();
    Uses<uses::Set, uses::Findings, uses::Playback> m_session;
    int m_firstBar = 1;
    int m_bars = 8;
    double m_paintedX = -1;
    double m_scale = 1;
    bool m_named = false;
    int m_written = 0;
    QPixmap m_still; ///< null: to be painted anew
};

} // namespace cobbleway
