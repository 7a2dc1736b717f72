#pragma once
#include "app/dialogs/forms.h"
#include "app/session/uses.h"
#include "song/model/song.h"

class QCheckBox;
class QListWidget;
class QPushButton;

namespace cobbleway {

class PluginControls;

/// The chain of LV2 effects on the selected part, or on the whole mix: add, remove, order, switch, set.
class EffectsDialog : public Form {
    Q_OBJECT
  public:
    enum Of { ThePart, TheMix };
    EffectsDialog(Uses<uses::Set, uses::Sounds, uses::Transport, uses::Windows> session, Of of,
                  QWidget* parent);

  private:
    [[nodiscard]] const std::vector<Effect>& effects() const;
    void change(const QString& name, const std::vector<Effect>& to, const QString& gesture = {});
    void move(int by);
    void refresh();
    void refreshChoice();
    void addOne();
    Uses<uses::Set, uses::Sounds, uses::Transport, uses::Windows> m_session;
    [[nodiscard]] PartId part() const; ///< whose effects they are; 0: the mix
    Of m_of;
    QListWidget* m_list;
    QPushButton *m_add, *m_remove, *m_up, *m_down;
    QCheckBox* m_on;
    PluginControls* m_controls;
    bool m_filling = false;
};

} // namespace cobbleway
