#include "app/pages/exportview.h"

#include "app/look/theme.h"
#include "app/pages/exportgrid.h"
#include "app/widgets/painting.h"
#include "app/widgets/small.h"

#include <QHeaderView>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QStyledItemDelegate>

namespace cobbleway {
namespace {

constexpr int rowHeight = 36, cellWidth = 92, boxSize = 16;

/// A name with the tick of its row, or a cell's tick, or what was measured there.
class ExportCell final : public QStyledItemDelegate {
  public:
    using QStyledItemDelegate::QStyledItemDelegate;
    [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override {
        return {cellWidth, rowHeight};
    }

    void paint(QPainter* painter, const QStyleOptionViewItem& option,
               const QModelIndex& index) const override {
        const Mirrored mirrored(*painter, option.rect, option.direction);
        painter->setRenderHint(QPainter::Antialiasing);
        const QRectF cell(option.rect);
        const auto* view = qobject_cast<const QTreeView*>(option.widget);
        const bool row = view && view->currentIndex().siblingAtColumn(0) == index.siblingAtColumn(0);
        if (row) painter->fillRect(cell, theme().selected);
        painter->fillRect(QRectF(cell.left(), cell.bottom() - 1, cell.width(), 1), theme().line);
        if (option.state & QStyle::State_HasFocus) {
            painter->setPen(QPen(theme().action, 2));
            painter->setBrush(Qt::NoBrush);
            painter->drawRoundedRect(cell.adjusted(2, 2, -2, -3), 6, 6);
        }
        const bool name = index.column() == ExportGrid::Name;
        if (name) paintName(*painter, cell, index);
        if (!name && paintResult(*painter, cell, index)) return;
        if (index.data(Qt::CheckStateRole).isValid())
            paintTick(*painter, boxIn(cell, name), index.data(Qt::CheckStateRole).toInt());
    }

    bool editorEvent(QEvent* event, QAbstractItemModel* model, const QStyleOptionViewItem&,
                     const QModelIndex& index) override {
        const bool click = event->type() == QEvent::MouseButtonRelease &&
                           static_cast<QMouseEvent*>(event)->button() == Qt::LeftButton;
        const bool key =
            event->type() == QEvent::KeyPress && (static_cast<QKeyEvent*>(event)->key() == Qt::Key_Space ||
                                                  static_cast<QKeyEvent*>(event)->key() == Qt::Key_Select);
        return (click || key) && model->setData(index, {}, Qt::CheckStateRole);
    }

  private:
    static QRectF boxIn(const QRectF& cell, bool name) {
        return {name ? cell.left() + 14 : cell.center().x() - boxSize / 2.0,
                cell.center().y() - boxSize / 2.0, boxSize, boxSize};
    }

    static void paintTick(QPainter& painter, const QRectF& box, int state) {
        const bool full = state == Qt::Checked;
        painter.setPen(QPen(state == Qt::Unchecked ? theme().muted : theme().action, 1.2));
        painter.setBrush(full ? theme().action : theme().panel);
        painter.drawRoundedRect(box, 4, 4);
        const Upright upright(painter, box.adjusted(2, 2, -2, -2));
        if (full) icon(QStringLiteral("check"), theme().onAction).paint(&painter, upright.rect().toRect());
        if (state == Qt::PartiallyChecked)
            painter.fillRect(QRectF(box.left() + 4, box.center().y() - 1, box.width() - 8, 2),
                             theme().action);
    }

    static void paintName(QPainter& painter, const QRectF& cell, const QModelIndex& index) {
        double left = cell.left() + 40;
        const int colour = index.data(ExportGrid::ColourRole).toInt();
        if (colour >= 0) {
            painter.setPen(Qt::NoPen);
            painter.setBrush(partColour(colour));
            painter.drawRoundedRect(QRectF(cell.left() + 2, cell.top() + 6, 5, cell.height() - 12), 2, 2);
        }
        const QString name = index.data().toString(), detail = index.data(ExportGrid::DetailRole).toString();
        const QFont font = textFont(9.5, QFont::DemiBold);
        double right = cell.right() - 8;
        if (const auto result = index.data(ExportGrid::ResultRole).toInt(); result != ExportGrid::Idle)
            right = pill(painter, right, cell.center().y(), result,
                         index.data(ExportGrid::MeasuredRole).toString())
                        .left() -
                    6;
        const double width = QFontMetricsF(font).horizontalAdvance(name);
        paintText(painter, QRectF(left, cell.top(), right - left, cell.height()), name, font, theme().ink);
        left += width + 8;
        if (!detail.isEmpty() && left < right)
            paintText(painter, QRectF(left, cell.top(), right - left, cell.height()), detail, textFont(9),
                      theme().muted);
    }

    static QRectF pill(QPainter& painter, double right, double middle, int result, const QString& text) {
        if (result == ExportGrid::Waiting)
            return paintPill(painter, right, middle, QStringLiteral("…"), Tone::Quiet);
        if (result == ExportGrid::Failed)
            return paintPill(painter, right, middle, tr("! failed"), Tone::Wrong);
        const bool otherwise = result == ExportGrid::Otherwise; // told by the sign, too, not by colour alone
        return paintPill(painter, right, middle,
                         (otherwise ? QStringLiteral("≈ ") : QStringLiteral("✓ ")) +
                             QString(text).remove(tr(" LUFS")),
                         otherwise ? Tone::Look : Tone::Good);
    }

    static bool paintResult(QPainter& painter, const QRectF& cell, const QModelIndex& index) {
        const int result = index.data(ExportGrid::ResultRole).toInt();
        if (result == ExportGrid::Idle) return false;
        const QString text = QString(index.data(ExportGrid::MeasuredRole).toString()).remove(tr(" LUFS"));
        const double half =
            (QFontMetricsF(textFont(8)).horizontalAdvance(QStringLiteral("✓ ") + text) + 18) / 2;
        pill(painter, cell.center().x() + std::min(half, cell.width() / 2 - 2), cell.center().y(), result,
             text);
        return true;
    }
};

} // namespace

ExportView::ExportView(QWidget* parent) : TickView<QTreeView>(parent) {
    setItemDelegate(new ExportCell(this));
    setSelectionBehavior(QAbstractItemView::SelectItems);
    setUniformRowHeights(true);
    setRootIsDecorated(false);
    setIndentation(18);
    setAllColumnsShowFocus(false);
    setExpandsOnDoubleClick(false);
    setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
    setAccessibleName(tr("What can be written"));
    header()->setStretchLastSection(false);
    header()->setSectionsMovable(false);
    header()->setMinimumSectionSize(40);
}

void ExportView::showSong(int song) {
    const auto* grid = qobject_cast<const ExportGrid*>(model());
    const QModelIndex root = grid && song >= 0 ? grid->songIndex(song) : QModelIndex();
    setRootIsDecorated(!root.isValid());
    if (root != rootIndex()) {
        setRootIndex(root);
        setCurrentIndex(model()->index(0, 0, root));
    }
}

void ExportView::resizeEvent(QResizeEvent* event) {
    TickView<QTreeView>::resizeEvent(event);
    const int width = std::min(cellWidth, viewport()->width() / 8);
    for (int column = 1; column < ExportGrid::columns; ++column) setColumnWidth(column, width);
    setColumnWidth(0, viewport()->width() - (ExportGrid::columns - 1) * width);
}

} // namespace cobbleway
