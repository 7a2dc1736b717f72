#pragma once
#include <QElapsedTimer>
#include <QTimer>
#include <algorithm>
#include <functional>

namespace cobbleway {

/// Makes many things, one after the other: the first ones at once, the rest in slices as the event loop comes
/// round, so that the window goes on meanwhile.
class Gradually final : public QObject {
  public:
    explicit Gradually(QObject* parent) : QObject(parent) {
        m_next.setInterval(0);
        connect(&m_next, &QTimer::timeout, this, [this] { makeSome(0); });
    }
    /// Calls `make` for 0 … count − 1; gives up what was under way.
    void start(std::size_t count, std::function<void(std::size_t)> make) {
        m_count = count;
        m_made = 0;
        m_make = std::move(make);
        makeSome(atOnce);
        m_made < m_count ? m_next.start() : m_next.stop();
    }

  private:
    static constexpr std::size_t atOnce = 64; // more than a page shows
    static constexpr qint64 slice = 8;        // milliseconds

    void makeSome(std::size_t atLeast) {
        QElapsedTimer clock;
        clock.start();
        const std::size_t least = std::min(m_count, m_made + atLeast);
        while (m_made < least || (m_made < m_count && clock.elapsed() < slice)) m_make(m_made++);
        if (m_made >= m_count) m_next.stop();
    }
    QTimer m_next;
    std::size_t m_count = 0, m_made = 0;
    std::function<void(std::size_t)> m_make;
};

} // namespace cobbleway
