#pragma once
#include "app/dialogs/forms.h"
#include "app/session/uses.h"
#include "song/shape/pluginplace.h"

class QDoubleSpinBox;
class QLabel;
class QListWidget;
class QPushButton;
class QSpinBox;

namespace cobbleway {

class PluginControls;

/// The sounds of the selected part: its own and those layered on it, each with level, octave and keys, and
/// the controls of those that are plug-ins. Every change is heard at once.
class LayersDialog : public Form {
    Q_OBJECT
  public:
    LayersDialog(Uses<uses::Set, uses::Sounds, uses::Findings, uses::Windows> session, QWidget* parent);

  private:
    void refresh();
    void refreshChoice();
    void apply(const QString& gesture);
    void applyPort(const QString& gesture);
    [[nodiscard]] const SoundRef* currentSound() const; ///< chosen by hand, or of a layer; null for another
    [[nodiscard]] PluginPlace place() const;            ///< of what is shown
    [[nodiscard]] int current() const;                  ///< layer, 0-based; −1: the part's own sound
    Uses<uses::Set, uses::Sounds, uses::Findings, uses::Windows> m_session;
    QListWidget* m_list;
    QDoubleSpinBox* m_level;
    QSpinBox *m_octaves, *m_lowest, *m_highest;
    QPushButton* m_remove;
    QLabel* m_hint;
    QWidget *m_numbers, *m_portNumbers;
    QSpinBox *m_channel, *m_bank, *m_program;
    PluginControls* m_controls;
    bool m_filling = false;
};

} // namespace cobbleway
