#pragma once
#include "app/widgets/small.h"
#include "song/snags/cards.h"

namespace cobbleway {

/// What somebody did on a card: with which snag of it, and with which of its fixes.
struct SnagDeeds {
    std::function<void(std::size_t row)> choose;                   ///< show where it is
    std::function<void(std::size_t row, std::size_t fix)> take;    ///< one row's fix
    std::function<void(std::size_t row, std::size_t fix)> compare; ///< hear the difference it makes
    std::function<void(std::size_t fix)> takeAll;                  ///< a fix of all rows
    enum class Heard { Not, Before, After };
    std::function<Heard(std::size_t row, std::size_t fix)> heard; ///< of the difference that a fix makes
};

/// One kind of snag: what is so, why it matters, and its fixes; where it concerns several parts, a row for
/// each with its fixes, and what can be done for all of them.
class SnagCardView : public Card {
  public:
    SnagCardView(const SnagCard& card, const Song& song, SnagDeeds deeds);
    /// Rows of controls for the keyboard, from top to bottom.
    [[nodiscard]] const QList<QList<QWidget*>>& rows() const { return m_rows; }

  private:
    void addSingle(const SnagCard& card);
    void addSeveral(const SnagCard& card, const Song& song);
    QWidget* rowOf(const Snag& snag, const QString& part, std::size_t row);
    QPushButton* fixButton(const Fix& fix, bool primary, std::size_t row, std::size_t number);
    QPushButton* compareButton(const Snag& snag, std::size_t row, const QString& label);
    SnagDeeds m_deeds;
    QList<QList<QWidget*>> m_rows;
};

} // namespace cobbleway
