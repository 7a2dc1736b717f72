#include "files/backup.h"

#include "files/folders.h"
#include "midi/thrown.h"

#include <sys/resource.h>
#include <unistd.h>

namespace cobbleway {

BackupWriter::BackupWriter(std::filesystem::path file, std::chrono::milliseconds delay,
                           std::function<void(const Error&)> told)
    : m_file(std::move(file)), m_delay(delay), m_told(std::move(told)),
      m_thread([this](const std::stop_token& stop) { run(stop); }) {}

BackupWriter::~BackupWriter() {
    m_thread.request_stop();
    m_changed.notify_all();
}

void BackupWriter::take(Copy copy) {
    const std::lock_guard hold(m_lock);
    ++m_number;
    if (!m_waiting) m_due = std::chrono::steady_clock::now() + m_delay;
    m_waiting = std::move(copy);
    m_changed.notify_all();
}

bool BackupWriter::forget(std::chrono::milliseconds most) {
    {
        const std::lock_guard hold(m_lock);
        m_waiting.reset();
        m_forgotten = ++m_number;
        m_changed.notify_all();
    }
    const std::unique_lock place(m_place, most);
    unlink(m_file.c_str());
    unlink((m_file.string() + ".json").c_str());
    return place.owns_lock();
}

void BackupWriter::whenWritten(std::function<void()> then) {
    const std::lock_guard hold(m_lock);
    m_whenWritten.push_back(std::move(then));
    m_changed.notify_all();
}

void BackupWriter::run(const std::stop_token& stop) {
    setpriority(PRIO_PROCESS, static_cast<id_t>(gettid()), 5); // playing comes first
    std::unique_lock hold(m_lock);
    while (!stop.stop_requested() || m_waiting) {
        if (m_waiting && (stop.stop_requested() || std::chrono::steady_clock::now() >= m_due)) {
            const Copy copy = *std::exchange(m_waiting, std::nullopt);
            const std::uint64_t number = m_number;
            hold.unlock();
            write(copy, number);
            hold.lock();
        } else if (m_waiting) {
            m_changed.wait_until(hold, stop, m_due, [] { return false; });
        } else {
            const auto written = std::exchange(m_whenWritten, {});
            if (written.empty()) {
                m_changed.wait(hold, stop, [this] { return m_waiting || !m_whenWritten.empty(); });
                continue;
            }
            hold.unlock();
            for (const auto& then : written) then();
            hold.lock();
        }
    }
}

void BackupWriter::write(const Copy& copy, std::uint64_t number) {
    const auto done = [&]() -> Result<Done> {
        try {
            std::error_code error;
            const auto folder = std::filesystem::absolute(m_file, error).parent_path();
            if (auto set = put(m_file, projectText(copy.set(), folder), number); !set) return set;
            return put(m_file.string() + ".json", copy.note, number);
        } catch (...) { return thrownError(std::current_exception()); }
    }();
    if (!done && !std::exchange(m_hasTold, true)) m_told(done.error());
}

/// A copy that was forgotten while its text was made does not take its place any more.
Result<Done> BackupWriter::put(const std::filesystem::path& path, const std::string& text,
                               std::uint64_t number) {
    auto file = AtomicFile::open(path, Readers::Owner);
    if (!file) return file.error();
    (void)file.value()->write(std::span(reinterpret_cast<const std::uint8_t*>(text.data()), text.size()));
    const std::lock_guard place(m_place);
    if (number < m_forgotten) return Done{};
    auto done = file.value()->commit();
    if (number < m_forgotten) unlink(path.c_str()); // while it took its place
    return done;
}

} // namespace cobbleway
