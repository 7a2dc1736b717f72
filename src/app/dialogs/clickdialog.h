#pragma once
#include "app/dialogs/forms.h"
#include "app/session/uses.h"

class QCheckBox;
class QComboBox;
class QDoubleSpinBox;
class QSpinBox;

namespace cobbleway {

/// How the click sounds, and how many bars are counted before the song. Every change is heard at once.
class ClickDialog : public Form {
    Q_OBJECT
  public:
    ClickDialog(Uses<uses::Transport, uses::Rounds> session, QWidget* parent);

  private:
    void set();
    void refresh();
    Uses<uses::Transport, uses::Rounds> m_session;
    QCheckBox *m_on, *m_accent;
    QComboBox *m_sound, *m_parts;
    QDoubleSpinBox* m_level;
    QSpinBox* m_countIn;
};

/// How the song is worked through: rounds of each section, and their pace.
class WorkDialog : public Form {
    Q_OBJECT
  public:
    WorkDialog(Uses<uses::Transport, uses::Rounds> session, QWidget* parent);
};

} // namespace cobbleway
