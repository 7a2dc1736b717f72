/// A fix by ear: as it is now and as it would be, in turns, on the loop.
#pragma once
#include "app/session/transport.h"
#include "app/session/uses.h"
#include "song/snags/snags.h"

#include <QObject>

namespace cobbleway {

class Difference : public QObject {
    Q_OBJECT
  public:
    explicit Difference(Uses<uses::Set, uses::Sounds, uses::Transport, uses::Messages> session,
                        QObject* parent = nullptr);
    /// Plays from a place as it is now, then with the fix, then as it is, and so on. Where no loop is on,
    /// some bars from the place are the loop for so long. `name`, of a snag and its fix, tells one difference
    /// from another.
    void toggle(const QString& name, const Fix& fix, Tick place);
    void end(); ///< loop and playing are as before
    [[nodiscard]] bool isOf(const QString& name) const { return !m_name.isEmpty() && m_name == name; }
    [[nodiscard]] bool isAfter() const { return m_after; } ///< the fix is heard now

  Q_SIGNALS:
    void changed();

  private:
    void begin(Tick place);
    Uses<uses::Set, uses::Sounds, uses::Transport, uses::Messages> m_session;
    QString m_name; ///< empty: none
    bool m_after = false, m_started = false;
    std::optional<Loop> m_before, m_mine; ///< the loop before, and the one set here
};

} // namespace cobbleway
