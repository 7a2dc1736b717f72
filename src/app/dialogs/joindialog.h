#pragma once
#include "app/dialogs/forms.h"
#include "song/shape/join.h"

class QCheckBox;
class QComboBox;
class QListWidget;

namespace cobbleway {

struct Session;

/// Parts to join to the selected one; what will clash and what is done about it.
class JoinDialog : public Form {
    Q_OBJECT
  public:
    JoinDialog(Session& session, QWidget* parent);

  private:
    [[nodiscard]] std::vector<PartId> chosen() const;
    [[nodiscard]] JoinOptions options() const;
    void refresh();
    void take();
    Session& m_session;
    PartId m_part;
    QListWidget *m_parts, *m_clashes;
    QComboBox* m_unisons;
    QCheckBox *m_levels, *m_pedal;
    QPushButton* m_take = nullptr;
};

} // namespace cobbleway
