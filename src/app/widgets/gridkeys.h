#pragma once
#include <QList>
#include <QObject>

class QWidget;

namespace cobbleway {

/// Rows of controls of which one is in the order of Tab: Up and Down go to the same control of the next row
/// (the last of a shorter one), so that a hundred rows are not a hundred times their controls to tab through.
/// Rows of one control that wrap, as chips do, are gone through with Left and Right, too.
class GridKeys : public QObject {
    Q_OBJECT
  public:
    enum class Rows { Below, Wrapped };
    explicit GridKeys(QObject* parent, Rows rows = Rows::Below)
        : QObject(parent), m_wrapped(rows == Rows::Wrapped) {}
    void clear() { m_rows.clear(), m_current = 0; }
    /// The controls of a row, from left to right; none is no row. Before they go, clear() is called.
    void addRow(const QList<QWidget*>& controls);
    [[nodiscard]] qsizetype current() const { return m_current; } ///< the row, 0-based
    /// Puts the focus on the first control of a row, or of the last if there are fewer.
    void focusRow(qsizetype row);

  private:
    bool eventFilter(QObject* watched, QEvent* event) override;
    void setCurrent(qsizetype row);
    static void offer(const QList<QWidget*>& row, bool tab);
    QList<QList<QWidget*>> m_rows;
    qsizetype m_current = 0;
    bool m_wrapped;
};

} // namespace cobbleway
