#pragma once
#include <QGuiApplication>
#include <QListView>
#include <QTimer>

namespace cobbleway {

/// A view that tells screen readers of its current row only while it has the focus (Qt 6.4 tells of it at any
/// time, so that hidden lists talk over everything), and of the row, too, when the focus comes to it. A row
/// that is selected by AT-SPI alone becomes the current one.
template <class View> class QuietView : public View {
  public:
    using View::View;

  protected:
    void currentChanged(const QModelIndex& now, const QModelIndex& before) override {
        if (this->hasFocus())
            View::currentChanged(now, before);
        else                                                // past the view's own, which would tell it
            QAbstractItemView::currentChanged(now, before); // NOLINT(bugprone-parent-virtual-call)
    }
    void focusInEvent(QFocusEvent* event) override {
        View::focusInEvent(event);
        // After the list's own event has left, which would drown it.
        QTimer::singleShot(0, this, [this] {
            if (this->hasFocus() && this->currentIndex().isValid())
                View::currentChanged(this->currentIndex(), {});
        });
    }
    void selectionChanged(const QItemSelection& selected, const QItemSelection& deselected) override {
        View::selectionChanged(selected, deselected);
        const bool byHand = QGuiApplication::mouseButtons() || QGuiApplication::keyboardModifiers();
        if (m_follows || byHand) return;
        m_follows = true; // keys move the current row right after the selection
        QTimer::singleShot(0, this, [this] {
            followSelection();
            m_follows = false;
        });
    }

    [[nodiscard]] virtual bool ticks() const { return false; } ///< selecting by AT-SPI ticks

  private:
    /// AT-SPI changes the selection and leaves the current row (Qt 6.4), which is what pages follow.
    void followSelection() {
        const bool cells = this->selectionBehavior() == QAbstractItemView::SelectItems;
        const QModelIndex current = this->currentIndex();
        QModelIndexList rows =
            cells ? this->selectionModel()->selectedIndexes() : this->selectionModel()->selectedRows();
        const bool cleared = rows.isEmpty() && current.isValid() && ticks();
        if (cells) rows.removeOne(current); // a cell is added to what is selected
        const bool another = rows.size() == 1 && (cells || rows.first().row() != current.row());
        if (!cleared && !another) return;
        const QModelIndex row = cleared ? current : rows.first();
        this->selectionModel()->setCurrentIndex(row, cells     ? QItemSelectionModel::ClearAndSelect
                                                     : cleared ? QItemSelectionModel::Select
                                                               : QItemSelectionModel::NoUpdate);
        if (ticks())
            this->model()->setData(
                row, row.data(Qt::CheckStateRole).toInt() == Qt::Checked ? Qt::Unchecked : Qt::Checked,
                Qt::CheckStateRole);
    }
    bool m_follows = false;
};

/// A list of rows to tick, of which one is selected. AT-SPI can tick the selected one, too, which Qt 6.4
/// allows only where several may be selected.
template <class View> class TickView : public QuietView<View> {
  public:
    explicit TickView(QWidget* parent = nullptr) : QuietView<View>(parent) {
        this->setSelectionMode(QAbstractItemView::ExtendedSelection);
    }

  protected:
    [[nodiscard]] bool ticks() const override { return true; }
    [[nodiscard]] QItemSelectionModel::SelectionFlags selectionCommand(const QModelIndex&,
                                                                       const QEvent*) const override {
        const bool cells = this->selectionBehavior() == QAbstractItemView::SelectItems;
        return QItemSelectionModel::ClearAndSelect |
               (cells ? QItemSelectionModel::NoUpdate : QItemSelectionModel::Rows);
    }
};

/// A list of rows of one height, which does not depend on what they show. QListView lays all of them out anew
/// and paints the whole list whenever one changes; this paints the row.
class RowList : public QuietView<QListView> {
    Q_OBJECT
  public:
    explicit RowList(QWidget* parent = nullptr) : QuietView<QListView>(parent) { setUniformItemSizes(true); }
    void dataChanged(const QModelIndex& first, const QModelIndex& last, const QList<int>& roles) override {
        // QListView's own would lay out.
        QAbstractItemView::dataChanged(first, last, roles); // NOLINT(bugprone-parent-virtual-call)
    }
};

} // namespace cobbleway
