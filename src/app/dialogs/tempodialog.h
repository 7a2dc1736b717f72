#pragma once
#include "app/dialogs/forms.h"
#include "app/session/uses.h"

class QDoubleSpinBox;
class QSpinBox;
class QTreeWidget;

namespace cobbleway {

class StepsPicture;

/// The song's tempo map, its bars and where it begins; every change is heard at once.
class TempoDialog : public Form {
    Q_OBJECT
  public:
    TempoDialog(Uses<uses::Set, uses::Transport> session, QWidget* parent);

  private:
    QWidget* makeTempo();
    QWidget* makeBars();
    void refresh();
    void refreshFlat();
    Uses<uses::Set, uses::Transport> m_session;
    StepsPicture* m_picture;
    QTreeWidget* m_changes;
    QDoubleSpinBox* m_bpm;
    QSpinBox *m_bar, *m_percent, *m_tolerance, *m_beats, *m_unit, *m_metreBar, *m_pickUp;
    QLabel *m_flat, *m_silence;
    QPushButton *m_flatten, *m_remove, *m_trim;
    bool m_metreShown = false;
};

} // namespace cobbleway
