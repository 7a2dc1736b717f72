#include "files/pluginhost.h"

#include "files/pluginscan.h"
#include "files/shipped.h"
#include "sound/pluginwire.h"
#include "sound/remoteplugin.h"

#include <fcntl.h>
#include <sys/mman.h>
#include <sys/socket.h>
#include <unistd.h>

namespace cobbleway {

PluginHost::PluginHost(std::filesystem::path helper, std::filesystem::path bundle,
                       std::vector<std::filesystem::path> leftOut)
    : m_helper(std::move(helper)), m_bundle(std::move(bundle)), m_leftOut(std::move(leftOut)) {}

PluginHost::~PluginHost() {
    if (m_socket >= 0) close(m_socket);
}

bool PluginHost::start() {
    m_process.reset();
    if (m_socket >= 0) close(std::exchange(m_socket, -1));
    int ends[2];
    if (socketpair(AF_UNIX, SOCK_STREAM | SOCK_CLOEXEC, 0, ends) != 0) return false;
    std::vector<std::string> words = {"serve", m_bundle.empty() ? "-" : m_bundle.string()};
    for (const auto& bundle : m_leftOut) words.push_back(bundle.string());
    m_process = std::make_unique<ChildProcess>(m_helper, words, ends[1]);
    close(ends[1]);
    m_socket = ends[0];
    std::string line;
    constexpr double patience = 30; // seconds of processor time, or of standing still
    return m_process->started() &&
           m_process->readLineWhileWorking(line, patience) == ChildProcess::Got::Line && line == "ready";
}

bool PluginHost::give(int memory, int socket) {
    const std::lock_guard hold(m_lock);
    if (m_process && sendDescriptors(m_socket, memory, socket)) return true;
    return start() && sendDescriptors(m_socket, memory, socket);
}

Result<std::unique_ptr<PluginUnit>> PluginHost::load(const std::string& uri, const PluginSettings& settings,
                                                     int rate, bool offline) {
    const Error refused{{"error.plugin-process"}, uri, {"now.plugin-process"}};
    const int memory = memfd_create("plug-in", MFD_CLOEXEC);
    int ends[2] = {-1, -1};
    const bool made = memory >= 0 && ftruncate(memory, sizeof(UnitChannel)) == 0 &&
                      socketpair(AF_UNIX, SOCK_STREAM | SOCK_CLOEXEC, 0, ends) == 0;
    const bool given = made && give(memory, ends[1]);
    if (ends[1] >= 0) close(ends[1]);
    if (given) return RemotePlugin::load(memory, ends[0], {uri, settings, rate, offline});
    if (memory >= 0) close(memory);
    if (ends[0] >= 0) close(ends[0]);
    return refused;
}

BankOptions::MakePlugins pluginProcesses() {
    return [](const std::vector<std::filesystem::path>& leftOut) {
        return std::make_shared<PluginHost>(pluginHelper(), shippedPlugins(), leftOut);
    };
}

} // namespace cobbleway
