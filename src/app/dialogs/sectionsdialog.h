#pragma once
#include "app/dialogs/forms.h"
#include "app/session/uses.h"

class QLineEdit;
class QSpinBox;
class QTreeWidget;

namespace cobbleway {

/// The song's sections: add, rename, move, remove.
class SectionsDialog : public Form {
    Q_OBJECT
  public:
    SectionsDialog(Uses<uses::Set, uses::Transport> session, QWidget* parent);

  private:
    void refresh();
    [[nodiscard]] qlonglong selected() const; ///< start of the selected section; −1 for none
    Uses<uses::Set, uses::Transport> m_session;
    QTreeWidget* m_list;
    QLineEdit* m_name;
    QSpinBox* m_bar;
    QPushButton *m_rename, *m_move, *m_remove;
    qlonglong m_wanted = -1; ///< to be selected after the next change
};

} // namespace cobbleway
