/// Keyboards that are listed, opened and closed beside the window, whatever they do.
#include "app/session/keyboards.h"

#include "support/support.h"

#include <QElapsedTimer>
#include <QSignalSpy>
#include <QTest>
#include <algorithm>
#include <atomic>
#include <mutex>
#include <semaphore>
#include <thread>

using namespace cobbleway;
using support::scaled;

namespace {

/// A system with keyboards that answers when it is let.
struct System {
    std::mutex lock;
    std::vector<PortInfo> ports;
    std::atomic<bool> hangs{false}, refuses{false};
    std::atomic<int> open{0};
    MidiReceiver last; ///< of the input that was opened last

    void wait() const {
        while (hangs) std::this_thread::sleep_for(std::chrono::milliseconds(5));
    }
    std::vector<PortInfo> list() {
        wait();
        const std::lock_guard guard(lock);
        return ports;
    }
    void plug(std::vector<PortInfo> now) {
        const std::lock_guard guard(lock);
        ports = std::move(now);
    }
    void strike(int key) {
        const std::array<std::uint8_t, 3> message = {0x90, static_cast<std::uint8_t>(key), 100};
        MidiReceiver to;
        {
            const std::lock_guard guard(lock);
            to = last;
        }
        if (to) to(message);
    }
};

struct Input final : MidiInput {
    explicit Input(System& in) : system(in) { ++system.open; }
    ~Input() override {
        system.wait();
        --system.open;
    }
    System& system;
};

KeyboardDoors doorsOf(const std::shared_ptr<System>& system) {
    return {[system] { return system->list(); },
            [system](const std::string& id, MidiReceiver receiver) -> Result<std::unique_ptr<MidiInput>> {
                system->wait();
                if (system->refuses) return Error{{"error.port-open"}, id, {"now.check-instrument"}};
                const std::lock_guard guard(system->lock);
                system->last = std::move(receiver);
                return std::unique_ptr<MidiInput>(std::make_unique<Input>(*system));
            }};
}

const PortInfo quay{"Quay keys", "Quay keys", false}, mill{"Mill organ", "Mill organ", false};

} // namespace

class TestKeyboards : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void init();
    void oneThatIsWantedPlays();
    void theLastWishCounts();
    void whatCannotBeOpenedIsTold();
    void oneThatWasUnpluggedPlaysAgain();
    void aSystemThatHangsHoldsNobody();

  private:
    std::shared_ptr<System> m_system;
    std::atomic<int> m_heard{0};
    MidiReceiver receiver() {
        return [this](std::span<const std::uint8_t> message) { m_heard += message[1]; };
    }
};

void TestKeyboards::init() {
    m_system = std::make_shared<System>();
    m_system->plug({quay, mill});
    m_heard = 0;
}

void TestKeyboards::oneThatIsWantedPlays() {
    Keyboards keyboards(receiver(), doorsOf(m_system));
    keyboards.look();
    QVERIFY(keyboards.isLooking());
    QTRY_COMPARE_WITH_TIMEOUT(keyboards.known().size(), std::size_t{2}, scaled(2000));
    QVERIFY(!keyboards.isLooking());
    keyboards.want(QStringLiteral("Quay keys"));
    QTRY_COMPARE_WITH_TIMEOUT(keyboards.playing(), QStringLiteral("Quay keys"), scaled(2000));
    m_system->strike(60);
    QCOMPARE(m_heard.load(), 60);
    keyboards.want({});
    QVERIFY(keyboards.playing().isEmpty());
    QTRY_COMPARE_WITH_TIMEOUT(m_system->open.load(), 0, scaled(2000));
}

void TestKeyboards::theLastWishCounts() {
    Keyboards keyboards(receiver(), doorsOf(m_system));
    QSignalSpy opened(&keyboards, &Keyboards::opened);
    m_system->hangs = true;
    keyboards.want(QStringLiteral("Quay keys"));
    keyboards.want(QStringLiteral("Mill organ"));
    m_system->hangs = false;
    QTRY_COMPARE_WITH_TIMEOUT(keyboards.playing(), QStringLiteral("Mill organ"), scaled(2000));
    QTRY_COMPARE_WITH_TIMEOUT(m_system->open.load(), 1, scaled(2000));
    QCOMPARE(opened.size(), 1);
}

void TestKeyboards::whatCannotBeOpenedIsTold() {
    Keyboards keyboards(receiver(), doorsOf(m_system));
    QSignalSpy failed(&keyboards, &Keyboards::failed);
    m_system->refuses = true;
    keyboards.want(QStringLiteral("Quay keys"));
    QTRY_COMPARE_WITH_TIMEOUT(failed.size(), 1, scaled(2000));
    QCOMPARE(failed[0][0].toString(), QStringLiteral("Quay keys"));
    QVERIFY(failed[0][1].toString().contains(QStringLiteral("Quay keys")));
    QVERIFY(keyboards.wanted().isEmpty() && keyboards.playing().isEmpty());
}

void TestKeyboards::oneThatWasUnpluggedPlaysAgain() {
    Keyboards keyboards(receiver(), doorsOf(m_system));
    QSignalSpy gone(&keyboards, &Keyboards::gone), opened(&keyboards, &Keyboards::opened);
    m_system->plug({mill});
    keyboards.waitFor(QStringLiteral("Quay keys")); // of the last time: it is not told that it is missing
    QTRY_VERIFY_WITH_TIMEOUT(!keyboards.isLooking(), scaled(2000));
    QCOMPARE(keyboards.wanted(), QStringLiteral("Quay keys"));
    m_system->plug({mill, quay});
    keyboards.look();
    QTRY_COMPARE_WITH_TIMEOUT(opened.size(), 1, scaled(2000));
    m_system->plug({mill});
    keyboards.look();
    QTRY_COMPARE_WITH_TIMEOUT(gone.size(), 1, scaled(2000));
    QVERIFY(keyboards.playing().isEmpty());
    m_system->plug({quay});
    QTRY_COMPARE_WITH_TIMEOUT(opened.size(), 2, scaled(6000)); // found by itself
    m_system->strike(48);
    QCOMPARE(m_heard.load(), 48);
}

void TestKeyboards::aSystemThatHangsHoldsNobody() {
    QElapsedTimer clock;
    clock.start();
    qint64 longest = 0;
    const auto timed = [&](auto call) {
        clock.restart();
        call();
        longest = std::max(longest, clock.elapsed());
    };
    auto keyboards = std::make_unique<Keyboards>(receiver(), doorsOf(m_system));
    keyboards->want(QStringLiteral("Quay keys"));
    QTRY_VERIFY_WITH_TIMEOUT(!keyboards->playing().isEmpty(), scaled(2000));
    m_system->hangs = true;
    timed([&] { keyboards->look(); });
    timed([&] { keyboards->want(QStringLiteral("Mill organ")); });
    timed([&] { keyboards->want({}); });
    timed([&] { keyboards->waitFor(QStringLiteral("Mill organ")); });
    QVERIFY2(longest < scaled(50), qPrintable(QString::number(longest)));
    clock.restart();
    keyboards.reset();
    QVERIFY2(clock.elapsed() < scaled(1500), qPrintable(QString::number(clock.elapsed())));
    m_system->strike(60); // one that lives on plays nothing any more
    QCOMPARE(m_heard.load(), 0);
    m_system->hangs = false;
}

QTEST_GUILESS_MAIN(TestKeyboards)
#include "tst_keyboards.moc"
