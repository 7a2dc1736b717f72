#pragma once
#include "app/dialogs/forms.h"
#include "app/session/uses.h"
#include "files/notenames.h"

class QCheckBox;
class QComboBox;
class QListWidget;

namespace cobbleway {

/// What was read from a file of drum names, what was repaired in it, and taking it over for a drum part.
class NamesDialog : public Form {
    Q_OBJECT
  public:
    NamesDialog(Uses<uses::Set, uses::Messages> session, PartId part, NameFile file, QWidget* parent);

  private:
    void refresh();
    void take();
    [[nodiscard]] const NameList& chosen() const;
    Uses<uses::Set, uses::Messages> m_session;
    PartId m_part;
    NameFile m_file;
    QComboBox* m_lists;
    QListWidget *m_names, *m_repaired;
    QCheckBox* m_play;
    QLabel* m_about;
};

} // namespace cobbleway
