#pragma once
#include "files/helperhome.h"

#include <filesystem>
#include <optional>
#include <stop_token>
#include <string>
#include <vector>

#include <sys/types.h>

namespace cobbleway {

/// A program that was started, with its output as lines, in a home of its own (HelperHome). Ended when
/// destroyed; told the number of this process in COBBLEWAY_PARENT, so that it can end with it.
class ChildProcess {
  public:
    /// `given`: a descriptor that the program has as number 3; −1 for none.
    ChildProcess(const std::filesystem::path& program, const std::vector<std::string>& arguments,
                 int given = -1);
    ~ChildProcess();
    ChildProcess(const ChildProcess&) = delete;
    ChildProcess& operator=(const ChildProcess&) = delete;
    [[nodiscard]] bool started() const { return m_pid > 0; }

    enum class Got { Line, End, Nothing };
    /// The next line of its output, without the end; waits `seconds` at most.
    Got readLine(std::string& line, double seconds);
    /// The same, as long as it works: until it has used so many seconds of processor time since the call, or
    /// has stood still for as many seconds. On a busy computer that lasts longer. Nothing too when `stop` is
    /// asked.
    Got readLineWhileWorking(std::string& line, double seconds, const std::stop_token& stop = {});
    /// Waits for its end, after its output has ended. Its exit code, or −signal when a signal ended it.
    int wait();
    void kill();

  private:
    struct Work {
        double seconds = 0; ///< of processor time so far
        bool waits = false; ///< for something else than a processor
    };
    [[nodiscard]] Work work() const;
    HelperHome m_home;
    pid_t m_pid = -1;
    int m_output = -1;
    std::string m_text;
};

} // namespace cobbleway
