#include "sound/newthreads.h"

#include <chrono>
#include <filesystem>
#include <fstream>
#include <string>
#include <thread>

namespace cobbleway {
namespace {

/// Calls `take(number, state)` for each thread, with the letter of its state (proc(5)): R works, D waits for
/// a disk.
template <class Take> void eachThread(Take take) {
    std::error_code error;
    for (const auto& task : std::filesystem::directory_iterator("/proc/self/task", error)) {
        std::string line;
        std::getline(std::ifstream(task.path() / "stat"), line);
        const auto state = line.rfind(") ");
        if (state == std::string::npos || state + 2 >= line.size()) continue; // it has just ended
        take(std::stoi(task.path().filename().string()), line[state + 2]);
    }
}

} // namespace

NewThreads::NewThreads() {
    eachThread([this](int thread, char) { m_before.insert(thread); });
}

bool NewThreads::anyWorks() const {
    bool works = false;
    eachThread([&](int thread, char state) {
        works = works || (!m_before.contains(thread) && (state == 'R' || state == 'D'));
    });
    return works;
}

void NewThreads::awaitRest(double seconds) const {
    bool any = false;
    eachThread([&](int thread, char) { any = any || !m_before.contains(thread); });
    if (!any) return;
    using Clock = std::chrono::steady_clock;
    constexpr auto pause = std::chrono::milliseconds(5);
    constexpr int enough = 3; // looks in a row: a thread that has been woken may not have begun
    const auto end = Clock::now() + std::chrono::duration<double>(seconds);
    for (int rests = 0; rests < enough && Clock::now() < end;) {
        std::this_thread::sleep_for(pause);
        rests = anyWorks() ? 0 : rests + 1;
    }
}

} // namespace cobbleway
