/// Screen reader access for widgets that paint themselves.
#pragma once
#include <QRect>
#include <QString>
#include <vector>

class QWidget;

namespace cobbleway {

/// One thing in a painted widget: a row, a section, a handle.
struct SurfaceRow {
    QString name; ///< what a screen reader says
    QString value;
    QRect rect; ///< in the widget
    bool selected = false;
};

/// What a painted widget tells about itself. Implement it beside QWidget; installSurfaceAccess() does the
/// rest.
class Surface {
  public:
    virtual ~Surface() = default;
    [[nodiscard]] virtual QString surfaceValue() const { return {}; }
    [[nodiscard]] virtual std::vector<SurfaceRow> surfaceRows() const { return {}; }
    virtual void activateSurfaceRow(int) {}
};

/// Makes Qt's accessibility use Surface. Once, before the first window.
void installSurfaceAccess();

/// Says a text through the screen reader, if there is one.
void announce(QWidget* from, const QString& text);

} // namespace cobbleway
