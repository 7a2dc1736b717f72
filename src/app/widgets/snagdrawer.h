#pragma once
#include "app/session/uses.h"
#include "song/snags/snags.h"

#include <QFrame>

class QLabel;
class QPushButton;
class QScrollArea;
class QToolButton;

namespace cobbleway {

class GridKeys;
class WhenShown;
struct Snag;

/// The drawer on the right: snags by step, each with its mends as buttons.
class SnagDrawer : public QFrame {
    Q_OBJECT
  public:
    static constexpr int usualWidth = 372; ///< less in a narrow window
    explicit SnagDrawer(Uses<uses::Set, uses::Findings, uses::Playback> session, QWidget* parent = nullptr);
    void takeFocus(); ///< to the first card, or the button that closes

  Q_SIGNALS:
    void goTo(Step step); ///< where the snag lies
    void closed();

  private:
    void refresh();
    QWidget* cardFor(const Snag& snag, int number);
    void keyPressEvent(QKeyEvent* event) override;
    Uses<uses::Set, uses::Findings, uses::Playback> m_session;
    WhenShown* m_shown = nullptr;
    QScrollArea* m_area;
    GridKeys* m_keys; ///< a row a card
    QLabel* m_count;
    QPushButton* m_all;
    QToolButton* m_close;
};

} // namespace cobbleway
