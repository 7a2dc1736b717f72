#pragma once
#include <QMap>
#include <QObject>
#include <QString>
#include <cstdint>
#include <mutex>
#include <set>
#include <span>

namespace cobbleway {

/// Pedals and pads of a MIDI keyboard that do what an action does, once they have been taught. A message is
/// known by its kind and number: controllers (from 64 on they are down), notes, programs; on any channel.
class Pedals : public QObject {
    Q_OBJECT
  public:
    explicit Pedals(QObject* parent = nullptr);
    /// Takes a message from a keyboard, on any thread; true when it means an action, or is taught just now,
    /// and so plays nothing.
    bool take(std::span<const std::uint8_t> message);
    /// The next message that is pressed does what an action does; empty gives up.
    void teach(const QString& action);
    [[nodiscard]] QString teaching() const;
    void forget(const QString& action);
    /// "controller 64", "note C2", "program 5"; empty for an action that nothing was taught.
    [[nodiscard]] QString messageOf(const QString& action) const;
    /// The ids of the actions that can be taught.
    static QStringList actions();

  Q_SIGNALS:
    void pressed(const QString& action);
    void taughtChanged();

  private:
    void keep(const QString& action, const QString& message);
    mutable std::mutex m_mutex;      ///< messages come on a thread of their own
    QMap<QString, QString> m_taught; ///< the message, by action
    QString m_teaching;
    std::set<QString> m_down; ///< controllers that are held
};

} // namespace cobbleway
