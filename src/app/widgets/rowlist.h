#pragma once
#include <QListView>

namespace cobbleway {

/// A list of rows of one height, which does not depend on what they show. QListView lays all of them out anew
/// and paints the whole list whenever one changes; this paints the row.
class RowList : public QListView {
    Q_OBJECT
  public:
    explicit RowList(QWidget* parent = nullptr) : QListView(parent) { setUniformItemSizes(true); }
    void dataChanged(const QModelIndex& first, const QModelIndex& last, const QList<int>& roles) override {
        QAbstractItemView::dataChanged(first, last, roles); // QListView's own would lay out
    }
};

} // namespace cobbleway
