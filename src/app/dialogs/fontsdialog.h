#pragma once
#include "app/dialogs/forms.h"
#include "app/session/session.h"
#include "app/session/uses.h"

class QComboBox;
class QListWidget;
class QPushButton;
class QStackedWidget;

namespace cobbleway {

class Segments;

/// Soundfonts and the order in which they serve; LV2 instruments and effects with their state; folders that
/// are looked through.
class FontsDialog : public Form {
    Q_OBJECT
  public:
    FontsDialog(Uses<uses::Set, uses::Sounds> session, QWidget* parent);

  private:
    QWidget* makeFonts();
    QWidget* makePlugins();
    QWidget* makeFolders();
    [[nodiscard]] Sounds::Scope scope() const;
    [[nodiscard]] QString currentFont() const;
    /// What the selected one is called where it can be tried again; else empty.
    [[nodiscard]] static QString triable(const QListWidget& list);
    void setOrder(QStringList ids);
    void moveCurrent(int by);
    void refresh();
    void refreshFonts();
    void refreshPlugins();
    Uses<uses::Set, uses::Sounds> m_session;
    Segments* m_sides;
    QStackedWidget* m_stack;
    QComboBox* m_scope;
    QListWidget *m_fonts, *m_plugins, *m_folders;
    QPushButton *m_first, *m_earlier, *m_later, *m_clear, *m_compare, *m_removeFolder, *m_tryFont,
        *m_tryPlugin;
    QLabel *m_order, *m_scan;
};

} // namespace cobbleway
