#pragma once
#include <QScrollArea>
#include <QStackedWidget>

namespace cobbleway {

/// Pages one above the other, of which only the one that is shown says how much room it needs.
class PageStack : public QStackedWidget {
    Q_OBJECT
  public:
    explicit PageStack(QWidget* parent = nullptr) : QStackedWidget(parent) {
        connect(this, &QStackedWidget::currentChanged, this, [this] { updateGeometry(); });
    }
    [[nodiscard]] QSize sizeHint() const override { return shown(&QWidget::sizeHint); }
    [[nodiscard]] QSize minimumSizeHint() const override { return shown(&QWidget::minimumSizeHint); }

  private:
    QSize shown(QSize (QWidget::*hint)() const) const {
        return currentWidget() ? (currentWidget()->*hint)() : QSize();
    }
};

/// What does not fit is scrolled, and what takes the focus is brought into view.
class FocusScroll : public QScrollArea {
    Q_OBJECT
  public:
    explicit FocusScroll(QWidget* content, QWidget* parent = nullptr);
    [[nodiscard]] QSize minimumSizeHint() const override { return {200, 120}; }
    [[nodiscard]] QSize sizeHint() const override { return widget()->sizeHint(); }
};

/// Keeps dialogs on the screen: for the whole application, as an event filter. One that would be larger gets
/// its content scrolled, with its buttons below.
class OnScreen : public QObject {
    Q_OBJECT
  public:
    using QObject::QObject;
    bool eventFilter(QObject* watched, QEvent* event) override;
};

} // namespace cobbleway
