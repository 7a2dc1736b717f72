#pragma once
#include <QScrollArea>
#include <QStackedWidget>

namespace cobbleway {

/// Pages one above the other, of which only the one that is shown says how much room it needs, for a width.
class PageStack : public QWidget {
    Q_OBJECT
  public:
    explicit PageStack(QWidget* parent = nullptr);
    void addWidget(QWidget* page) { m_pages->addWidget(page); }
    void setCurrentIndex(int index) { m_pages->setCurrentIndex(index); }
    [[nodiscard]] QWidget* currentWidget() const { return m_pages->currentWidget(); }
    [[nodiscard]] int currentIndex() const { return m_pages->currentIndex(); }
    [[nodiscard]] int count() const { return m_pages->count(); }
    [[nodiscard]] QSize sizeHint() const override;
    [[nodiscard]] QSize minimumSizeHint() const override;
    [[nodiscard]] int heightForWidth(int width) const override; ///< the least

  private:
    bool event(QEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    QStackedWidget* m_pages; ///< in no layout, which would ask all pages
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
