#include "files/childprocess.h"

#include <algorithm>
#include <array>
#include <cerrno>
#include <chrono>
#include <csignal>
#include <cstdlib>
#include <fcntl.h>
#include <fstream>
#include <iterator>
#include <poll.h>
#include <spawn.h>
#include <sstream>
#include <string_view>
#include <sys/wait.h>
#include <unistd.h>

namespace cobbleway {

namespace {

/// The variables of this process, but those that lead to the person's own folders.
std::vector<std::string> environmentFor(const std::filesystem::path& home) {
    static constexpr std::string_view replaced[] = {
        "HOME=",          "XDG_CONFIG_HOME=", "XDG_CACHE_HOME=",  "XDG_STATE_HOME=",
        "XDG_DATA_HOME=", "TMPDIR=",          "COBBLEWAY_PARENT="};
    std::vector<std::string> variables;
    for (char** at = environ; *at; ++at) {
        const std::string_view variable = *at;
        if (std::none_of(std::begin(replaced), std::end(replaced),
                         [&](std::string_view start) { return variable.starts_with(start); }))
            variables.emplace_back(variable);
    }
    variables.push_back("COBBLEWAY_PARENT=" + std::to_string(getpid()));
    // Plug-ins that look for a display are let in as before: what says so lies in the home.
    if (const char* person = std::getenv("HOME"); person && !std::getenv("XAUTHORITY"))
        variables.push_back(std::string("XAUTHORITY=") + person + "/.Xauthority");
    const std::string own = home.empty() ? std::string("/nonexistent") : home.string();
    variables.push_back("HOME=" + own);
    variables.push_back("TMPDIR=" + own);
    return variables;
}

} // namespace

ChildProcess::ChildProcess(const std::filesystem::path& program, const std::vector<std::string>& arguments,
                           int given) {
    int ends[2];
    if (pipe2(ends, O_CLOEXEC) != 0) return;
    std::vector<std::string> words = {program.string()};
    words.insert(words.end(), arguments.begin(), arguments.end());
    std::vector<char*> argv;
    argv.reserve(words.size() + 1);
    for (std::string& word : words) argv.push_back(word.data());
    argv.push_back(nullptr);
    std::vector<std::string> variables = environmentFor(m_home.path());
    std::vector<char*> environment;
    environment.reserve(variables.size() + 1);
    for (std::string& variable : variables) environment.push_back(variable.data());
    environment.push_back(nullptr);
    posix_spawn_file_actions_t actions;
    posix_spawn_file_actions_init(&actions);
    posix_spawn_file_actions_addopen(&actions, STDIN_FILENO, "/dev/null", O_RDONLY, 0);
    posix_spawn_file_actions_adddup2(&actions, ends[1], STDOUT_FILENO);
    posix_spawn_file_actions_addopen(&actions, STDERR_FILENO, "/dev/null", O_WRONLY, 0);
    constexpr int place = 3;
    if (given >= 0) posix_spawn_file_actions_adddup2(&actions, given, place);
    if (posix_spawn(&m_pid, program.c_str(), &actions, nullptr, argv.data(), environment.data()) != 0)
        m_pid = -1;
    posix_spawn_file_actions_destroy(&actions);
    close(ends[1]);
    m_output = ends[0];
}

ChildProcess::~ChildProcess() {
    if (m_pid > 0) {
        kill();
        wait();
    }
    if (m_output >= 0) close(m_output);
}

void ChildProcess::kill() {
    if (m_pid > 0) ::kill(m_pid, SIGKILL);
}

int ChildProcess::wait() {
    int state = 0;
    while (m_pid > 0 && waitpid(m_pid, &state, 0) < 0 && errno == EINTR) {}
    m_pid = -1;
    return WIFSIGNALED(state) ? -WTERMSIG(state) : WEXITSTATUS(state);
}

/// As the kernel tells it (proc(5), /proc/pid/stat): the state, then user and system time in ticks.
ChildProcess::Work ChildProcess::work() const {
    std::ifstream stat("/proc/" + std::to_string(m_pid) + "/stat");
    std::string text((std::istreambuf_iterator<char>(stat)), {});
    const auto name = text.rfind(')'); // the name before it may hold anything
    if (name == std::string::npos) return {};
    std::istringstream rest(text.substr(name + 1));
    std::string state, skipped;
    rest >> state;
    for (int field = 4; field < 14; ++field) rest >> skipped;
    double user = 0, system = 0;
    rest >> user >> system;
    return {(user + system) / static_cast<double>(sysconf(_SC_CLK_TCK)), state == "S" || state == "T"};
}

ChildProcess::Got ChildProcess::readLineWhileWorking(std::string& line, double seconds,
                                                     const std::stop_token& stop) {
    constexpr double slice = 0.1, idle = 0.01; // seconds
    Work last = work();
    const double first = last.seconds;
    double still = 0;
    while (!stop.stop_requested()) {
        if (const auto got = readLine(line, slice); got != Got::Nothing) return got;
        const Work now = work();
        still = now.waits && now.seconds - last.seconds < idle ? still + slice : 0;
        last = now;
        if (still >= seconds || now.seconds - first >= seconds) break;
    }
    return Got::Nothing;
}

ChildProcess::Got ChildProcess::readLine(std::string& line, double seconds) {
    const auto until = std::chrono::steady_clock::now() + std::chrono::duration<double>(seconds);
    while (true) {
        if (const auto end = m_text.find('\n'); end != std::string::npos) {
            line = m_text.substr(0, end);
            m_text.erase(0, end + 1);
            return Got::Line;
        }
        const double left = std::chrono::duration<double>(until - std::chrono::steady_clock::now()).count();
        pollfd wanted{m_output, POLLIN, 0};
        const int ready = m_output < 0 || left <= 0 ? 0 : poll(&wanted, 1, static_cast<int>(left * 1000) + 1);
        if (ready < 0 && errno == EINTR) continue;
        if (ready <= 0) return Got::Nothing;
        std::array<char, 4096> some{};
        const ssize_t count = read(m_output, some.data(), some.size());
        if (count < 0 && errno == EINTR) continue;
        if (count <= 0) return Got::End;
        m_text.append(some.data(), static_cast<std::size_t>(count));
        if (m_text.size() > 1'000'000) return Got::End; // no helper of ours says that much in a line
    }
}

} // namespace cobbleway
