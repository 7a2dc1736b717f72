#include "app/widgets/gridkeys.h"

#include "app/widgets/focus.h"

#include <QAbstractButton>
#include <QKeyEvent>
#include <algorithm>

namespace cobbleway {

void GridKeys::addRow(const QList<QWidget*>& controls) {
    if (controls.isEmpty()) return;
    for (QWidget* control : controls) control->installEventFilter(this);
    m_rows.append(controls);
    offer(controls, m_rows.size() - 1 == m_current);
}

/// Those that are not offered are still reached by a click, but for buttons, which must not keep the focus
/// then.
void GridKeys::offer(const QList<QWidget*>& row, bool tab) {
    for (QWidget* control : row)
        control->setFocusPolicy(tab                                       ? Qt::TabFocus
                                : qobject_cast<QAbstractButton*>(control) ? Qt::NoFocus
                                                                          : Qt::ClickFocus);
}

void GridKeys::setCurrent(qsizetype row) {
    if (row == m_current || row < 0 || row >= m_rows.size()) return;
    if (m_current < m_rows.size()) offer(m_rows[m_current], false);
    m_current = row;
    offer(m_rows[m_current], true);
}

void GridKeys::focusRow(qsizetype row) {
    if (!m_rows.isEmpty())
        giveFocus(m_rows[std::clamp<qsizetype>(row, 0, m_rows.size() - 1)].first(), Qt::TabFocusReason);
}

bool GridKeys::eventFilter(QObject* watched, QEvent* event) {
    const bool comes = event->type() == QEvent::FocusIn, presses = event->type() == QEvent::KeyPress;
    if (!comes && !presses) return QObject::eventFilter(watched, event);
    for (qsizetype row = 0; row < m_rows.size(); ++row) {
        const auto column = m_rows[row].indexOf(static_cast<QWidget*>(watched));
        if (column < 0) continue;
        if (comes) {
            setCurrent(row);
            break;
        }
        const auto* key = static_cast<QKeyEvent*>(event);
        const bool on = key->key() == Qt::Key_Down || (m_wrapped && key->key() == Qt::Key_Right);
        const bool back = key->key() == Qt::Key_Up || (m_wrapped && key->key() == Qt::Key_Left);
        const int by = int(on) - int(back);
        if (by == 0 || (key->modifiers() & ~Qt::KeypadModifier) != Qt::NoModifier) break;
        const qsizetype to = std::clamp<qsizetype>(row + by, 0, m_rows.size() - 1);
        giveFocus(m_rows[to][std::min(column, m_rows[to].size() - 1)], Qt::TabFocusReason);
        return true;
    }
    return QObject::eventFilter(watched, event);
}

} // namespace cobbleway
