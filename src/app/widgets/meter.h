#pragma once
#include "app/widgets/surface.h"

#include <QWidget>

namespace cobbleway {

/// How loud something is: a bar over decibels, with a stone at its end that lights when it went over full
/// scale, until it is clicked or the space bar is pressed on it.
class Meter : public QWidget, public Surface {
    Q_OBJECT
  public:
    explicit Meter(const QString& name, QWidget* parent = nullptr);
    /// The greatest amplitude since the last call, 1 being full scale. Falls slowly by itself.
    void setPeak(double peak);
    [[nodiscard]] bool isClipped() const { return m_clipped; }
    [[nodiscard]] QString surfaceValue() const override;
    [[nodiscard]] std::optional<SurfaceNumber> surfaceNumber() const override; ///< the loudest so far, dB
    [[nodiscard]] QSize sizeHint() const override { return {110, 14}; }

  private:
    void clear();
    bool event(QEvent* event) override;
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    double m_peak = 0, m_most = 0;
    bool m_clipped = false;
};

} // namespace cobbleway
