#pragma once
#include "app/dialogs/forms.h"
#include "app/session/uses.h"
#include "song/heard/controllers.h"

class QComboBox;
class QSpinBox;
class QTreeWidget;

namespace cobbleway {

class StepsPicture;

/// The selected part's controllers: keep, drop, turn into level, thin. Every choice is heard at once.
class ControllersDialog : public Form {
    Q_OBJECT
  public:
    ControllersDialog(Uses<uses::Set> session, QWidget* parent);

  private:
    void refresh();
    void refreshChoice();
    void apply();
    [[nodiscard]] ControllerId current() const;
    Uses<uses::Set> m_session;
    QTreeWidget* m_list;
    QComboBox* m_what;
    QSpinBox* m_tolerance;
    StepsPicture* m_picture;
    QLabel* m_said;
    std::vector<ControllerUse> m_uses;
    bool m_filling = false;
};

} // namespace cobbleway
