/// What the dialogs have in common.
#pragma once
#include "app/widgets/small.h"

#include <QDialog>
#include <QHBoxLayout>
#include <QLabel>
#include <QVBoxLayout>

class QListWidget;

namespace cobbleway {

/// A dialog that deletes itself, with a heading that says the task and a column to fill. Enter takes what is
/// offered, Escape closes. It is as large as what it holds, and no larger than the window.
class Form : public QDialog {
    Q_OBJECT
  public:
    Form(const QString& title, QWidget* parent);
    [[nodiscard]] QVBoxLayout* column() const { return m_column; }
    void setHeading(const QString& task); ///< the title, unless this is called
    void setPreferredWidth(int width) { m_width = width; }
    /// Grows or shrinks to what it holds now.
    void fit();
    /// Buttons at the bottom: one that takes (none when `take` is empty) and one that closes.
    QPushButton* addButtons(const QString& take, const QString& close);
    /// A label before a control, tied to it for screen readers and by its mnemonic.
    static QWidget* labelled(const QString& label, QWidget* control);
    /// Lets screen readers tell the ticks of a list: with each row, and when one is changed.
    static void tellTicks(QListWidget* list);
    /// Controls side by side, pressed to the left.
    static QHBoxLayout* row(std::initializer_list<QWidget*> controls);

  private:
    void setVisible(bool visible) override;
    void showEvent(QShowEvent* event) override;
    QVBoxLayout* m_column;
    QLabel* m_heading;
    int m_width = 480;
    bool m_fitted = false;
};

} // namespace cobbleway
