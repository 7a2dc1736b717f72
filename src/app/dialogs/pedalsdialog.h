#pragma once
#include "app/dialogs/forms.h"
#include "app/session/pedals.h"

class QTreeWidget;

namespace cobbleway {

/// Teaches pedals and pads of a MIDI keyboard what they do.
class PedalsDialog : public Form {
    Q_OBJECT
  public:
    /// `textOf`: what an action is called; `keyboard`: the name of the open port, empty for none.
    PedalsDialog(Pedals& pedals, const std::function<QString(const QString&)>& textOf,
                 const QString& keyboard, QWidget* parent);
    ~PedalsDialog() override;

  private:
    void refresh();
    [[nodiscard]] QString selected() const; ///< an action
    Pedals& m_pedals;
    QTreeWidget* m_list;
    QPushButton *m_teach, *m_forget;
    QLabel* m_say;
    QString m_keyboard;
};

} // namespace cobbleway
