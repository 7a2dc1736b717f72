#include "app/session/pedals.h"

#include "app/session/settings.h"
#include "midi/gm.h"

#include <QStringList>

namespace cobbleway {
namespace {

struct Press {
    QString message; ///< kind and number in hexadecimal; empty for messages that are no press
    bool down = false;
};

Press pressOf(std::span<const std::uint8_t> bytes) {
    if (bytes.size() < 2) return {};
    const int kind = bytes[0] & 0xF0, value = bytes.size() > 2 ? bytes[2] : 127;
    const auto named = [&](int as) {
        return QStringLiteral("%1 %2")
            .arg(as, 2, 16, QLatin1Char('0'))
            .arg(bytes[1] & 0x7F, 2, 16, QLatin1Char('0'));
    };
    switch (kind) {
    case 0x80: return {named(0x90), false};
    case 0x90: return {named(0x90), value > 0};
    case 0xB0: return {named(0xB0), value >= 64};
    case 0xC0: return {named(0xC0), true};
    default: return {};
    }
}

} // namespace

Pedals::Pedals(QObject* parent) : QObject(parent), m_taught(settings::taughtMessages()) {}

QStringList Pedals::actions() {
    return {QStringLiteral("play"),     QStringLiteral("nextSection"), QStringLiteral("previousSection"),
            QStringLiteral("slower"),   QStringLiteral("faster"),      QStringLiteral("loop"),
            QStringLiteral("firstNote")};
}

bool Pedals::take(std::span<const std::uint8_t> bytes) {
    const Press press = pressOf(bytes);
    if (press.message.isEmpty()) return false;
    QString action;
    {
        const std::scoped_lock lock(m_mutex);
        const bool wasDown = m_down.contains(press.message);
        press.down ? (void)m_down.insert(press.message) : (void)m_down.erase(press.message);
        if (!m_teaching.isEmpty() && press.down) {
            QMetaObject::invokeMethod(
                this, [this, to = m_teaching, message = press.message] { keep(to, message); },
                Qt::QueuedConnection);
            m_teaching.clear();
            return true;
        }
        action = m_taught.key(press.message);
        if (action.isEmpty()) return false;
        const bool program = press.message.startsWith(QLatin1String("c0")); // is never let go
        if (!press.down || (wasDown && !program)) return true;
    }
    QMetaObject::invokeMethod(
        this, [this, action] { Q_EMIT pressed(action); }, Qt::QueuedConnection);
    return true;
}

void Pedals::teach(const QString& action) {
    {
        const std::scoped_lock lock(m_mutex);
        m_teaching = action;
    }
    Q_EMIT taughtChanged();
}

QString Pedals::teaching() const {
    const std::scoped_lock lock(m_mutex);
    return m_teaching;
}

/// A message means one action alone.
void Pedals::keep(const QString& action, const QString& message) {
    {
        const std::scoped_lock lock(m_mutex);
        m_taught.remove(m_taught.key(message));
        m_taught[action] = message;
        settings::setTaughtMessages(m_taught);
    }
    Q_EMIT taughtChanged();
}

void Pedals::forget(const QString& action) {
    {
        const std::scoped_lock lock(m_mutex);
        m_taught.remove(action);
        settings::setTaughtMessages(m_taught);
    }
    Q_EMIT taughtChanged();
}

QString Pedals::messageOf(const QString& action) const {
    const std::scoped_lock lock(m_mutex);
    const QStringList bytes = m_taught.value(action).split(QLatin1Char(' '));
    if (bytes.size() != 2) return {};
    const int kind = bytes[0].toInt(nullptr, 16), number = bytes[1].toInt(nullptr, 16) & 0x7F;
    if (kind == 0x90)
        return tr("note %1").arg(QString::fromStdString(keyName(Key{static_cast<std::uint8_t>(number)})));
    return kind == 0xC0 ? tr("program %1").arg(number + 1) : tr("controller %1").arg(number);
}

} // namespace cobbleway
