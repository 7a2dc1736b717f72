#include "app/session/keyboards.h"

#include "app/session/jobs.h"

#include <algorithm>
#include <mutex>

namespace cobbleway {
namespace {

constexpr int lookEvery = 3000; ///< milliseconds, while a keyboard is wanted

} // namespace

/// Through which inputs call, wherever they live on.
struct Keyboards::Gate {
    std::mutex lock;
    MidiReceiver receiver; ///< empty once nobody listens
    void pass(std::span<const std::uint8_t> message) {
        const std::lock_guard guard(lock);
        if (receiver) receiver(message);
    }
    void shut() {
        const std::lock_guard guard(lock);
        receiver = nullptr;
    }
};

Keyboards::Keyboards(MidiReceiver receiver, KeyboardDoors doors)
    : m_doors(std::move(doors)), m_gate(std::make_shared<Gate>()), m_pool(new QThreadPool) {
    m_gate->receiver = std::move(receiver);
    m_pool->setMaxThreadCount(1);
    m_again.setInterval(lookEvery);
    connect(&m_again, &QTimer::timeout, this, &Keyboards::look);
}

Keyboards::~Keyboards() {
    m_gate->shut();
    close();
    constexpr int patience = 500; // milliseconds
    if (m_pool->waitForDone(patience)) delete m_pool;
}

bool Keyboards::isKnown(const QString& id) const {
    return std::any_of(m_known.begin(), m_known.end(),
                       [&](const PortInfo& port) { return QString::fromStdString(port.id) == id; });
}

/// The input ends on the other thread: that waits for its own.
void Keyboards::close() {
    m_playing.clear();
    if (m_open) m_pool->start([input = std::exchange(m_open, nullptr)]() mutable { input.reset(); });
}

void Keyboards::want(const QString& id) {
    close();
    m_wanted = id;
    ++m_openings;
    if (id.isEmpty())
        m_again.stop();
    else
        open();
}

void Keyboards::waitFor(const QString& id) {
    want({});
    m_wanted = id;
    if (!id.isEmpty()) look();
}

void Keyboards::open() {
    const QString id = m_wanted;
    m_again.start();
    runJob(
        this, m_pool,
        [open = m_doors.open, gate = m_gate,
         name = id.toStdString()]() -> Result<std::shared_ptr<MidiInput>> {
            auto input = open(name, [gate](std::span<const std::uint8_t> message) { gate->pass(message); });
            if (!input) return input.error();
            return std::shared_ptr<MidiInput>(std::move(input.value()));
        },
        [this, id, number = ++m_openings](Result<std::shared_ptr<MidiInput>> input) {
            if (number != m_openings) { // another was wanted meanwhile
                if (input)
                    m_pool->start([unwanted = std::move(input.value())]() mutable { unwanted.reset(); });
            } else if (input) {
                m_open = std::move(input.value());
                m_playing = id;
                Q_EMIT opened(id);
            } else {
                m_wanted.clear();
                m_again.stop();
                Q_EMIT failed(id, QString::fromStdString(input.error().message()));
            }
        });
}

void Keyboards::look() {
    if (std::exchange(m_looking, true)) return;
    runJob(this, m_pool, m_doors.list, [this](Result<std::vector<PortInfo>> ports) {
        m_looking = false;
        if (ports) takeList(std::move(ports.value()));
        if (!m_wanted.isEmpty()) m_again.start();
        Q_EMIT listed();
    });
}

void Keyboards::takeList(std::vector<PortInfo> ports) {
    m_known = std::move(ports);
    if (!m_playing.isEmpty() && !isKnown(m_playing)) {
        const QString id = m_playing;
        ++m_openings;
        close();
        Q_EMIT gone(id);
    } else if (!m_wanted.isEmpty() && m_playing.isEmpty() && isKnown(m_wanted)) {
        open();
    }
}

} // namespace cobbleway
