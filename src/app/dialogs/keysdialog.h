#pragma once
#include "app/actions.h"
#include "app/dialogs/forms.h"

#include <QHash>

class QAction;
class QKeySequenceEdit;
class QLineEdit;
class QTreeWidget;

namespace cobbleway {

/// All keys, to search, and to change: those of actions, and those that views have of their own.
class KeysDialog : public Form {
    Q_OBJECT
  public:
    KeysDialog(const QList<ActionRow>& rows, const QHash<QString, QAction*>& actions, QWidget* parent);

  Q_SIGNALS:
    void changed(const QString& action); ///< its keys are in the settings now

  private:
    void search(const QString& text);
    void refreshChoice();
    void give();
    void restore();
    void refreshRow(const QString& action);
    [[nodiscard]] QString chosen() const; ///< an action's id; empty for none
    QHash<QString, QAction*> m_actions;
    QLineEdit* m_search;
    QTreeWidget* m_list;
    QKeySequenceEdit* m_keys;
    QPushButton *m_give, *m_restore;
    QLabel* m_said;
};

} // namespace cobbleway
