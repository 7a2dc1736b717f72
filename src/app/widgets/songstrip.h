#pragma once
#include "app/session/uses.h"
#include "app/widgets/surface.h"
#include "midi/event.h"

#include <QPixmap>
#include <QWidget>

class QAction;
class QLabel;
class QSpinBox;

namespace cobbleway {

/// The picture in the song strip: sections, density over bars, loop and playhead.
///
/// Click or drag to move the place, drag the loop's ends, drag along the sections to set a loop. Keys: left
/// and right a bar; Home and End.
class StripView : public QWidget, public Surface {
    Q_OBJECT
  public:
    explicit StripView(Uses<uses::Set, uses::Findings, uses::Transport, uses::Meters> session,
                       QWidget* parent = nullptr);
    void refreshPlace(); ///< called while playing
    [[nodiscard]] QString surfaceValue() const override;
    [[nodiscard]] std::vector<SurfaceRow> surfaceRows() const override;        ///< the sections
    [[nodiscard]] std::optional<SurfaceNumber> surfaceNumber() const override; ///< the bar
    void setSurfaceNumber(double bar) override;
    void activateSurfaceRow(int row) override;
    [[nodiscard]] double xOf(Tick tick) const;
    [[nodiscard]] Tick tickAt(double x) const;

  private:
    enum class Drag { None, Place, LoopStart, LoopEnd, NewLoop };
    void rebuild();
    void paintEvent(QPaintEvent* event) override;
    void paintSections(QPainter& painter) const;
    void paintBars(QPainter& painter) const;
    void paintLoop(QPainter& painter) const;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    [[nodiscard]] Drag dragAt(QPointF at) const;
    [[nodiscard]] Tick nearestBar(Tick tick) const;
    Uses<uses::Set, uses::Findings, uses::Transport, uses::Meters> m_session;
    std::vector<float> m_density; ///< notes in each slice, 0–1
    Drag m_drag = Drag::None;
    Tick m_dragFrom = 0;
    double m_paintedX = -1;
};

/// Level meter of the output: two bars.
class OutputMeter : public QWidget, public Surface {
    Q_OBJECT
  public:
    explicit OutputMeter(QWidget* parent = nullptr);
    [[nodiscard]] std::optional<SurfaceNumber> surfaceNumber() const override; ///< the louder side, dB
    /// Peaks as factors of full scale, 0–1.
    void setPeaks(double left, double right);

  private:
    void paintEvent(QPaintEvent* event) override;
    double m_shown[2] = {0, 0};
};

/// The band along the bottom, always there.
class SongStrip : public QWidget {
    Q_OBJECT
  public:
    SongStrip(Uses<uses::Set, uses::Findings, uses::Transport, uses::Meters> session, QAction* toStart,
              QAction* play, QAction* loop, QWidget* parent = nullptr);

  private:
    void tick();
    void refresh();
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    [[nodiscard]] QSize minimumSizeHint() const override { return {460, 104}; }
    Uses<uses::Set, uses::Findings, uses::Transport, uses::Meters> m_session;
    StripView* m_view;
    OutputMeter* m_meter;
    QLabel *m_position, *m_time, *m_tempo, *m_output;
    QSpinBox *m_pace, *m_key;
    bool m_wasPlaying = false;
};

} // namespace cobbleway
