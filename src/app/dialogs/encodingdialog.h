#pragma once
#include "app/dialogs/forms.h"
#include "app/session/uses.h"

class QListWidget;

namespace cobbleway {

/// The encoding of the file's text, with all of that text as it would read.
class EncodingDialog : public Form {
    Q_OBJECT
  public:
    EncodingDialog(Uses<uses::Set> session, QWidget* parent);

  private:
    void preview();
    Uses<uses::Set> m_session;
    QListWidget *m_encodings, *m_texts;
};

} // namespace cobbleway
