#pragma once
#include "app/dialogs/forms.h"

class QListWidget;

namespace cobbleway {

struct Session;

/// The encoding of the file's text, with all of that text as it would read.
class EncodingDialog : public Form {
    Q_OBJECT
  public:
    EncodingDialog(Session& session, QWidget* parent);

  private:
    void preview();
    Session& m_session;
    QListWidget *m_encodings, *m_texts;
};

} // namespace cobbleway
