/// The process of a plug-in: see RemotePlugin.
#include "sound/denormals.h"
#include "sound/plugininner.h"
#include "sound/pluginwire.h"
#include "sound/remoteplugin.h"

#include <algorithm>
#include <bit>
#include <sched.h>
#include <thread>
#include <unistd.h>

namespace cobbleway {
namespace {

/// Runs a plug-in each time that the other side asks for it.
class Server {
  public:
    Server(LoadedPlugin& unit, UnitChannel& channel, std::vector<std::string> controls)
        : m_unit(unit), m_channel(channel), m_controls(std::move(controls)), m_told(m_controls.size()) {
        for (std::size_t i = 0; i < m_controls.size(); ++i) m_told[i] = m_channel.wanted[i].load();
        m_thread = std::jthread([this](const std::stop_token& stop) { serve(stop); });
    }
    ~Server() {
        m_thread.request_stop();
        m_channel.asked.wake();
    }
    Server(const Server&) = delete;
    Server& operator=(const Server&) = delete;
    /// Not while it runs.
    PluginSettings settings() {
        const std::lock_guard hold(m_running);
        return m_unit.settings();
    }

  private:
    void serve(const std::stop_token& stop) {
        const NoDenormals quick; // as where it would run otherwise
        std::uint32_t seen = 0;
        while (!stop.stop_requested()) {
            m_channel.asked.wait(seen);
            const std::uint32_t asked = m_channel.asked.now();
            if (asked == seen) continue;
            const std::lock_guard hold(m_running);
            followCaller();
            run();
            seen = asked;
            m_channel.done.set(asked);
        }
    }

    /// Runs on the processor of the thread that waits for it: to wake another takes longer than many plug-ins
    /// do, and nothing is lost, since one of the two always waits.
    void followCaller() {
        constexpr int fewTimes = 8; // threads move now and then
        const int wanted = m_channel.processor;
        m_elsewhere = wanted == m_processor || wanted < 0 || wanted >= CPU_SETSIZE ? 0 : m_elsewhere + 1;
        if (m_elsewhere < fewTimes) return;
        cpu_set_t one;
        CPU_ZERO(&one);
        CPU_SET(static_cast<unsigned>(wanted), &one);
        sched_setaffinity(0, sizeof one, &one); // of this thread alone
        m_processor = wanted;
        m_elsewhere = 0;
    }

    void takeControls() {
        for (std::size_t i = 0; i < m_controls.size(); ++i) {
            const float wanted = m_channel.wanted[i].load(std::memory_order_relaxed);
            if (std::bit_cast<std::uint32_t>(wanted) == std::bit_cast<std::uint32_t>(m_told[i]))
                continue; // also what is no number
            m_told[i] = wanted;
            m_unit.setControl(m_controls[i], wanted);
        }
    }

    void run() {
        takeControls();
        const auto events = std::min<std::size_t>(m_channel.eventCount, UnitChannel::mostEvents);
        for (std::size_t i = 0; i < events; ++i) {
            const UnitChannel::Event& event = m_channel.events[i];
            m_unit.event(event.status, event.data1, event.data2);
        }
        const auto frames = std::min<std::uint32_t>(m_channel.frames, maxFrames);
        if (!m_unit.isEffect()) {
            std::fill_n(m_channel.left.begin(), frames, 0.0F);
            std::fill_n(m_channel.right.begin(), frames, 0.0F);
        }
        m_unit.run(m_channel.left.data(), m_channel.right.data(), static_cast<int>(frames));
        m_channel.latency.store(m_unit.latency(), std::memory_order_relaxed);
        m_channel.fault.store(static_cast<std::uint8_t>(m_unit.fault()), std::memory_order_relaxed);
    }

    LoadedPlugin& m_unit;
    UnitChannel& m_channel;
    std::vector<std::string> m_controls;
    std::vector<float> m_told; ///< to the controls
    int m_processor = -1;      ///< that it runs on; −1: on any
    int m_elsewhere = 0;       ///< so many times in a row it was asked for from another
    std::mutex m_running;
    std::jthread m_thread; // last: it ends first
};

/// Tells the other side what was loaded, or why not; the names of its controls.
std::optional<std::vector<std::string>> answer(int socket, const LoadedPlugin* unit, const Error& refused) {
    WireMessage message;
    message.put(unit ? std::string() : asLine(refused.what));
    message.put(static_cast<std::uint32_t>(getpid()));
    message.put(static_cast<std::uint32_t>(unit && unit->isEffect()));
    auto starts = unit ? unit->starts() : std::vector<std::pair<std::string, float>>{};
    starts.resize(std::min(starts.size(), UnitChannel::mostControls));
    message.put(static_cast<std::uint32_t>(starts.size()));
    std::vector<std::string> names;
    for (const auto& [symbol, value] : starts) {
        message.put(symbol);
        message.put(value);
        names.push_back(symbol);
    }
    if (!sendMessage(socket, message)) return std::nullopt;
    return names;
}

/// As it will be set by the other side, so that nothing is told twice.
void takeStarts(const LoadedPlugin& unit, const PluginSettings& settings, UnitChannel& channel) {
    const auto starts = unit.starts();
    for (std::size_t i = 0; i < std::min(starts.size(), UnitChannel::mostControls); ++i) {
        const auto at = settings.controls.find(starts[i].first);
        channel.wanted[i].store(at == settings.controls.end() ? starts[i].second : at->second);
    }
}

} // namespace

void servePlugin(PluginWorld& world, int memory, int socket,
                 const std::function<void(const PluginOrder&)>& prepare) {
    UnitChannel* const channel = UnitChannel::map(memory);
    auto wanted = channel ? receiveMessage(socket, -1) : std::nullopt;
    if (!wanted) return;
    PluginOrder order{wanted->text(), wanted->settings(), static_cast<int>(wanted->number()),
                      wanted->number() != 0};
    prepare(order);
    const auto loaded = world.load(order.uri, order.settings, order.rate, order.offline);
    auto* const unit = loaded ? static_cast<LoadedPlugin*>(loaded.value().get()) : nullptr;
    if (unit) {
        takeStarts(*unit, order.settings, *channel);
        channel->latency = unit->latency();
    }
    const auto names = answer(socket, unit, loaded ? Error{} : loaded.error());
    if (!unit || !names) return;
    Server server(*unit, *channel, *names);
    while (auto message = receiveMessage(socket, -1)) {
        WireMessage kept;
        if (message->text() == "settings") kept.put(server.settings());
        if (!sendMessage(socket, kept)) break;
    }
    // The other side is gone. What hangs now, hangs in the plug-in.
    constexpr unsigned patience = 3; // seconds
    alarm(patience);
}

} // namespace cobbleway
