#include "app/widgets/readable.h"

#include "app/look/theme.h"

#include <QKeyEvent>
#include <QPainter>
#include <algorithm>

namespace cobbleway {

std::vector<SurfaceRow> rowsOfLabels(const QWidget* widget) {
    std::vector<SurfaceRow> rows;
    for (const auto* label : widget->findChildren<QLabel*>()) {
        QString text = label->text().simplified();
        if (!label->isVisibleTo(widget) || text.size() < 2) continue; // marks before texts say nothing
        rows.push_back({text, {}, QRect(label->mapTo(widget, QPoint()), label->size())});
    }
    std::stable_sort(rows.begin(), rows.end(), [](const SurfaceRow& a, const SurfaceRow& b) {
        return std::pair(a.rect.y(), a.rect.x()) < std::pair(b.rect.y(), b.rect.x());
    });
    return rows;
}

int nextReadableRow(const QKeyEvent* event, int row, int count) {
    if (count == 0) return -1;
    switch (event->key()) {
    case Qt::Key_Up: return std::max(0, row - 1);
    case Qt::Key_Down: return std::min(count - 1, row + 1);
    case Qt::Key_Home: return event->modifiers() == Qt::NoModifier ? 0 : -1;
    case Qt::Key_End: return event->modifiers() == Qt::NoModifier ? count - 1 : -1;
    default: return -1;
    }
}

void paintReadableRow(QWidget* widget, const std::vector<SurfaceRow>& rows, int row) {
    QPainter painter(widget);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(QPen(theme().action, 2));
    painter.setBrush(Qt::NoBrush);
    painter.drawRoundedRect(QRectF(widget->rect()).adjusted(1, 1, -1, -1), 7, 7);
    if (row < 0 || row >= static_cast<int>(rows.size())) return;
    const QRectF at = rows[static_cast<std::size_t>(row)].rect;
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme().action);
    painter.drawRoundedRect(QRectF(at.left() - 7, at.top() + 2, 3, at.height() - 4), 1.5, 1.5);
}

} // namespace cobbleway
