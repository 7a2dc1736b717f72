#pragma once
#include <QListView>
#include <QTimer>

namespace cobbleway {

/// A view that tells screen readers of its current row only while it has the focus (Qt 6.4 tells of it at any
/// time, so that hidden lists talk over everything), and of the row, too, when the focus comes to it.
template <class View> class QuietView : public View {
  public:
    using View::View;

  protected:
    void currentChanged(const QModelIndex& now, const QModelIndex& before) override {
        if (this->hasFocus())
            View::currentChanged(now, before);
        else
            QAbstractItemView::currentChanged(now, before);
    }
    void focusInEvent(QFocusEvent* event) override {
        View::focusInEvent(event);
        // After the list's own event has left, which would drown it.
        QTimer::singleShot(0, this, [this] {
            if (this->hasFocus() && this->currentIndex().isValid())
                View::currentChanged(this->currentIndex(), {});
        });
    }
};

/// A list of rows of one height, which does not depend on what they show. QListView lays all of them out anew
/// and paints the whole list whenever one changes; this paints the row.
class RowList : public QuietView<QListView> {
    Q_OBJECT
  public:
    explicit RowList(QWidget* parent = nullptr) : QuietView<QListView>(parent) { setUniformItemSizes(true); }
    void dataChanged(const QModelIndex& first, const QModelIndex& last, const QList<int>& roles) override {
        QAbstractItemView::dataChanged(first, last, roles); // QListView's own would lay out
    }
};

} // namespace cobbleway
