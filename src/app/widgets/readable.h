#pragma once
#include "app/widgets/small.h"

namespace cobbleway {

/// The texts of the labels in a widget, from top to bottom, as rows for a screen reader.
std::vector<SurfaceRow> rowsOfLabels(const QWidget* widget);

/// The row that a key leads to from another; −1 for a key that leads nowhere.
int nextReadableRow(const QKeyEvent* event, int row, int count);
/// The focus of a readable widget: around all of it, and a mark beside the row.
void paintReadableRow(QWidget* widget, const std::vector<SurfaceRow>& rows, int row);

/// A part of the window that holds only text, made readable by keys: it takes the focus, and arrow keys go
/// from one text to the next.
template <class Base> class Readable : public Base, public Surface {
  public:
    template <class... Arguments>
    requires std::is_constructible_v<Base, Arguments...>
    explicit Readable(Arguments&&... arguments) : Base(std::forward<Arguments>(arguments)...) {
        this->setFocusPolicy(Qt::TabFocus);
    }
    [[nodiscard]] std::vector<SurfaceRow> surfaceRows() const override {
        auto rows = rowsOfLabels(this);
        if (m_row < static_cast<int>(rows.size())) rows[static_cast<std::size_t>(m_row)].selected = true;
        return rows;
    }

  protected:
    void keyPressEvent(QKeyEvent* event) override {
        const int count = static_cast<int>(rowsOfLabels(this).size());
        const int to = nextReadableRow(event, m_row, count);
        if (to < 0) return Base::keyPressEvent(event);
        m_row = to;
        surfaceRowReached(this, m_row);
        this->update();
    }
    void focusInEvent(QFocusEvent* event) override {
        Base::focusInEvent(event);
        m_row = 0;
        this->update();
    }
    void focusOutEvent(QFocusEvent* event) override {
        Base::focusOutEvent(event);
        this->update();
    }
    void paintEvent(QPaintEvent* event) override {
        Base::paintEvent(event);
        if (this->hasFocus()) paintReadableRow(this, surfaceRows(), m_row);
    }

  private:
    int m_row = 0;
};

} // namespace cobbleway
