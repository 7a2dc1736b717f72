#pragma once
#include <QEvent>
#include <QWidget>
#include <functional>

namespace cobbleway {

/// Refreshes a widget where it is seen: at once while it is visible, else when it is shown next. What nobody
/// sees costs nothing.
class WhenShown final : public QObject {
  public:
    /// `refresh` is called by request(), and by the first show.
    WhenShown(QWidget* widget, std::function<void()> refresh)
        : QObject(widget), m_widget(widget), m_refresh(std::move(refresh)) {
        widget->installEventFilter(this);
    }
    void request() {
        m_wanted = !m_widget->isVisible();
        if (!m_wanted) m_refresh();
    }
    /// What is shown must be right now, seen or not.
    void ensure() {
        if (std::exchange(m_wanted, false)) m_refresh();
    }

  private:
    bool eventFilter(QObject* watched, QEvent* event) override {
        if (event->type() == QEvent::Show) ensure();
        return QObject::eventFilter(watched, event);
    }
    QWidget* m_widget;
    std::function<void()> m_refresh;
    bool m_wanted = true;
};

} // namespace cobbleway
