#pragma once
#include "app/dialogs/forms.h"
#include "app/session/uses.h"
#include "song/shape/splits.h"

class QListWidget;
class QSpinBox;
class QStackedWidget;

namespace cobbleway {

class PitchHistogram;

/// The ways a part can be split, and what each would give, before it is done.
class SplitDialog : public Form {
    Q_OBJECT
  public:
    enum Way { ByChannel, ByProgram, ByPitch, IntoLines, MelodyAndBass, ByPiece, BySection, AtPlace };
    SplitDialog(Uses<uses::Set, uses::Transport> session, Way way, QWidget* parent);
    [[nodiscard]] PitchHistogram* histogram() const { return m_histogram; }

  private:
    [[nodiscard]] Split splitNow() const;
    void refresh();
    void take();
    Uses<uses::Set, uses::Transport> m_session;
    PartId m_part;
    QListWidget *m_ways, *m_result;
    QStackedWidget* m_options;
    PitchHistogram* m_histogram;
    QSpinBox *m_lines, *m_bar;
    QLabel* m_rule;
    QPushButton* m_take = nullptr;
};

} // namespace cobbleway
