#include "sound/remoteplugin.h"

#include "sound/pluginwire.h"
#include "words/message.h"

#include <algorithm>
#include <bit>
#include <cerrno>
#include <chrono>
#include <cmath>
#include <csignal>
#include <sched.h>
#include <sys/mman.h>
#include <sys/socket.h>
#include <unistd.h>

namespace cobbleway {
namespace {

using Clock = std::chrono::steady_clock;

double secondsSince(Clock::time_point start) {
    return std::chrono::duration<double>(Clock::now() - start).count();
}

/// What another process wrote may be anything; a plug-in's own sound is held within this in its process.
float soundOf(float value) { return std::abs(value) <= 10 ? value : 0; }

} // namespace

RemotePlugin::RemotePlugin(UnitChannel* channel, int socket, const PluginOrder& order)
    : m_channel(channel), m_socket(socket), m_order(order) {
    m_events.reserve(UnitChannel::mostEvents);
}

RemotePlugin::~RemotePlugin() {
    close(m_socket); // its process ends then
    if (fault() == PluginFault::Ended && m_process > 0) kill(m_process, SIGKILL);
    munmap(m_channel, sizeof(UnitChannel));
}

Result<std::unique_ptr<PluginUnit>> RemotePlugin::load(int memory, int socket, const PluginOrder& order) {
    UnitChannel* const channel = UnitChannel::map(memory);
    if (!channel) {
        close(socket);
        return Error{{"error.plugin-process"}, order.uri, {"now.plugin-process"}};
    }
    auto unit = std::unique_ptr<RemotePlugin>(new RemotePlugin(channel, socket, order));
    WireMessage wanted;
    wanted.put(order.uri);
    wanted.put(order.settings);
    wanted.put(static_cast<std::uint32_t>(order.rate));
    wanted.put(static_cast<std::uint32_t>(order.offline));
    constexpr double longest = 120; // seconds: samplers read their samples, and the computer may be busy
    auto answer = sendMessage(socket, wanted) ? receiveMessage(socket, longest) : std::nullopt;
    if (!answer) return Error{{"error.plugin-ended-loading"}, order.uri, {"now.install-plugin"}};
    if (const std::string refused = answer->text(); !refused.empty())
        return Error{fromLine(refused), order.uri, {"now.install-plugin"}};
    if (!unit->takeFace(*answer))
        return Error{{"error.plugin-ended-loading"}, order.uri, {"now.install-plugin"}};
    return std::unique_ptr<PluginUnit>(std::move(unit));
}

bool RemotePlugin::takeFace(WireMessage& answer) {
    m_process = static_cast<int>(answer.number());
    m_isEffect = answer.number() != 0;
    const std::uint32_t count = answer.number();
    for (std::uint32_t i = 0; i < std::min<std::uint32_t>(count, UnitChannel::mostControls); ++i) {
        const std::string symbol = answer.text();
        m_controls.emplace_back(symbol, answer.value());
        m_numbers[m_controls.back().symbol] = i;
    }
    if (!answer.good()) return false;
    setControls(m_order.settings);
    return true;
}

void RemotePlugin::event(std::uint8_t status, std::uint8_t data1, std::uint8_t data2) {
    if (m_events.size() < UnitChannel::mostEvents) m_events.push_back({status, data1, data2});
}

void RemotePlugin::setTime(const MusicTime& time, int offset) {
    if (offset == 0) m_timeCount = 0;
    if (m_timeCount < m_times.size()) m_times[m_timeCount++] = {time, offset};
}

void RemotePlugin::run(float* left, float* right, int frames) {
    for (int at = 0; at < frames; at += maxFrames)
        runPiece(left + at, right + at, std::min(frames - at, maxFrames));
}

void RemotePlugin::runPiece(float* left, float* right, int frames) {
    if (fault() == PluginFault::Ended || !isIdle()) return passOver(left, right, frames);
    m_channel->frames = static_cast<std::uint32_t>(frames);
    m_channel->eventCount = static_cast<std::uint32_t>(m_events.size());
    std::copy(m_events.begin(), m_events.end(), m_channel->events.begin());
    m_events.clear();
    m_channel->timeCount = std::exchange(m_timeCount, 0);
    std::copy_n(m_times.begin(), m_channel->timeCount, m_channel->times.begin());
    if (m_isEffect) {
        std::copy_n(left, frames, m_channel->left.begin());
        std::copy_n(right, frames, m_channel->right.begin());
    }
    m_channel->processor = sched_getcpu();
    m_channel->asked.set(++m_asked);
    if (!await()) return passOver(left, right, frames);
    m_lateFor = 0;
    for (int f = 0; f < frames; ++f) {
        const auto i = static_cast<std::size_t>(f);
        m_lastLeft = soundOf(m_channel->left[i]);
        m_lastRight = soundOf(m_channel->right[i]);
        left[f] = m_isEffect ? m_lastLeft : left[f] + m_lastLeft;
        right[f] = m_isEffect ? m_lastRight : right[f] + m_lastRight;
    }
    const auto found = static_cast<PluginFault>(std::min<std::uint8_t>(
        m_channel->fault.load(std::memory_order_relaxed), static_cast<std::uint8_t>(PluginFault::NoSound)));
    note(found);
}

/// A run that gives nothing: an instrument fades from what it gave last, an effect to what goes in.
void RemotePlugin::passOver(float* left, float* right, int frames) {
    if (fault() != PluginFault::Ended) {
        note(PluginFault::Late);
        m_lateFor += static_cast<double>(frames) / m_order.rate;
        if (m_lateFor > patience || hasEnded()) note(PluginFault::Ended);
    }
    for (int f = 0; f < frames && (m_lastLeft != 0 || m_lastRight != 0); ++f) {
        const float rest = 1 - static_cast<float>(f + 1) / static_cast<float>(frames);
        const float own = m_isEffect ? 1 - rest : 1;
        left[f] = left[f] * own + m_lastLeft * rest;
        right[f] = right[f] * own + m_lastRight * rest;
    }
    m_lastLeft = m_lastRight = 0;
}

bool RemotePlugin::await() {
    constexpr double slice = 0.002, offlineSlice = 0.1, offlinePatience = 120; // seconds
    const auto start = Clock::now();
    const double most = m_order.offline ? offlinePatience : deadline;
    while (!isIdle()) {
        m_channel->done.wait(m_asked - 1, m_order.offline ? offlineSlice : slice);
        if (isIdle()) break;
        if (hasEnded() || (m_order.offline && secondsSince(start) > most)) note(PluginFault::Ended);
        if (fault() == PluginFault::Ended || secondsSince(start) > most) return false;
    }
    return true;
}

/// Whether nobody is at the other end of the socket any more.
bool RemotePlugin::hasEnded() const {
    char any = 0;
    const ssize_t got = recv(m_socket, &any, 1, MSG_PEEK | MSG_DONTWAIT);
    return got == 0 || (got < 0 && errno != EAGAIN && errno != EWOULDBLOCK && errno != EINTR);
}

void RemotePlugin::note(PluginFault found) {
    if (found > m_fault.load(std::memory_order_relaxed)) m_fault.store(found, std::memory_order_relaxed);
}

void RemotePlugin::setControl(const std::string& symbol, float value) {
    if (const auto at = m_numbers.find(symbol); at != m_numbers.end()) set(at->second, value);
}

/// What is set anew to the same is left alone: it may have been turned in the plug-in's window meanwhile.
void RemotePlugin::set(std::size_t control, float value) {
    const float last = m_controls[control].last.exchange(value);
    if (std::bit_cast<std::uint32_t>(last) != std::bit_cast<std::uint32_t>(value))
        m_channel->wanted[control].store(value, std::memory_order_relaxed);
}

void RemotePlugin::setControls(const PluginSettings& settings) {
    for (std::size_t i = 0; i < m_controls.size(); ++i) {
        const auto at = settings.controls.find(m_controls[i].symbol);
        set(i, at == settings.controls.end() ? m_controls[i].start : at->second);
    }
}

int RemotePlugin::latency() const { return std::max(0, m_channel->latency.load(std::memory_order_relaxed)); }

PluginFault RemotePlugin::fault() const { return m_fault.load(std::memory_order_relaxed); }

PluginSettings RemotePlugin::settings() const {
    constexpr double longest = 20; // seconds
    const std::lock_guard hold(m_asking);
    WireMessage wanted;
    wanted.put(std::string("settings"));
    auto answer = sendMessage(m_socket, wanted) ? receiveMessage(m_socket, longest) : std::nullopt;
    PluginSettings settings = answer ? answer->settings() : m_order.settings;
    return answer && !answer->good() ? m_order.settings : settings;
}

Result<bool> RemotePlugin::showWindow(const std::string& title) {
    constexpr double longest = 20; // seconds
    const std::lock_guard hold(m_asking);
    WireMessage wanted;
    wanted.put(std::string("window"));
    wanted.put(title);
    auto answer = sendMessage(m_socket, wanted) ? receiveMessage(m_socket, longest) : std::nullopt;
    if (!answer) return Error{{"error.plugin-window-ended"}, {}, {"now.plugin-window"}};
    if (const std::string refused = answer->text(); !refused.empty())
        return Error{fromLine(refused), {}, {"now.plugin-window"}};
    return true;
}

void RemotePlugin::closeWindow() {
    constexpr double longest = 5; // seconds
    const std::lock_guard hold(m_asking);
    WireMessage wanted;
    wanted.put(std::string("close"));
    if (sendMessage(m_socket, wanted)) (void)receiveMessage(m_socket, longest);
}

WindowNews RemotePlugin::windowNews() {
    WindowNews news;
    news.open = m_channel->windowOpen.load() != 0 && !hasEnded();
    if (const std::uint32_t turned = m_channel->turned.load(); std::exchange(m_turned, turned) != turned)
        for (std::size_t i = 0; i < m_controls.size(); ++i) {
            const float now = m_channel->wanted[i].load(std::memory_order_relaxed);
            const float last = m_controls[i].last.exchange(now);
            if (last != now && !std::isnan(now)) news.turned.emplace_back(m_controls[i].symbol, now);
        }
    const std::uint32_t changed = m_channel->changed.load();
    news.changed = std::exchange(m_changed, changed) != changed;
    for (std::size_t key = 0; key < m_keys.size(); ++key)
        if (const std::uint32_t now = m_channel->keys[key].load(); std::exchange(m_keys[key], now) != now)
            news.keys.push_back(static_cast<WindowKey>(key));
    return news;
}

} // namespace cobbleway
