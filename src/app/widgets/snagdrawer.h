#pragma once
#include "app/session/uses.h"
#include "song/snags/cards.h"

#include <QFrame>
#include <memory>

class QLabel;
class QPushButton;
class QScrollArea;
class QToolButton;

namespace cobbleway {

class Difference;
class GridKeys;
class WhenShown;

/// The drawer on the right: what a person has to decide, a card a kind, the most serious first; and below
/// what is good to know.
class SnagDrawer : public QFrame {
    Q_OBJECT
  public:
    static constexpr int usualWidth = 372; ///< less in a narrow window
    explicit SnagDrawer(
        Uses<uses::Set, uses::Findings, uses::Sounds, uses::Transport, uses::Messages> session,
        QWidget* parent = nullptr);
    void takeFocus(); ///< to the first card, or the button that closes
    /// Lets the snag that has the focus, or else the first that makes a difference to the ear, be heard fixed
    /// and as it is, in turns.
    void hearDifference();

  Q_SIGNALS:
    void goTo(Step step); ///< where the snag lies
    void closed();

  private:
    void refresh();
    QWidget* viewOf(const std::shared_ptr<const SnagCard>& card);
    void choose(const Snag& snag);
    void compare(const Snag& snag, std::size_t fix);
    void hideEvent(QHideEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    Uses<uses::Set, uses::Findings, uses::Sounds, uses::Transport, uses::Messages> m_session;
    Difference* m_difference;
    WhenShown* m_shown = nullptr;
    QScrollArea* m_area;
    GridKeys* m_keys; ///< a row a line of controls
    QLabel* m_count;
    QPushButton* m_all;
    QToolButton* m_close;
};

} // namespace cobbleway
