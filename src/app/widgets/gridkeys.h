#pragma once
#include <QList>
#include <QObject>

class QWidget;

namespace cobbleway {

/// Rows of controls of which one is in the order of Tab: Up and Down go to the same control of the next row,
/// so that a hundred rows are not a hundred times their controls to tab through.
class GridKeys : public QObject {
    Q_OBJECT
  public:
    using QObject::QObject;
    void clear() { m_rows.clear(), m_current = 0; }
    /// The controls of a row, from left to right; rows have as many. They are forgotten when they go.
    void addRow(const QList<QWidget*>& controls);

  private:
    bool eventFilter(QObject* watched, QEvent* event) override;
    void setCurrent(qsizetype row);
    static void offer(const QList<QWidget*>& row, bool tab);
    QList<QList<QWidget*>> m_rows;
    qsizetype m_current = 0;
};

} // namespace cobbleway
