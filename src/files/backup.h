/// Copies of work that is not saved yet, written by a thread that nothing else can hold up.
#pragma once
#include "files/project.h"

#include <atomic>
#include <chrono>
#include <condition_variable>
#include <functional>
#include <mutex>
#include <optional>
#include <thread>
#include <vector>

namespace cobbleway {

/// Writes the newest of what it is given beside its caller, some time after the first since the last write,
/// so that steps that follow each other quickly are written once. A copy is two files for the person alone:
/// the set, and a note under the same name with ".json" added.
class BackupWriter {
  public:
    struct Copy {
        std::function<SongSet()> set; ///< called on the writing thread
        std::string note;             ///< what is known of it, as JSON
    };
    /// `file`: where the copy goes. `told` gets the first problem, on the writing thread.
    BackupWriter(std::filesystem::path file, std::chrono::milliseconds delay,
                 std::function<void(const Error&)> told);
    /// Writes what waits, and leaves it.
    ~BackupWriter();
    BackupWriter(const BackupWriter&) = delete;
    BackupWriter& operator=(const BackupWriter&) = delete;

    void take(Copy copy); ///< returns at once
    /// The work is saved or thrown away: the copy goes, and none that is being written takes its place.
    /// False when a disk that hangs kept it for `most`; then nothing is put there later, but the old copy
    /// may be left.
    bool forget(std::chrono::milliseconds most = std::chrono::milliseconds(500));
    /// Calls `then` on the writing thread when all that was taken so far has been written, or forgotten.
    void whenWritten(std::function<void()> then);
    [[nodiscard]] const std::filesystem::path& file() const { return m_file; }

  private:
    void run(const std::stop_token& stop);
    void write(const Copy& copy, std::uint64_t number);
    Result<Done> put(const std::filesystem::path& path, const std::string& text, std::uint64_t number);

    std::filesystem::path m_file;
    std::chrono::milliseconds m_delay;
    std::function<void(const Error&)> m_told;
    std::mutex m_lock; ///< guards the next five
    std::condition_variable_any m_changed;
    std::optional<Copy> m_waiting;
    std::chrono::steady_clock::time_point m_due;
    std::vector<std::function<void()>> m_whenWritten;
    bool m_hasTold = false;
    std::timed_mutex m_place;                  ///< held while a copy takes its place or goes
    std::atomic<std::uint64_t> m_number{0};    ///< counts what was taken and forgotten
    std::atomic<std::uint64_t> m_forgotten{0}; ///< all up to this number
    std::jthread m_thread;                     // last, so that it ends first
};

} // namespace cobbleway
