#pragma once
#include "app/dialogs/forms.h"
#include "app/session/uses.h"
#include "song/model/song.h"

class QComboBox;
class QSpinBox;

namespace cobbleway {

/// Transposition and velocities of the selected part; heard at once.
class PitchDialog : public Form {
    Q_OBJECT
  public:
    PitchDialog(Uses<uses::Set, uses::Findings> session, QWidget* parent);

  private:
    QWidget* makeTransposition();
    QWidget* makeVelocity();
    void refresh();
    void setSemitones(int semitones);
    void moveBy(int semitones);
    void refreshWays();
    void offerInstrument(const Part& part);
    [[nodiscard]] QString keysText() const;
    void applyVelocity();
    Uses<uses::Set, uses::Findings> m_session;
    QLabel *m_key, *m_heard;
    QSpinBox *m_semitones, *m_scale, *m_offset, *m_compress;
    QComboBox* m_instrument;
    QPushButton *m_toSounding, *m_toWritten;
    QComboBox* m_unisons;
    QPushButton* m_suggested;
    std::pair<PartId, std::string> m_offered; ///< the part whose instrument was offered
    int m_suggestion = 0;
    bool m_filling = false;
};

} // namespace cobbleway
