/// Screen reader access for widgets that paint themselves.
#pragma once
#include <QAccessible>
#include <QRect>
#include <QString>
#include <functional>
#include <optional>
#include <vector>

class QAbstractButton;
class QAbstractSlider;
class QWidget;

namespace cobbleway {

/// One thing in a painted widget: a row, a section, a handle.
struct SurfaceRow {
    QString name; ///< what a screen reader says
    QString value;
    QRect rect; ///< in the widget
    bool selected = false;
};

/// A number that a painted widget stands for, as a slider or a meter does.
struct SurfaceNumber {
    double value = 0, lowest = 0, highest = 0, step = 1;
    bool settable = false; ///< a slider; otherwise a meter
};

/// What a painted widget tells about itself. Implement it beside QWidget; installSurfaceAccess() does the
/// rest.
class Surface {
  public:
    virtual ~Surface() = default;
    [[nodiscard]] virtual QString surfaceValue() const { return {}; }
    [[nodiscard]] virtual std::vector<SurfaceRow> surfaceRows() const { return {}; }
    virtual void activateSurfaceRow(int) {}
    [[nodiscard]] virtual std::optional<SurfaceNumber> surfaceNumber() const { return std::nullopt; }
    virtual void setSurfaceNumber(double) {}
};

/// Tells screen readers that the number of a painted widget is another now.
void surfaceNumberChanged(QWidget* widget);
/// Tells them that keys have moved to a row of a painted widget that has the focus, 0-based.
void surfaceRowReached(QWidget* widget, int row);
/// Lets a slider tell its value in the unit that people see, and be set in it. To be called as soon as it is
/// made: who asked for it before goes on getting its steps.
void tellInUnit(QAbstractSlider* slider, std::function<double(int)> told, std::function<int(double)> set);
/// The same for steps of one size: 0.5 for half decibels.
void tellInUnit(QAbstractSlider* slider, double step);

/// Tells a button that is one of several as such: a radio button, or a page tab. As soon as it is made.
void tellAsChoice(QAbstractButton* button, QAccessible::Role role);
/// Tells what holds page tabs as their list.
void tellAsTabList(QWidget* widget);

/// Makes Qt's accessibility use Surface. Once, before the first window.
void installSurfaceAccess();

/// Says a text through the screen reader, if there is one. It leaves as a notification of a small widget in
/// the same window: Qt 6.4 passes neither alerts nor announcements on, and a window's description is read
/// again whenever the window comes to the front.
void announce(QWidget* from, const QString& text);

} // namespace cobbleway
