/// Small pictures of numbers for dialogs.
#pragma once
#include "app/widgets/surface.h"

#include <QWidget>
#include <array>
#include <vector>

namespace cobbleway {

/// How many notes lie on each key, with a cut between two keys: left and right, Home and End or the mouse
/// move it.
class PitchHistogram : public QWidget, public Surface {
    Q_OBJECT
  public:
    explicit PitchHistogram(QWidget* parent = nullptr);
    void setNotes(const std::array<int, 128>& notes);
    void setCut(int key); ///< 0–127: this key and those above lie right of the cut
    [[nodiscard]] int cut() const { return m_cut; }
    [[nodiscard]] QString surfaceValue() const override;
    [[nodiscard]] std::optional<SurfaceNumber> surfaceNumber() const override; ///< the cut
    void setSurfaceNumber(double value) override { setCut(qRound(value)); }

  Q_SIGNALS:
    void cutChanged(int key);

  private:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    [[nodiscard]] double xOf(int key) const;
    std::array<int, 128> m_notes{};
    int m_cut = 60;
};

/// How many hits have which velocity, before and after a trim.
class VelocityHistogram : public QWidget, public Surface {
    Q_OBJECT
  public:
    explicit VelocityHistogram(QWidget* parent = nullptr);
    void setHits(const std::array<int, 128>& before, const std::array<int, 128>& after);
    [[nodiscard]] QString surfaceValue() const override;

  private:
    void paintEvent(QPaintEvent* event) override;
    std::array<int, 128> m_before{}, m_after{};
};

/// Values that hold until the next, as steps along a time; a second row of them may lie over the first.
class StepsPicture : public QWidget, public Surface {
    Q_OBJECT
  public:
    struct Point {
        double at = 0, value = 0;
    };
    explicit StepsPicture(const QString& name, QWidget* parent = nullptr);
    /// `end` is where the last value stops. Values outside `lowest` to `highest` are held at the edge.
    void setPoints(std::vector<Point> before, std::vector<Point> after, double end, double lowest,
                   double highest);
    void setSummary(const QString& text); ///< what a screen reader says of it
    [[nodiscard]] QString surfaceValue() const override { return m_summary; }

  private:
    void paintEvent(QPaintEvent* event) override;
    std::vector<Point> m_before, m_after;
    double m_end = 1, m_lowest = 0, m_highest = 1;
    QString m_summary;
};

} // namespace cobbleway
