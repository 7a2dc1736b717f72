#pragma once
#include "app/dialogs/forms.h"
#include "app/session/uses.h"

class QCheckBox;
class QListWidget;

namespace cobbleway {

/// A plain beat for the song: its style, with or without fills.
class BeatDialog : public Form {
    Q_OBJECT
  public:
    BeatDialog(Uses<uses::Set> session, QWidget* parent);

  private:
    void take();
    Uses<uses::Set> m_session;
    QListWidget* m_styles;
    QCheckBox* m_fills;
};

} // namespace cobbleway
