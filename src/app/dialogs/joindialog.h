#pragma once
#include "app/dialogs/forms.h"
#include "app/session/uses.h"
#include "song/shape/join.h"

class QCheckBox;
class QComboBox;
class QListWidget;

namespace cobbleway {

/// Parts to join to the selected one; what will clash and what is done about it.
class JoinDialog : public Form {
    Q_OBJECT
  public:
    JoinDialog(Uses<uses::Set> session, QWidget* parent);

  private:
    [[nodiscard]] std::vector<PartId> chosen() const;
    [[nodiscard]] JoinOptions options() const;
    void refresh();
    void take();
    Uses<uses::Set> m_session;
    PartId m_part;
    QListWidget *m_parts, *m_clashes;
    QComboBox* m_unisons;
    QCheckBox *m_levels, *m_pedal;
    QPushButton* m_take = nullptr;
};

} // namespace cobbleway
