#pragma once
#include <QDialog>

class QListWidget;

namespace cobbleway {

class Session;

/// Fonts and instruments: which soundfonts there are, which one plays every part, which folders are looked
/// through. Every change takes effect at once.
class FontsDialog : public QDialog {
    Q_OBJECT
  public:
    explicit FontsDialog(Session& session, QWidget* parent = nullptr);

  private:
    void refresh();
    Session& m_session;
    QListWidget *m_fonts, *m_folders;
};

} // namespace cobbleway
