/// What the dialogs have in common.
#pragma once
#include "app/widgets/small.h"

#include <QDialog>
#include <QHBoxLayout>
#include <QLabel>
#include <QVBoxLayout>

class QListWidget;

namespace cobbleway {

/// A dialog that deletes itself, with a column to fill. Enter takes what is offered, Escape closes.
class Form : public QDialog {
    Q_OBJECT
  public:
    Form(const QString& title, QWidget* parent);
    [[nodiscard]] QVBoxLayout* column() const { return m_column; }
    /// Buttons at the bottom: one that takes (none when `take` is empty) and one that closes.
    QPushButton* addButtons(const QString& take, const QString& close);
    /// A label before a control, tied to it for screen readers and by its mnemonic.
    static QWidget* labelled(const QString& label, QWidget* control);
    /// Lets screen readers tell the ticks of a list: with each row, and when one is changed.
    static void tellTicks(QListWidget* list);
    /// Controls side by side, pressed to the left.
    static QHBoxLayout* row(std::initializer_list<QWidget*> controls);

  private:
    void showEvent(QShowEvent* event) override;
    QVBoxLayout* m_column;
};

} // namespace cobbleway
